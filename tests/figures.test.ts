// Figures in a built shot: what they cast falls on the plate and not on what stands before it, from within groups too, where
// their slips say; what they are cut to goes along with them.
import { describe, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { writePng } from '../core/formats/png/png'
import { sentenceAt } from '../core/declare/values'
import { layerKindOf } from '../core/layer/registry'
import { project } from '../core/match/project'
import { newTreatment, type FigureLayer, type ShotDocument } from '../core/shot/document'
import { bringFigure } from '../core/shot/figures'
import { groupTogether } from '../core/shot/layers'
import { addRow } from '../core/shot/rows'
import { settingsOfCamera, sightOf } from '../core/shot/scene'
import { slipOf, valuedTerm } from '../core/shot/slip'
import { shapeOf } from '../core/shot/drawn'
import type { Vector3 } from '../core/scene/vector'
import { documentFaults } from '../shared/validate'
import { camera, changed, HEIGHT, keep, load, two, WIDTH } from './buildShot'

const GREEN = [20, 200, 40, 255]
const picture = () => ({
  blob: keep(writePng({ width: 40, height: 100, channels: 4, maximum: 255, data: Uint8Array.from(Array(4000).fill(GREEN).flat() as number[]) })), // prettier-ignore
  ...{ name: 'green.png', encoding: 'srgb', alpha: 'straight' as const, width: 40, height: 100 },
})
/** Someone behind the near ball, the sun behind them: their shadow falls toward the camera. */
const shot = (change: (figure: FigureLayer, document: ShotDocument) => void = () => {}): ShotDocument =>
  changed(d => {
    Object.assign(d.scene.camera, settingsOfCamera(camera))
    const figure = bringFigure(d, picture(), 1, 'figure')
    Object.assign(figure, {
      x: 0.2,
      z: -6,
      height: 1.6,
      lit: 'by hand',
      sun_heading: -8,
      sun_height: 35,
      sun_share: 0.8,
    })
    change(figure, d)
  })
async function pixels(told: ShotDocument): Promise<Float32Array> {
  expect(documentFaults(told)).toEqual([])
  const evaluator = new Evaluator(two.pool, load, 2 ** 28)
  const raster = await evaluator.evaluate({ document: told, frame: 1, shrink: 1, show: { kind: 'build' } })
  return two.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4).slice()
}
const indexOf = (place: Vector3): number => {
  const { u, v } = project(sightOf(shot(), 1).camera(), WIDTH / HEIGHT, place)
  return Math.floor(v * HEIGHT) * WIDTH + Math.floor(u * WIDTH)
}
const greenAt = (data: Float32Array, place: Vector3): number => data[indexOf(place) * 4 + 1]!
/** On the ground, in the shadow: 1.2 m before the foot and a little aside. */
const SHADED: Vector3 = [0.2 + 1.2 * Math.tan((8 * Math.PI) / 180), 0, -4.8]

describe('its shadow', () => {
  it('leaves a fifth of the light where all but a fifth comes from the sun behind it', async () => {
    const none = await pixels(shot(figure => (figure.shadow = 0)))
    const data = await pixels(shot())
    expect(greenAt(data, SHADED) / greenAt(none, SHADED)).toBeCloseTo(0.2, 2)
    // Half of it, and that in a colour
    const half = await pixels(shot(figure => Object.assign(figure, { shadow: 0.5, shade: [0, 0.5, 0] })))
    expect(greenAt(half, SHADED) / greenAt(none, SHADED)).toBeCloseTo(1 - 0.8 * 0.5 * 0.5, 2)
  })
  it('falls on nothing that stands before the ground there', async () => {
    // The near ball, a little before where the shadow would lie behind it
    const put = (shadow: number) => shot(figure => Object.assign(figure, { x: -0.9, z: -5.5, shadow }))
    const [none, data] = [await pixels(put(0)), await pixels(put(1))]
    const ball = indexOf([-0.8, 0.9, -3.4])
    expect(data.slice(ball * 4, ball * 4 + 4)).toEqual(none.slice(ball * 4, ball * 4 + 4))
    let darker = 0
    for (let i = 0; i < WIDTH * HEIGHT; i++) if (data[i * 4 + 1]! < none[i * 4 + 1]! * 0.7) darker++
    expect(darker).toBeGreaterThan(10)
  })
  it('is laid by nothing, nor said, where it stands in the scene: there it is rendered', async () => {
    const none = await pixels(shot(figure => (figure.shadow = 0)))
    const change = { world: 'scene', mirror: 1, wall: 'upright', mirror_wall: 1 }
    expect(await pixels(shot(figure => Object.assign(figure, change)))).toEqual(none)
    const said = (world: string) =>
      sentenceAt(layerKindOf('figure').sentence, layerKindOf('figure').values, {
        world,
        lit: 'by hand',
        wall: 'upright',
      })
    expect(said('picture')).toMatch(/sun_heading[^]*wall_x[^]*mirror_fade/)
    expect(said('scene')).not.toMatch(/\{(shadow|lit|sun|soft|round|shade|wall|mirror)/)
  })
  it('falls from within a group that is treated on what lies outside it', async () => {
    const none = await pixels(shot(figure => (figure.shadow = 0)))
    const grouped = shot((_, d) => {
      const group = d.build.layers[groupTogether(d, ['figure'])]!
      addRow(group.treatments, newTreatment('exposure', { stops: -2 }, 'dim'))
    })
    expect(greenAt(await pixels(grouped), SHADED) / greenAt(none, SHADED)).toBeCloseTo(0.2, 2)
  })
  it('falls only where its slip says', async () => {
    const none = await pixels(shot(figure => (figure.shadow = 0)))
    const held = (invert: boolean): ShotDocument =>
      shot(figure => {
        // All of the picture is as bright as that, or nothing is
        const term = { ...valuedTerm('brightness'), values: { low: 0, high: 1000, soft: 0 }, invert }
        figure.ground = slipOf(term as never)
      })
    expect(greenAt(await pixels(held(true)), SHADED)).toBeCloseTo(greenAt(none, SHADED), 5)
    expect(greenAt(await pixels(held(false)), SHADED)).toBeLessThan(greenAt(none, SHADED) * 0.3)
  })
  it('goes on up a wall where it meets one', async () => {
    // The wall stands across, 1.5 m behind the foot; the sun is before it, from the left, 15° high
    const put = (shadow: number) => shot(figure => Object.assign(figure, { shadow, wall: 'upright', wall_x: 0, wall_z: -7.5, wall_turn: 0, sun_heading: 220, sun_height: 15 })) // prettier-ignore
    const [none, data] = [await pixels(put(0)), await pixels(put(1))]
    // From the wall to the sun the way goes 1.5 m toward the camera, 1.5 tan 40° to the left and 1.5 / cos 40° tan 15° up
    const [aside, up] = [1.5 * Math.tan((40 * Math.PI) / 180), (1.5 / Math.cos((40 * Math.PI) / 180)) * Math.tan((15 * Math.PI) / 180)] // prettier-ignore
    const of = (height: number): Vector3 => [0.2 + aside, height - up, -7.5]
    expect(greenAt(data, of(1.1))).toBeLessThan(greenAt(none, of(1.1)) * 0.5)
    expect(greenAt(data, of(2.2))).toBeCloseTo(greenAt(none, of(2.2)), 5)
  })
})

it('what it is cut to is said of its own picture, and goes along with it', async () => {
  const cutAt = (x: number): ShotDocument =>
    shot(figure => {
      // Its upper half, in pixels of its own
      const shape = shapeOf('upper', [[0, 0], [40, 0], [40, 50], [0, 50]].map(([px, py]) => ({ at: [px!, py!] as [number, number] })), true) // prettier-ignore
      const shapes = {}
      addRow(shapes, { ...shape, id: 'upper' } as never)
      figure.matte = slipOf({ kind: 'shape', shapes, join: 'also', on: true, invert: false } as never)
      Object.assign(figure, { x, shadow: 0 })
    })
  for (const x of [0.2, 1]) {
    const data = await pixels(cutAt(x))
    const isGreen = (place: Vector3): boolean => data[indexOf(place) * 4]! < 0.1 && greenAt(data, place) > 0.3
    expect(isGreen([x, 1.2, -6])).toBe(true)
    expect(isGreen([x, 0.4, -6])).toBe(false)
  }
  // Where it was there is what is there without it
  const without = await pixels(shot((_, d) => delete d.build.layers.figure))
  expect(greenAt(await pixels(cutAt(1)), [0.2, 1.2, -6])).toBe(greenAt(without, [0.2, 1.2, -6]))
})
