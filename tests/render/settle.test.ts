// What is done to a render once its samples are there: fireflies, specks of shadow, hidden ground, edges of lamps. Long
// renders and closed forms say what is right.
import { describe, expect, it } from 'vitest'
import { varianceByHalves, varianceOf } from '../../core/render/noise'
import { LIGHT_PARTS, type LightPart } from '../../core/render/passes'
import { beautyOf, type RenderedPasses } from '../../core/render/planes'
import { settle, softenLamps } from '../../core/render/settle'
import type { Scene } from '../../core/scene/scene'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

const WIDTH = 96
const HEIGHT = 72
const camera = lookAt([0, 1.5, 4.5], [0, 0.7, 0], 35)
const lights: Scene['lights'] = [
  {
    kind: 'box',
    name: 'window',
    centre: [-2, 2.2, 1.5],
    halfU: [0, 0.6, 0],
    halfV: [0, 0, 0.6],
    normal: [1, 0, 0],
    radiance: [8, 7, 6],
  },
]
const room: Scene = scene(
  [
    object('floor', ground(3)),
    object('wall', quad([-3, 0, -1.5], [3, 0, -1.5], [3, 3, -1.5], [-3, 3, -1.5])),
    object('matt', ball([-1, 0.5, 0], 0.5, 32)),
    object('metal', ball([0.1, 0.5, -0.3], 0.5, 32, 1)),
  ],
  {
    materials: [
      material({ baseColour: [0.7, 0.5, 0.4, 1] }),
      material({ baseColour: [0.95, 0.95, 0.95, 1], metallic: 1, roughness: 0.3 }),
    ],
    lights,
    environment: constantEnvironment(0.1),
  },
)
// A small strong lamp over a metal shade: what it throws back is found by few paths
const workshop: Scene = scene(
  [
    ...room.objects,
    object('shade', quad([0.9, 1.2, 0.1], [1.5, 1.2, 0.1], [1.5, 1.2, 0.7], [0.9, 1.2, 0.7], 2)),
    object('lamp', ball([1.2, 1.5, 0.4], 0.02, 16, 3)),
  ],
  {
    environment: room.environment,
    materials: [
      room.materials[0]!,
      { ...room.materials[1]!, roughness: 0.2 },
      { ...room.materials[1]!, roughness: 0.1, doubleSided: true },
      material({ emission: [3000, 2400, 1800] }),
    ],
  },
)
const look = { camera, width: WIDTH, height: HEIGHT, maxBounces: 4, passes: ['beauty', 'by_light', ...LIGHT_PARTS] }
const luminance = (plane: Float32Array, i: number): number =>
  plane[i * 3]! * 0.2126 + plane[i * 3 + 1]! * 0.7152 + plane[i * 3 + 2]! * 0.0722

describe('noise that is told is noise that is there', () => {
  // Renders with other seeds say how much a pixel strays
  it.each([
    ['room, all bounces', room, 4, 16, 12],
    ['room, direct light', room, 0, 64, 8],
    ['room, more samples', room, 4, 64, 8],
  ] as const)('%s: within 15 %', (_, what, maxBounces, samples, seeds) => {
    const sums = new Float64Array(WIDTH * HEIGHT * 3)
    const squares = new Float64Array(sums.length)
    const told = new Float64Array(sums.length)
    for (let seed = 0; seed < seeds; seed++) {
      const passes = renderScene(what, {
        ...look,
        passes: ['beauty'],
        maxBounces,
        samples,
        seed: seed * 7 + 1,
        keepNoise: true,
      })
      const beauty = beautyOf(passes)
      const variance = varianceOf(beauty, passes.noise!.whole, passes.counts, WIDTH, HEIGHT)
      for (let i = 0; i < sums.length; i++) {
        sums[i]! += beauty[i]!
        squares[i]! += beauty[i]! ** 2
        told[i]! += variance[i]! / seeds
      }
    }
    let said = 0
    let real = 0
    for (let i = 0; i < sums.length; i++) {
      const average = sums[i]! / seeds
      // A few very bright pixels would outweigh all others
      if (average > 2) continue
      said += told[i]!
      real += (squares[i]! / seeds - average ** 2) * (seeds / (seeds - 1))
    }
    const ratio = Math.sqrt(said / real)
    expect(ratio).toBeGreaterThan(0.85)
    expect(ratio).toBeLessThan(1.15)
  })
})

describe('fireflies', () => {
  const raw = renderScene(workshop, { ...look, samples: 32, seed: 3, keepNoise: true })
  const settled = renderScene(workshop, { ...look, samples: 32, seed: 3, keepNoise: true, settle: true })
  const long = beautyOf(renderScene(workshop, { ...look, passes: ['beauty'], samples: 900, seed: 77 }))
  const aside = (i: number): boolean => raw.shining[i] === 0
  /** Pixels that are brighter than the long render by half and by 0.2. */
  const fireflies = (passes: RenderedPasses): number => {
    const beauty = beautyOf(passes)
    let count = 0
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      if (aside(i) && luminance(beauty, i) > luminance(long, i) * 1.5 + 0.2) count++
    return count
  }
  /** Root mean square distance to the long render, of what a display shows. */
  const off = (passes: RenderedPasses): number => {
    const beauty = beautyOf(passes)
    let sum = 0
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      if (aside(i)) sum += (Math.min(4, luminance(beauty, i)) - Math.min(4, luminance(long, i))) ** 2
    return Math.sqrt(sum / (WIDTH * HEIGHT))
  }
  it('nearly all go, and the picture comes nearer to a long render', () => {
    expect(fireflies(raw)).toBeGreaterThan(8)
    expect(fireflies(settled)).toBeLessThan(fireflies(raw) / 8)
    expect(off(settled)).toBeLessThan(off(raw) * 0.85)
  })
  it('they take no more light with them than a thirtieth, where a lamp is all but hidden in metal', () => {
    const kept = mean(beautyOf(settled), 3, 0, aside) / mean(beautyOf(raw), 3, 0, aside)
    expect(kept).toBeGreaterThan(29 / 30)
    expect(kept).toBeLessThanOrEqual(1)
  })
  it('the small image of the window in the metal stays', () => {
    const shiny = { ...room, materials: [room.materials[0]!, { ...room.materials[1]!, roughness: 0.02 }] }
    const at = (on: boolean): RenderedPasses =>
      renderScene(shiny, { ...look, samples: 128, seed: 4, keepNoise: true, settle: on })
    const [before, after] = [at(false), at(true)]
    let [brightest, most] = [0, 0]
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      if (luminance(before.light!.reflection, i) > most) [brightest, most] = [i, luminance(before.light!.reflection, i)]
    expect(most).toBeGreaterThan(2)
    for (let dy = -2; dy <= 2; dy++)
      for (let dx = -2; dx <= 2; dx++) {
        const i = brightest + dy * WIDTH + dx
        expect(luminance(after.light!.reflection, i)).toBeGreaterThan(
          luminance(before.light!.reflection, i) * 0.9 - 0.02,
        )
      }
  })
  it('groups of light add up to the beauty still', () => {
    const beauty = beautyOf(settled)
    for (let i = 0; i < beauty.length; i++) {
      let groups = 0
      for (const group of settled.groups!) groups += group[i]!
      expect(Math.abs(groups - beauty[i]!)).toBeLessThan(1e-4 * Math.max(1, beauty[i]!))
    }
  })
  it('an even field with noise stays where it is', () => {
    const dull = scene([object('floor', ground(30))], { lights, environment: constantEnvironment(0.3) })
    const from = lookAt([0, 3, 0.1], [0, 0, 0], 35)
    const [before, after] = [false, true].map(on =>
      beautyOf(renderScene(dull, { ...look, camera: from, samples: 8, keepNoise: true, settle: on })),
    )
    expect(Math.abs(mean(after!, 3) / mean(before!, 3) - 1)).toBeLessThan(0.004)
  })
})

describe('edges of lamps', () => {
  // A lamp fifty times white before a dim wall
  const shop: Scene = scene(
    [
      object('wall', quad([-3, 0, -1.5], [3, 0, -1.5], [3, 3, -1.5], [-3, 3, -1.5])),
      object('lamp', ball([0.1, 0.9, 0], 0.4, 64, 1)),
    ],
    {
      materials: [material({ baseColour: [0.01, 0.01, 0.01, 1], roughness: 1 }), material({ emission: [60, 50, 35] })],
      environment: constantEnvironment(0.2),
    },
  )
  const of = (size: number, on: boolean, samples: number) =>
    renderScene(shop, {
      camera,
      width: WIDTH * size,
      height: HEIGHT * size,
      samples,
      maxBounces: 1,
      passes: ['beauty', ...LIGHT_PARTS],
      keepNoise: true,
      settle: on,
    })
  const raw = of(1, false, 64)
  const soft = of(1, true, 64)
  const display = (value: number): number => Math.min(1, value) ** (1 / 2.2)
  it('look as a display would show them were it finer: three times nearer than without', () => {
    const fine = beautyOf(of(6, false, 16))
    const wanted = new Float32Array(WIDTH * HEIGHT)
    for (let y = 0; y < HEIGHT * 6; y++)
      for (let x = 0; x < WIDTH * 6; x++)
        wanted[Math.floor(y / 6) * WIDTH + Math.floor(x / 6)]! += display(fine[(y * WIDTH * 6 + x) * 3 + 1]!) / 36
    const off = (passes: RenderedPasses): number => {
      const beauty = beautyOf(passes)
      let sum = 0
      let count = 0
      for (let i = 0; i < wanted.length; i++) {
        if (!(passes.shining![i]! > 0.03 && passes.shining![i]! < 0.97)) continue
        sum += (display(beauty[i * 3 + 1]!) - wanted[i]!) ** 2
        count++
      }
      return Math.sqrt(sum / count)
    }
    expect(off(soft)).toBeLessThan(off(raw) / 3)
  })
  it('keep all of the lamp’s light, in every colour', () => {
    for (let c = 0; c < 3; c++) {
      const total = (passes: RenderedPasses): number =>
        passes.light!.emission.reduce((sum, value, i) => (i % 3 === c ? sum + value : sum), 0)
      expect(total(soft) / total(raw)).toBeCloseTo(1, 4)
    }
    // And its whole pixels grow by little each
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      if (raw.shining![i]! > 0.99) expect(soft.light!.emission[i * 3]! / raw.light!.emission[i * 3]!).toBeLessThan(1.35)
  })
  it('a lamp that fills no pixel, and one no brighter than white, keep theirs to the bit', () => {
    const small: RenderedPasses = {
      width: 3,
      height: 3,
      shining: Float32Array.of(0, 0, 0, 0, 0.4, 0, 0, 0, 0),
      objectId: new Uint32Array(9).fill(1),
      light: Object.fromEntries(LIGHT_PARTS.map(part => [part, new Float32Array(27)])) as Record<
        LightPart,
        Float32Array
      >,
    } as RenderedPasses
    small.light!.emission[13] = 20
    softenLamps(small)
    expect(small.light!.emission[13]).toBe(20)
    small.shining!.fill(1, 5)
    small.light!.emission.fill(0.4, 12).fill(1, 15)
    const before = small.light!.emission.slice()
    softenLamps(small)
    expect(small.light!.emission).toEqual(before)
  })
})

describe('shadow beside things', () => {
  const stage: Scene = scene(
    [object('ground', ground(30), { role: 'catcher' }), object('block', ball([0, 0.5, 0], 0.5, 48))],
    { lights, environment: constantEnvironment(0.3) },
  )
  const at = { camera, width: WIDTH, height: HEIGHT, passes: ['shadow', 'alpha'], keepNoise: true, maxBounces: 2 }
  const raw = renderScene(stage, { ...at, samples: 16, seed: 5 })
  const settled = renderScene(stage, { ...at, samples: 16, seed: 5, settle: true })
  const long = renderScene(stage, { ...at, samples: 1024, seed: 9 })
  const off = (passes: RenderedPasses, hidden: boolean): number => {
    let sum = 0
    let count = 0
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const seen = raw.groundShare![i]!
      if (hidden ? !(seen > 0 && seen < 0.3) : seen < 0.99) continue
      sum += (passes.shadow![i * 3 + 1]! - long.shadow![i * 3 + 1]!) ** 2
      count++
    }
    expect(count).toBeGreaterThan(hidden ? 20 : 1000)
    return Math.sqrt(sum / count)
  }
  it('ground that hardly shows has no black and white specks: two thirds as far from a long render, or less', () => {
    expect(off(settled, true)).toBeLessThan(off(raw, true) * 0.66)
  })
  it('open ground is no further off than before', () => {
    expect(off(settled, false)).toBeLessThan(off(raw, false) * 1.02)
  })
})

it('noise of shadow that specks were taken from is told as what is left', () => {
  // Metal beside a small lamp throws specks of light on the ground
  const stage: Scene = scene([object('ground', ground(30), { role: 'catcher' }), ...workshop.objects.slice(3)], {
    materials: workshop.materials,
    environment: constantEnvironment(0.3),
  })
  const at = { camera, width: WIDTH, height: HEIGHT, passes: ['shadow', 'alpha'], keepNoise: true, maxBounces: 3 }
  const long = renderScene(stage, { ...at, samples: 700, seed: 9 })
  let told = 0
  let real = 0
  for (const seed of [1, 2]) {
    const { shadow, noise, counts } = renderScene(stage, { ...at, samples: 32, seed, settle: true })
    const variance = varianceByHalves(shadow!, noise!.shadowOdd!, counts, WIDTH, HEIGHT)
    for (let i = 0; i < variance.length; i++) {
      told += variance[i]!
      real += (shadow![i]! - long.shadow![i]!) ** 2
    }
  }
  // What was taken is lost, so what is told is less than how far it is off; it was 8.6 times as much
  expect(Math.sqrt(told / real)).toBeLessThan(1.2)
  expect(Math.sqrt(told / real)).toBeGreaterThan(0.3)
})

it('settling says nothing of planes that are not there', () => {
  const passes = renderScene(room, { ...look, samples: 2, passes: ['depth'] })
  const before = passes.depth.slice()
  settle(passes)
  expect(passes.depth).toEqual(before)
})
