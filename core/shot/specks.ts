// Kinds of specks, as a new layer of them begins. Sizes and speeds of drops: R. Gunn, G. Kinzer, J. Meteorology 6 (1949)
// (from memory: 2 mm 6.5 m/s, 0.5 mm 2 m/s); flakes of snow sink at about 1 m/s (common practice, no source).
import type { SpecksValues } from '../layer/specksValues'

/** Of what is lit by the scene, and soft where a lens would have it so. */
const LIT = { lit: 1, blurred: 'as by a lens', sharp_at: 8, stop: 2.8 } as const
export const SPECK_KINDS = {
  rain: {
    ...LIT,
    ...{ density: 25, near: 0.6, far: 13, size: 2, sizes: 0.4, long: 1, soft: 0.4, turning: 0, glitter: 0, sway: 0 },
    ...{ fall: 6.5, speeds: 0.15, hides: 0.25, colour: [0.75, 0.8, 0.85], other: [0.75, 0.8, 0.85] },
  },
  drizzle: {
    ...LIT,
    ...{ density: 90, near: 0.4, far: 8, size: 0.45, sizes: 0.4, long: 1, soft: 0.5, turning: 0, glitter: 0 },
    ...{ sway: 0.02, sway_seconds: 1.5, fall: 1.9, speeds: 0.2, hides: 0.3 },
    ...{ colour: [0.8, 0.84, 0.88], other: [0.8, 0.84, 0.88] },
  },
  snow: {
    ...LIT,
    ...{ density: 9, near: 0.5, far: 18, size: 6, sizes: 0.6, long: 1.2, soft: 0.6, turning: 0.4, glitter: 0.1 },
    ...{ sway: 0.12, sway_seconds: 2.4, fall: 1, speeds: 0.3, hides: 0.9 },
    ...{ colour: [0.85, 0.88, 0.92], other: [0.95, 0.95, 0.95] },
  },
  dust: {
    ...LIT,
    ...{ density: 60, near: 0.3, far: 8, size: 0.6, sizes: 0.7, long: 1, soft: 1, turning: 0.1, glitter: 0.6 },
    ...{ sway: 0.06, sway_seconds: 6, fall: 0.02, speeds: 0.5, hides: 0.1 },
    ...{ colour: [0.9, 0.86, 0.78], other: [0.8, 0.8, 0.8] },
  },
  flecks: {
    ...LIT,
    ...{ density: 2, near: 0.5, far: 18, size: 7, sizes: 0.7, long: 1.8, soft: 0.15, turning: 1.2, glitter: 0.2 },
    ...{ sway: 0.2, sway_seconds: 2, fall: 0.5, speeds: 0.5, hides: 1 },
    ...{ colour: [0.06, 0.055, 0.05], other: [0.3, 0.28, 0.25] },
  },
  sparks: {
    ...{ ...LIT, lit: 0 },
    ...{ density: 5, near: 0.5, far: 20, size: 3, sizes: 0.7, long: 1, soft: 0.5, turning: 0.5, glitter: 0.9 },
    ...{ sway: 0.25, sway_seconds: 1.2, fall: -1.6, speeds: 0.5, hides: 0 },
    ...{ colour: [9, 3.2, 0.6], other: [5, 0.9, 0.08] },
  },
} satisfies Record<string, Partial<SpecksValues>>
export type SpeckKind = keyof typeof SPECK_KINDS
/** Of specks of a kind: values that take the place of a layer's own. */
export const speckValues = (kind: SpeckKind): Record<string, unknown> => structuredClone(SPECK_KINDS[kind])
