// White furnace: a white thing in even white light cannot be seen, for it sends back all that it gets (conservation of
// energy). Every combination of lobes, at every roughness, as a sheet and as a body, within 1 % and never above by more
// than half a per cent, after 64 bounces.
import { expect, it } from 'vitest'
import { beautyOf } from '../../core/render/planes'
import type { Material, Part } from '../../core/scene/scene'
import { rotationFromDegrees } from '../../core/scene/vector'
import { ball, constantEnvironment, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

/** What comes back of the light, over the pixels that the thing covers. */
function furnace(part: Part, own: Material, angle: number, maxBounces: number): number {
  const passes = renderScene(
    scene([object('thing', part, { matrix: rotationFromDegrees(angle, 0, 0) })], {
      materials: [own],
      environment: constantEnvironment(),
    }),
    {
      camera: lookAt([0, 0, 40], [0, 0, 0], 680),
      samples: 192,
      passes: ['beauty', 'alpha'],
      maxBounces,
      width: 12,
      height: 12,
    },
  )
  return mean(beautyOf(passes), 3) / mean(passes.alpha, 1)
}
const round = ball([0, 0, 0], 1, 96)
/** Where the border of a body is bent, shading and true normals differ, and a direction between them is lost. */
const { normals: _, ...faceted } = ball([0, 0, 0], 1, 24)
const flat = quad([-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0])
const ROUGHNESSES = [0, 0.05, 0.15, 0.3, 0.5, 0.75, 1]

const MATERIALS: [string, Partial<Material>][] = [
  ...[0, 0.5, 1].flatMap(metallic =>
    [
      undefined,
      { strength: 1, roughness: 0 },
      { strength: 1, roughness: 0.4 },
      { strength: 0.5, roughness: 1 },
    ].flatMap(coat =>
      [undefined, 0.5].map((cloth): [string, Partial<Material>] => [
        `metallic ${metallic}, coat ${coat ? `${coat.strength} of roughness ${coat.roughness}` : 'none'}, sheen ${cloth ?? 'none'}`,
        { metallic, coat, ...(cloth && { sheen: { colour: [1, 1, 1], roughness: cloth } }) },
      ]),
    ),
  ),
  ...[1.05, 2.4].map((ior): [string, Partial<Material>] => [`index ${ior}`, { ior }]),
  ['specular 0.5', { specular: { strength: 0.5, colour: [1, 1, 1] } }],
]
const GLASSES: [string, Partial<Material>][] = [1.1, 1.5, 2.4].flatMap(ior =>
  [0.2, 0.5, 1].flatMap(transmission =>
    (ior === 1.5 ? [0, 0.5] : [0]).map((metallic): [string, Partial<Material>] => [
      `index ${ior}, ${transmission} through, metallic ${metallic}`,
      { ior, transmission, metallic },
    ]),
  ),
)

/** The combinations that send back too little or too much. */
function wrong(part: Part, change: Partial<Material>, { angles = [0], bounces = 64 } = {}): string[] {
  return ROUGHNESSES.flatMap(roughness =>
    angles.flatMap(angle => {
      const back = furnace(part, material({ roughness, ...change }), angle, bounces)
      return back > 0.99 && back < 1.005 ? [] : [`roughness ${roughness} at ${angle} degrees: ${back.toFixed(4)}`]
    }),
  )
}
it.each(MATERIALS)('a body, %s', (_label, change) => expect(wrong(round, change)).toEqual([]))
// At an index of 2.4 most of the light within is mirrored whole at every bounce: a thirtieth of it is still in there
// after 64, and comes out later
it.each(GLASSES)('a body of glass, %s', (_label, change) =>
  expect(
    wrong(
      faceted,
      { ...change, solid: { absorption: [0, 0, 0] }, doubleSided: false },
      { bounces: change.ior === 2.4 ? 1000 : 64 },
    ),
  ).toEqual([]),
)
it.each(GLASSES)('a sheet of glass, %s', (_label, change) =>
  expect(wrong(flat, change, { angles: [0, 60] })).toEqual([]),
)
