// What a frame is drawn round, by where a pinhole shows three balls: a place x beside the middle at a distance z is seen
// f x / z beside it.
import { describe, expect, it } from 'vitest'
import { namesWithin } from '../../core/compose/probe'
import { passesToExr } from '../../core/render/passfile'
import { readPassFile } from '../../core/render/openpasses'
import { ball, lookAt, object, renderScene, scene } from '../scenes'

const SIZE = 48
const FOCAL = 40
const DISTANCE = 8
const RADIUS = 0.5
const across = (x: number): number => 0.5 + ((FOCAL / 36) * x) / DISTANCE
/** A ball is seen a little larger than its radius at its middle. */
const reach = (FOCAL / 36) * (RADIUS / Math.sqrt(DISTANCE ** 2 - RADIUS ** 2)) + 0.5 / SIZE
const round = (from: number, to: number, more = 0) => ({
  left: across(from) - reach - more,
  right: across(to) + reach + more,
  top: 0.5 - reach - more,
  bottom: 0.5 + reach + more,
})

describe('a frame names what lies in it', async () => {
  const places = { left: -1.8, middle: 0, right: 1.8 }
  const names = Object.keys(places)
  const passes = renderScene(scene(Object.entries(places).map(([name, x]) => object(name, ball([x, 0, 0], RADIUS)))), {
    camera: lookAt([0, 0, DISTANCE], [0, 0, 0], FOCAL),
    width: SIZE,
    height: SIZE,
    samples: 16,
    passes: ['crypto_object'],
  })
  const bytes = passesToExr(passes, { passes: ['crypto_object'], objectNames: names, materialNames: ['grey'] })
  const file = await readPassFile(bytes)
  const within = (part: ReturnType<typeof round>): string[] => namesWithin(file, 'objects', 'straight', part).sort()

  it('wholly, one or more', () => {
    expect(within(round(-1.8, -1.8))).toEqual(['left'])
    expect(within(round(0, 0))).toEqual(['middle'])
    expect(within(round(0, 1.8))).toEqual(['middle', 'right'])
    expect(within({ left: 0, top: 0, right: 1, bottom: 1 })).toEqual(['left', 'middle', 'right'])
  })
  it('not what it cuts through, and nothing where nothing is', () => {
    const half = round(-1.8, 0)
    expect(within({ ...half, right: across(0) })).toEqual(['left'])
    expect(within({ ...half, bottom: 0.5 })).toEqual([])
    expect(within({ left: 0, top: 0, right: 1, bottom: 0.1 })).toEqual([])
    // Nothing is mirrored here
    expect(namesWithin(file, 'objects', 'mirrored', { left: 0, top: 0, right: 1, bottom: 1 })).toEqual([])
  })
})
