// Elements as things of a shot: copies that differ, brought in, made of what stands flat, parted.
import { describe, expect, it } from 'vitest'
import { documentFaults } from '../../shared/validate'
import { copiesOf } from '../layer/elementCopies'
import { ELEMENT_VALUES, type ElementValues } from '../layer/elementValues'
import { layerKindOf } from '../layer/registry'
import { metresTo } from '../layer/card'
import { firstValues } from '../declare/values'
import { project } from '../match/project'
import { newDocument, type ElementLayer, type PictureReference, type ShotDocument } from './document'
import { bringLayer } from './bring'
import { bringElement, makeElement, partElement } from './elements'
import { addLayer, bringTo, makeLayer } from './layers'
import { inOrder } from './rows'
import { sightOf } from './scene'
import { setLayerOnPoint } from './track'
import { plainTiming } from '../time/retime'

const rate = { numerator: 24, denominator: 1 }
const picture = (more: Partial<PictureReference> = {}): PictureReference => ({
  ...{ blob: 'a'.repeat(64), name: 'smoke.mp4', encoding: 'srgb', alpha: 'none', width: 40, height: 20 },
  clip: { count: 48, rate, timing: plainTiming(48), pixelAspect: { numerator: 1, denominator: 1 }, first: 0, gaps: 0 },
  ...more,
})
const values = (change: Partial<ElementValues>): ElementValues =>
  ({ ...(firstValues(ELEMENT_VALUES) as unknown as ElementValues), ...change }) as ElementValues
const shot = (): ShotDocument => newDocument(300, 200)

describe('copies', () => {
  const many = values({
    ...{ copies: 60, spread: 'in a region', wide: 8, tall: 4, deep: 10, x: 1, y: 2, z: -20 },
    ...{ turns: 30, sizes: 0.4, mirrored: 0.5, offsets: 24, speeds: 0.2, size: 2 },
  })
  it('are the same each time, others by another seed, and no two alike', () => {
    const first = copiesOf(many, 10, 1)
    expect(copiesOf(many, 10, 1)).toEqual(first)
    expect(copiesOf({ ...many, seed: 2 }, 10, 1)).not.toEqual(first)
    for (const told of ['turn', 'size', 'plays', 'seed'] as const)
      expect(new Set(first.map(copy => copy[told].toFixed(6))).size).toBe(60)
    expect(new Set(first.map(({ at }) => at.join())).size).toBe(60)
    // Of clips that go on for two seconds hardly any two show the same frame
    expect(new Set(first.map(({ plays }) => Math.floor(plays))).size).toBeGreaterThan(30)
  })
  it('stay within what they are said to', () => {
    for (const { at, turn, size, plays } of copiesOf(many, 31, 1)) {
      expect(Math.abs(at[0] - 1)).toBeLessThanOrEqual(4)
      expect(Math.abs(at[1] - 2)).toBeLessThanOrEqual(2)
      expect(Math.abs(at[2] + 20)).toBeLessThanOrEqual(5)
      expect(Math.abs(turn)).toBeLessThanOrEqual(30)
      expect(size).toBeGreaterThanOrEqual(1.2)
      expect(size).toBeLessThanOrEqual(2.8)
      // 30 frames on, at 0.8 to 1.2 of the speed, up to 24 ahead or behind
      expect(plays).toBeGreaterThanOrEqual(30 * 0.8 - 24)
      expect(plays).toBeLessThanOrEqual(30 * 1.2 + 24)
    }
    const turned = copiesOf(many, 1, 1).filter(({ mirrored }) => mirrored).length
    expect(turned).toBeGreaterThan(15)
    expect(turned).toBeLessThan(45)
  })
  it('fill a region evenly: each eighth of it has its share', () => {
    const counts = Array<number>(8).fill(0)
    for (const { at } of copiesOf({ ...many, copies: 200 }, 1, 1))
      counts[(at[0] > 1 ? 1 : 0) + (at[1] > 2 ? 2 : 0) + (at[2] > -20 ? 4 : 0)]!++
    for (const count of counts) expect(Math.abs(count - 25)).toBeLessThan(8)
  })
  it('stand along a line in their order from its beginning to its end', () => {
    const line = copiesOf(values({ copies: 12, spread: 'along a line', end_x: 22, end_y: 3, end_z: -30 }), 1, 1)
    const along = line.map(({ at }) => at[0] / 22)
    expect([...along].sort((a, b) => a - b)).toEqual(along)
    expect(along[0]).toBeLessThan(0.05)
    expect(along.at(-1)).toBeGreaterThan(0.95)
    for (const { at } of line) expect(at[1]).toBeCloseTo(1 + (2 * at[0]) / 22, 6)
  })
  it('flicker about what they are', () => {
    const bright = Array.from({ length: 400 }, (_, frame) => copiesOf(values({ flicker: 0.4 }), frame, 1)[0]!.bright)
    expect(Math.min(...bright)).toBeGreaterThanOrEqual(0.6)
    expect(Math.max(...bright)).toBeLessThanOrEqual(1.4)
    expect(bright.reduce((a, b) => a + b) / 400).toBeCloseTo(1, 1)
    expect(Math.max(...bright) - Math.min(...bright)).toBeGreaterThan(0.5)
  })
})

describe('in a shot', () => {
  it('one that is brought in stands in the middle, screened where it has no alpha, and goes on when it ends', () => {
    const document = shot()
    const made = bringElement(document, picture(), 5)
    const clear = bringElement(document, picture({ alpha: 'straight', name: 'gulls.mov' }), 5)
    expect(documentFaults(document)).toEqual([])
    expect(made).toMatchObject({ name: 'smoke', mode: 'screen', taken: 'on black' })
    expect(made.picture.clip!.timing).toMatchObject({ start: 5, ends: 'loop' })
    expect(clear).toMatchObject({ name: 'gulls', mode: 'over', taken: 'with alpha' })
    const { camera } = sightOf(document, 5)
    const { u, v, metres } = project(camera(), 1.5, [made.x, made.y, made.z] as [number, number, number])
    expect([u, v, metres].map(value => Number(value.toFixed(4)))).toEqual([0.5, 0.5, 8])
  })
  it('what stood flat is seen where it was and as large', () => {
    const document = shot()
    const flat = bringLayer(document, picture({ clip: undefined }), 1, 'smoke', 12)
    Object.assign(flat, { x: 80, y: 150, scale: 1.5, rotation: 20, opacity: 0.4, note: 'thinner' })
    makeElement(document, 'smoke', 1)
    expect(documentFaults(document)).toEqual([])
    const made = document.build.layers.smoke as ElementLayer
    expect(made).toMatchObject({ kind: 'element', opacity: 0.4, note: 'thinner', turn: 20, mode: 'screen' })
    const camera = sightOf(document, 1).camera()
    const at = [made.x, made.y, made.z] as [number, number, number]
    const { u, v, metres } = project(camera, 1.5, at)
    expect(metres).toBeCloseTo(12, 3)
    expect(u * 300).toBeCloseTo(80, 2)
    expect(v * 200).toBeCloseTo(150, 2)
    // The camera is level: so tall it reaches 15 pixels up from its middle
    const top = project(camera, 1.5, [at[0], at[1] + (made.size as number) / 2, at[2]])
    expect((v - top.v) * 200).toBeCloseTo(15, 2)
  })
  it('is brought to another distance where it is seen, or along the ground', () => {
    const document = shot()
    const made = bringElement(document, picture(), 1)
    const { u, v } = project(sightOf(document, 1).camera(), 1.5, [made.x, made.y, made.z] as [number, number, number])
    bringTo(made, 30, sightOf(document, 1))
    const seen = project(sightOf(document, 1).camera(), 1.5, [made.x, made.y, made.z] as [number, number, number])
    expect([seen.u - u, seen.v - v, seen.metres - 30].every(off => Math.abs(off) < 1e-4)).toBe(true)
    Object.assign(made, { spread: 'on the ground', y: 0.2 })
    bringTo(made, 12, sightOf(document, 1))
    expect(made.y).toBe(0.2)
    expect(metresTo(sightOf(document, 1).camera(), [made.x, 0.2, made.z] as [number, number, number])).toBeCloseTo(
      12,
      3,
    )
  })
  it('is set on a point of the track as it stands in the world', () => {
    const document = shot()
    const made = bringElement(document, picture(), 1)
    setLayerOnPoint(document, made, [1.25, 3.5, -17], 1)
    expect([made.x, made.y, made.z]).toEqual([1.25, 3.5, -17])
  })
  it('parted, each copy is a layer where it was, at the frame of its clip that it showed', () => {
    const document = shot()
    const made = bringElement(document, picture(), 3, 'smoke')
    Object.assign(made, {
      ...{ copies: 5, spread: 'on the ground', wide: 4, deep: 6, y: 0, seed: 7, offset: 2 },
      ...{ turns: 10, sizes: 0.3, mirrored: 0.5, offsets: 20, speeds: 0.3, flicker: 0.3 },
    })
    const at = (frame: number) =>
      copiesOf(values(made as unknown as Partial<ElementValues>), frame, 3).map(copy => ({ ...copy }))
    const before = [9, 20].map(at)
    const group = partElement(document, 'smoke', 9)
    expect(documentFaults(document)).toEqual([])
    const parts = inOrder(document.build.layers).filter((layer): layer is ElementLayer => layer.kind === 'element')
    expect(parts).toHaveLength(5)
    expect(parts.every(({ within }) => within === group)).toBe(true)
    for (const [k, frame] of [9, 20].entries()) {
      const after = parts.map(part => copiesOf(values(part as unknown as Partial<ElementValues>), frame, 3)[0]!)
      for (const { at, plays, ...rest } of before[k]!) {
        const same = after.find(copy => copy.seed === rest.seed)!
        for (const axis of [0, 1, 2]) expect(same.at[axis]).toBeCloseTo(at[axis]!, 3)
        expect(same.plays).toBeCloseTo(plays, 3)
        expect(same.mirrored).toBe(rest.mirrored)
        expect(same.turn).toBeCloseTo(rest.turn, 3)
        expect(same.bright).toBeCloseTo(rest.bright, 6)
      }
    }
  })
})

describe('its handles', () => {
  const { camera } = sightOf(shot(), 1)
  const frame = { width: 300, height: 200 }
  const own = { width: 40, height: 20, pixelAspect: 1 }
  const { handles } = layerKindOf('element')
  const grips = (told: ElementValues) => handles!(told as never, { camera: camera(), frame, picture: own })!
  const brought = (told: ElementValues, grip: string, by: readonly [number, number]): ElementValues => {
    const found = grips(told)
    const { at } = found.grips.find(({ id }) => id === grip)!
    return { ...told, ...found.moved(grip, [at[0] + by[0], at[1] + by[1]]) } as ElementValues
  }
  const seenAt = (told: ElementValues, grip: string) => grips(told).grips.find(({ id }) => id === grip)!.at

  it.each([
    ['in one place', ['middle', 'size']],
    ['along a line', ['middle', 'end', 'size']],
    ['in a region', ['middle', 'wide', 'tall']],
    ['on the ground', ['middle', 'wide', 'deep', 'size']],
  ] as const)('%s: each is where the hand has brought it', (spread, which) => {
    const told = values({ spread, x: 0.3, y: spread === 'on the ground' ? 0 : 1.2, z: -9, size: 1.5, end_z: -9 })
    for (const grip of which) {
      // Along its own axis where it has one
      const by: [number, number] = grip === 'wide' ? [11, 0] : grip === 'middle' || grip === 'end' ? [9, 4] : [0, -6]
      const [from, to] = [seenAt(told, grip), seenAt(brought(told, grip, by), grip)]
      if (grip === 'deep') expect(to[1] - from[1]).toBeCloseTo(by[1], 0)
      else
        expect([to[0] - from[0], to[1] - from[1]].map((off, i) => Math.abs(off - by[i]!) < 0.1)).toEqual([true, true])
    }
  })
  it('it is turned about its middle, and about its foot on the ground', () => {
    for (const spread of ['in one place', 'on the ground'] as const) {
      const told = values({ spread, x: 0, y: 0, z: -9, size: 1.5, turn: 10 })
      expect(brought(told, 'turn', [0, 0]).turn).toBeCloseTo(10, 6)
      expect(brought(told, 'turn', [0, 5]).turn).toBeGreaterThan(12)
    }
  })
  it('has none behind the camera', () => {
    expect(handles!(values({ z: 5 }) as never, { camera: camera(), frame, picture: own })).toBeUndefined()
  })
})

it('a new element of a kind is valid with the least that it needs', () => {
  const document = shot()
  addLayer(document, makeLayer('element', { picture: picture() }))
  expect(documentFaults(document)).toEqual([])
})
