// What is done to figures: stood up, brought nearer, measured, held against the horizon.
import { expect, it } from 'vitest'
import { documentFaults } from '../../shared/validate'
import { touching } from '../measure/contact'
import { project } from '../match/project'
import { newDocument, type FigureLayer, type PictureLayer, type ShotDocument } from './document'
import { bringLayer } from './bring'
import { bringFigure, headsOff, onFrame, standUp, takeTouching } from './figures'
import { bringTo, makeLayer, moveLayer } from './layers'
import { shapeOf } from './drawn'
import { addRow, inOrder } from './rows'
import { slipOf } from './slip'
import { setFrame } from './values'
import { sightOf } from './scene'
import { farToNear, standsAt } from './tree'

const picture = { blob: 'a'.repeat(64), name: 'someone.png', encoding: 'srgb', alpha: 'straight', width: 100, height: 300 } as const // prettier-ignore
function shot(): ShotDocument {
  const document = newDocument(1200, 800)
  Object.assign(document.scene.camera, { x: 1, y: 1.6, z: 2, heading: 20, pitch: -6, bank: 0.5 })
  return document
}
const metres = (document: ShotDocument, layer: FigureLayer): number => standsAt(layer, sightOf(document, 1)) as number
/** Where its foot is seen, pixels of the frame. */
function footOf(document: ShotDocument, { x, level, z }: FigureLayer): [number, number] {
  const { u, v } = project(sightOf(document, 1).camera(), 1.5, [x, level, z] as [number, number, number])
  return [u * 1200, v * 800]
}

it('a picture stands where the lower middle of the frame shows the ground, and its distance is that of its foot', () => {
  const document = shot()
  const figure = bringFigure(document, picture, 1)
  expect(documentFaults(document)).toEqual([])
  const [x, y] = footOf(document, figure)
  expect(x).toBeCloseTo(600, 0)
  expect(y).toBeCloseTo(640, 0)
  // 1.6 m over the ground, so far below the axis: 1.6 / (tan of the angle)
  const camera = sightOf(document, 1).camera()
  expect(metres(document, figure)).toBeCloseTo(project(camera, 1.5, [figure.x, 0, figure.z] as never).metres, 9)
})

it('where no ground is seen it stands before the camera', () => {
  const document = shot()
  document.scene.camera.pitch = 80
  const figure = bringFigure(document, picture, 1)
  expect(Number.isFinite(figure.x)).toBe(true)
  expect(documentFaults(document)).toEqual([])
})

it('a flat layer stood up keeps its picture, lines and place in the recipe, its foot where its lower edge was', () => {
  const document = shot()
  const flat = bringLayer(document, picture, 1, 'someone')
  Object.assign(flat, { x: 500, y: 500, scale: 1, opacity: 0.7, note: 'left' })
  standUp(document, 'someone', 1)
  const figure = document.build.layers.someone as FigureLayer
  expect(documentFaults(document)).toEqual([])
  expect(figure).toMatchObject({ kind: 'figure', opacity: 0.7, note: 'left', order: (flat as PictureLayer & { order: string }).order }) // prettier-ignore
  const [x, y] = footOf(document, figure)
  expect(x).toBeCloseTo(500, 0)
  expect(y).toBeCloseTo(650, 0)
})

it('brought to a distance it goes along the ground away from the camera, and stays as far to the side as it is seen', () => {
  const document = shot()
  const figure = bringFigure(document, picture, 1)
  Object.assign(figure, { x: -1.2, z: -4 })
  const sideOf = (layer: FigureLayer): number => Math.atan2((layer.x as number) - 1, -((layer.z as number) - 2))
  const before = sideOf(figure)
  for (const to of [3, 9.5, 40]) {
    bringTo(figure, to, sightOf(document, 1))
    expect(metres(document, figure)).toBeCloseTo(to, 3)
    expect(sideOf(figure)).toBeCloseTo(before, 4)
    expect(figure.level).toBe(0)
  }
})

it('moved before another among the layers it comes to stand nearer than that', () => {
  const document = shot()
  const figure = bringFigure(document, picture, 1, 'someone')
  addRow(document.build.layers, { ...makeLayer('wash', { distance: 2.5 }), id: 'near' } as never)
  addRow(document.build.layers, { ...makeLayer('wash', { distance: 12 }), id: 'far' } as never)
  const order = (): string[] =>
    farToNear(inOrder(document.build.layers), sightOf(document, 1)).map(({ id }) => id).filter(id => ['near', 'far', 'someone'].includes(id)) // prettier-ignore
  expect(order()).toEqual(['far', 'someone', 'near'])
  moveLayer(document, 'someone', { beside: 'near', where: 'after' }, 1)
  expect(order()).toEqual(['far', 'near', 'someone'])
  expect(metres(document, figure)).toBeLessThan(2.5)
})

it('says where a head is off the horizon of a camera at eye height, and the height that fits', () => {
  const document = shot()
  const figure = bringFigure(document, picture, 1)
  const off = (height: number, eye: number): ReturnType<typeof headsOff> => {
    document.scene.camera.y = eye
    return headsOff({ ...figure, height }, sightOf(document, 1))
  }
  // Eyes of someone 1.75 m tall are about 1.63 m high
  expect(off(1.75, 1.63)).toBeUndefined()
  expect(off(2.3, 1.63)).toMatchObject({ fits: 1.75, words: expect.stringContaining('above') })
  expect(off(1.2, 1.63)).toMatchObject({ words: expect.stringContaining('below') })
  // From a roof heads are nowhere near the horizon
  expect(off(1.2, 9)).toBeUndefined()
})

/** Rows of # where it is covered. */
const drawn = (rows: string[]): [Float32Array, number, number] => [
  Float32Array.from(rows.join('').split(''), mark => Number(mark === '#')),
  rows[0]!.length,
  rows.length,
]
const BODY = Array.from({ length: 36 }, () => '...####...')
it.each<[string, string[], Partial<ReturnType<typeof touching>> | undefined]>([
  ['one foot in its middle', ['..........', ...BODY, '..........'], { footAcross: 0.5, footDown: 37 / 38, headDown: 1 / 38 }], // prettier-ignore
  ['two feet as low as each other', [...BODY, ...Array<string>(4).fill('..##..##..')], { footAcross: 0.5, footDown: 1, headDown: 0 }], // prettier-ignore
  ['two feet, one nearer', [...BODY, '..##..##..', '..##..##..', '......##..', '......##..'], { footAcross: 0.7, footDown: 1, second: { across: 0.3, down: 0.95 } }], // prettier-ignore
  ['nothing', ['....', '....'], undefined],
])('finds %s', (_, rows, expected) => {
  const found = touching(...drawn(rows))
  if (!expected) expect(found).toBeUndefined()
  else expect(found).toMatchObject(expected)
})

it('what is found is taken, and a document with it is whole', () => {
  const document = shot()
  const figure = bringFigure(document, picture, 1)
  takeTouching(figure, { footAcross: 0.4, footDown: 0.97, headDown: 0.02, second: { across: 0.6, down: 0.95 } })
  expect(figure).toMatchObject({ feet: 'two places', foot_down: 0.97, other_across: 0.6 })
  expect(documentFaults(document)).toEqual([])
  takeTouching(figure, { footAcross: 0.5, footDown: 1, headDown: 0 })
  expect(figure.feet).toBe('one place')
})

it('what is drawn on its picture lies on the frame where the picture is seen, mirrored or not', () => {
  const document = shot()
  const figure = bringFigure(document, picture, 1)
  Object.assign(figure, { x: 1.4, z: -5, height: 1.8, foot_across: 0.4, foot_down: 0.95, head_down: 0.05 })
  for (const facing of ['as taken', 'mirrored'] as const) {
    figure.facing = facing
    const { to, from } = onFrame(figure, document, 1)!
    const mapped = (m: readonly number[], [x, y]: readonly [number, number]): [number, number] => {
      const over = m[6]! * x + m[7]! * y + m[8]!
      return [(m[0]! * x + m[1]! * y + m[2]!) / over, (m[3]! * x + m[4]! * y + m[5]!) / over]
    }
    const at = (x: number, y: number): [number, number] => mapped(to, [x, y])
    // Its foot and its head by the camera alone
    const foot = footOf(document, figure)
    const head = footOf(document, { ...figure, level: 1.8 })
    for (const [place, seen] of [
      [at(40, 285), foot],
      [at(40, 15), head],
    ] as const) {
      // prettier-ignore
      expect(Math.abs(place[0] - seen[0])).toBeLessThan(0.01)
      expect(Math.abs(place[1] - seen[1])).toBeLessThan(0.01)
    }
    for (const [i, value] of mapped(from, at(17, 230)).entries()) expect(value).toBeCloseTo([17, 230][i]!, 6)
    expect(Math.sign(at(80, 150)[0] - at(40, 150)[0])).toBe(facing === 'mirrored' ? -1 : 1)
  }
  figure.z = 9
  expect(onFrame(figure, document, 1)).toBeUndefined()
})

it('a frame of another size leaves what is said of its own picture as it is', () => {
  const document = shot()
  const figure = bringFigure(document, picture, 1)
  const shapes = {}
  addRow(shapes, { ...shapeOf('upper', [{ at: [10, 20] }, { at: [30, 20] }, { at: [30, 60] }], true), id: 'upper' } as never) // prettier-ignore
  figure.matte = slipOf({ kind: 'shape', shapes, join: 'also', on: true, invert: false } as never)
  figure.wet = structuredClone(figure.matte)
  const before = structuredClone(figure.matte)
  setFrame(document, { width: 600, height: 400 })
  expect(figure.matte).toEqual(before)
  expect(figure.wet).not.toEqual(before)
})
