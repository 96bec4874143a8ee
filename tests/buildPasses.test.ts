// What building takes from passes: whether they still stand, what is laid on them afterwards.
import { rowsOf } from '../core/shot/rows'
import { ownRender } from '../core/shot/tree'
import { describe, expect, it } from 'vitest'
import {
  newTreatment,
  type ShotDocument,
  type LightSettings,
  type Pin,
  type TreatmentSettings,
} from '../core/shot/document'
import { sceneStamp } from '../core/shot/stamp'
import { WIDTH, HEIGHT, one, document, changed, pixels, NEAR } from './buildShot'

it('passes are out of date when what they were rendered from changes, and only then', () => {
  const stamp = sceneStamp(document)
  // A database may hand the keys back in another order
  const reversed = (value: unknown): unknown =>
    Array.isArray(value)
      ? value.map(reversed)
      : typeof value === 'object' && value !== null
        ? Object.fromEntries(
            Object.entries(value)
              .reverse()
              .map(([key, entry]) => [key, reversed(entry)]),
          )
        : value
  expect(sceneStamp(reversed(document) as ShotDocument)).toBe(stamp)
  expect(
    sceneStamp(
      changed(d => {
        d.finish = rowsOf<TreatmentSettings>([newTreatment('exposure', { stops: 1 })])
      }),
    ),
  ).toBe(stamp)
  expect(
    sceneStamp(
      changed(d => {
        d.scene.camera.y = 2
      }),
    ),
  ).not.toBe(stamp)
  expect(
    sceneStamp(
      changed(d => {
        d.passes.samples = 7
      }),
    ),
  ).not.toBe(stamp)
})

describe('what is laid on the passes afterwards', () => {
  const at = (list: Float32Array, i: number): number[] => [...list.subarray(i * 4, i * 4 + 3)]
  /** The ground beside the near ball, which takes some of its sky. */
  it('a catcher’s shadow has its own density and tint; nothing else changes', async () => {
    const plain = await pixels(document)
    const none = await pixels(
      changed(next => {
        next.scene.objects.quay = { shadowDensity: 0 }
      }),
    )
    const twice = await pixels(
      changed(next => {
        next.scene.objects.quay = { shadowDensity: 1.5 }
      }),
    )
    const blue = await pixels(
      changed(next => {
        next.scene.objects.quay = { shadowColour: [0, 0, 0.5] }
      }),
    )
    const whole = await pixels(document, one, { kind: 'plate' })
    // Where the shadow is deepest: ground alone, for without its shadow it is the plate
    const ground = Array.from({ length: whole.length / 4 }, (_, i) => i).filter(i =>
      at(none, i).every((value, c) => Math.abs(value - at(whole, i)[c]!) < 1e-5),
    )
    const shade = (i: number): number => at(plain, i)[0]! / at(whole, i)[0]!
    const i = ground.reduce((deepest, other) => (shade(other) < shade(deepest) ? other : deepest))
    const plate = at(whole, i)
    const ratio = shade(i)
    expect(ratio).toBeLessThan(0.95)
    at(none, i).forEach((value, c) => expect(value).toBeCloseTo(plate[c]!, 5))
    expect(at(twice, i)[0]! / plate[0]!).toBeCloseTo(Math.max(0, 1 + 1.5 * (ratio - 1)), 2)
    expect(at(blue, i)[0]).toBeCloseTo(at(plain, i)[0]!, 6)
    expect(at(blue, i)[2]!).toBeGreaterThan(at(plain, i)[2]!)
    const ball = NEAR()
    expect(at(twice, ball)).toEqual(at(plain, ball))
    const other = await pixels(
      changed(next => {
        next.scene.objects.near = { shadowDensity: 0 }
      }),
    )
    expect(other).toEqual(plain)
  })
  it('an object renamed since the render is found under its new name', async () => {
    const exposed = (name: string, names?: Record<string, string>) =>
      pixels(
        changed(next => {
          next.passes.file!.names = names
          ownRender(next.build.layers)!.desk.objects[name] = { exposure: 1 }
        }),
      )
    expect(await exposed('great ball', { near: 'great ball' })).toEqual(await exposed('near'))
  })
  it('trims, pins, locks and groups leave the passes current; lens, stand-ins and lamps do not', () => {
    const stamp = sceneStamp(document)
    const of = (mutate: (next: ShotDocument) => void): string => sceneStamp(changed(mutate))
    expect(
      of(next => {
        next.scene.objects.near = {
          shadowDensity: 0.5,
          shadowColour: [0, 0, 0.1],
          locked: true,
          group: 'g',
          pins: rowsOf<Pin>([{ id: 'p', local: [0, 0, 0], pixel: [1, 1] }]),
        }
      }),
    ).not.toBe('')
    expect(
      of(next => {
        next.scene.objects.near = { shadowDensity: 0.5, locked: true }
      }),
    ).toBe(
      of(next => {
        next.scene.objects.near = {}
      }),
    )
    expect(
      of(next => {
        next.lens = { k1: -0.1, k2: 0, on: true }
      }),
    ).not.toBe(stamp)
    expect(
      of(next => {
        next.lens = { k1: -0.1, k2: 0, on: false }
      }),
    ).toBe(stamp)
    expect(
      of(next => {
        next.scene.lights = rowsOf<LightSettings>([
          {
            id: 'a',
            name: 'a',
            kind: 'ball',
            on: true,
            azimuth: 0,
            elevation: 9,
            kelvin: 3000,
            stops: 0,
            diameter: 1,
            width: 1,
            height: 1,
            distance: 1,
            target: [0, 0, 0],
          },
        ])
      }),
    ).not.toBe(stamp)
  })
  it('passes rendered with room round the frame lie where they belong', async () => {
    // The same file said to reach 8 pixels beyond on each side: its middle fills the frame, larger
    const wide = await pixels(
      changed(next => {
        next.passes.file!.margin = [8, 8]
        next.plate = null
      }),
      one,
      { kind: 'build' },
    )
    const plain = await pixels(
      changed(next => {
        next.plate = null
      }),
      one,
      { kind: 'build' },
    )
    // Frame pixel x stands at (x + 8) / (W + 16) of the file
    const sample = (x: number, y: number): number => wide[(y * WIDTH + x) * 4 + 3]!
    const from = (x: number, y: number): number =>
      plain[
        (Math.floor(((y + 8.5) * HEIGHT) / (HEIGHT + 16)) * WIDTH + Math.floor(((x + 8.5) * WIDTH) / (WIDTH + 16))) *
          4 +
          3
      ]!
    let same = 0
    let count = 0
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        count++
        if (Math.abs(sample(x, y) - from(x, y)) < 0.5) same++
      }
    expect(same / count).toBeGreaterThan(0.97)
  })
})
