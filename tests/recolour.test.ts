// One thing's colour for another. Light and gloss are put together by the dichromatic model (S. Shafer, "Using color to
// separate reflection components", 1985) and must come apart again; a photograph (fruits.jpg of Debian's opencv-doc)
// must keep its highlights and its texture; and a render is held against a second one of the other colour, by CIEDE2000
// (culori).
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { differenceCiede2000 } from 'culori'
import { readFileSync } from 'node:fs'
import { encodingOf } from '../core/colour/encoding'
import { luminance } from '../core/colour/luminance'
import { readPicture, toWorking } from '../core/formats/picture/picture'
import { beautyOf } from '../core/render/planes'
import { startEngine, type Engine } from '../host/engine'
import { randomFrom } from './compose/random'
import { treat } from './compose/treat'
import { ball, constantEnvironment, ground, lookAt, material, object, renderScene, scene } from './scenes'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())
type Rgb = [number, number, number]
const FROM: Rgb = [0.42, 0.09, 0.05]
const TO: Rgb = [0.04, 0.2, 0.38]
const recoloured = async (
  colours: readonly Rgb[],
  values: Record<string, number | number[] | string>,
  planes?: Record<string, readonly Rgb[]>,
): Promise<Rgb[]> => {
  const pixels = (list: readonly Rgb[]): number[] => list.flatMap(colour => [...colour, 1])
  const out = await treat(
    engine.pool,
    'recolour',
    { from: FROM, to: TO, ...values },
    colours.length,
    1,
    pixels(colours),
    { planes: planes && Object.fromEntries(Object.entries(planes).map(([id, list]) => [id, pixels(list)])) },
  )
  return colours.map((_, i) => [...out.slice(i * 4, i * 4 + 3)] as Rgb)
}
const near = (found: readonly Rgb[], expected: readonly Rgb[], tolerance = 2e-5): void =>
  expected.forEach((colour, i) =>
    colour.forEach((value, c) =>
      expect(Math.abs(found[i]![c]! - value), `${i} ${c}`).toBeLessThan(tolerance * (1 + Math.abs(value))),
    ),
  )
const random = randomFrom(5)
const LIGHTS = Array.from({ length: 60 }, () => ({ light: random() * 3, gloss: random() ** 3 * 2 }))

describe('by the picture’s own light', () => {
  const lit = (of: Rgb): Rgb[] => LIGHTS.map(({ light, gloss }) => of.map(channel => channel * light + gloss) as Rgb)
  it('the thing takes the new colour wherever light falls on it, and its gloss stays, far above white too', async () => {
    near(await recoloured(lit(FROM), { brightness: 1 }), lit(TO))
  })
  it('as bright as it was: the new colour by the old luminance', async () => {
    const times = luminance(...FROM) / luminance(...TO)
    near(await recoloured(lit(FROM), { brightness: 0 }), lit(TO.map(channel => channel * times) as Rgb))
  })
  it('gloss not kept is taken for the thing', async () => {
    const [white] = await recoloured([[1, 1, 1]], { gloss: 0, brightness: 1 })
    expect(white![2]).toBeGreaterThan(white![0] * 1.5)
    const [kept] = await recoloured([[1, 1, 1]], { brightness: 1 })
    near([kept!], [[1, 1, 1]])
  })
  it('a grey thing is wholly the thing; black stays black; the same colour does nothing', async () => {
    near(await recoloured([[0.5, 0.5, 0.5]], { from: [0.25, 0.25, 0.25], to: [0.1, 0.3, 0.2], brightness: 1 }), [
      [0.2, 0.6, 0.4],
    ])
    near(await recoloured([[0, 0, 0]], { brightness: 1 }), [[0, 0, 0]])
    near(await recoloured([[0.3, 0.7, 0.1]], { to: FROM }), [[0.3, 0.7, 0.1]], 1e-7)
  })
})

describe('by surface colour and diffuse light', () => {
  it('what is mirrored or shines stays; a grade before it is no hindrance; texture of the surface stays', async () => {
    const surfaces = LIGHTS.map((_, i): Rgb => FROM.map(channel => channel * (0.6 + 0.01 * i)) as Rgb)
    const direct = surfaces.map((surface, i): Rgb => surface.map(channel => channel * LIGHTS[i]!.light * 0.7) as Rgb)
    const indirect = surfaces.map((surface, i): Rgb => surface.map(channel => channel * LIGHTS[i]!.light * 0.3) as Rgb)
    const mirrored = LIGHTS.map(({ gloss }, i): Rgb => [gloss * 0.2, gloss * 0.9, gloss * (i % 3)])
    const sum = (...lists: readonly Rgb[][]): Rgb[] =>
      lists[0]!.map((_, i) => [0, 1, 2].map(c => lists.reduce((total, list) => total + list[i]![c]!, 0)) as Rgb)
    const beauty = sum(direct, indirect, mirrored)
    const grade = [0.8, 1.1, 1.7]
    const graded = (list: readonly Rgb[]): Rgb[] =>
      list.map(colour => colour.map((value, c) => value * grade[c]!) as Rgb)
    const next = surfaces.map(
      (surface, i): Rgb => surface.map((channel, c) => (channel / FROM[c]!) * TO[c]! * LIGHTS[i]!.light) as Rgb,
    )
    const found = await recoloured(
      graded(beauty),
      { by: 'surface colour', brightness: 1 },
      { albedo: surfaces, diffuse_direct: direct, diffuse_indirect: indirect, beauty },
    )
    // Divided by a surface colour that is 0.002 lighter, so that black ones do not break it: of 0.03, 6 %
    near(found, graded(sum(next, mirrored)), 0.08)
  })
})

describe('a second render, of the thing made of the other colour from the start', () => {
  // Under a white lamp and sky (gloss is taken to be white), on a pale floor that it colours and that colours it; half glossy, so that it mirrors both
  const SIZE = 96
  const PASSES = ['beauty', 'alpha', 'albedo', 'diffuse_direct', 'diffuse_indirect', 'object_id']
  const rendered = (baseColour: Rgb): ReturnType<typeof renderScene> =>
    renderScene(
      scene([object('ball', ball([0, 0.6, 0], 0.6, 48, 1)), object('floor', ground(4))], {
        materials: [
          material({ baseColour: [0.5, 0.5, 0.5, 1] }),
          material({ baseColour: [...baseColour, 1], roughness: 0.25 }),
        ],
        environment: constantEnvironment(0.35),
        lights: [
          { kind: 'sun', name: 'sun', direction: [-0.5, -0.7, -0.4], diameter: 1, irradiance: [2.4, 2.4, 2.4] },
        ] as never,
      }),
      { camera: lookAt([0, 1, 4], [0, 0.55, 0], 70), width: SIZE, height: SIZE, samples: 400, passes: PASSES, seed: 2 },
    )
  const first = rendered(FROM)
  const second = rendered(TO)
  const whole = (passes: typeof first, id: 'beauty' | 'albedo' | 'diffuse_direct' | 'diffuse_indirect'): Rgb[] => {
    const plane = id === 'albedo' ? passes.albedo : id === 'beauty' ? beautyOf(passes) : passes.light[id]
    return Array.from({ length: SIZE * SIZE }, (_, i) => [...plane.slice(i * 3, i * 3 + 3)] as Rgb)
  }
  const difference = differenceCiede2000()
  const seen = ([r, g, b]: Rgb): { mode: 'lrgb'; r: number; g: number; b: number } => ({ mode: 'lrgb', r, g, b })
  /** The mean difference on the ball, where it covers the pixel wholly. */
  const off = (found: readonly Rgb[]): number => {
    const truth = whole(second, 'beauty')
    const on = truth.flatMap((colour, i) =>
      first.objectId[i] === 1 && first.alpha[i]! > 0.999 ? [difference(seen(found[i]!), seen(colour))] : [],
    )
    expect(on.length).toBeGreaterThan(800)
    return on.reduce((sum, value) => sum + value, 0) / on.length
  }
  it('by its passes: within 1 CIEDE2000 of the render, where untouched it is 30 off', async () => {
    const planes = Object.fromEntries(
      (['beauty', 'albedo', 'diffuse_direct', 'diffuse_indirect'] as const).map(id => [id, whole(first, id)]),
    )
    const found = await recoloured(planes.beauty!, { by: 'surface colour', brightness: 1 }, planes)
    expect(off(planes.beauty!)).toBeGreaterThan(30)
    expect(off(found)).toBeLessThan(1)
  })
  it('by its light alone: within 4, its highlight as white as the render’s', async () => {
    const found = await recoloured(whole(first, 'beauty'), { by: 'light', brightness: 1 })
    expect(off(found)).toBeLessThan(4)
    const truth = whole(second, 'beauty')
    const brightest = truth.reduce(
      (best, colour, i) => (colour[0] > truth[best]![0] && first.objectId[i] === 1 ? i : best),
      0,
    )
    expect(difference(seen(found[brightest]!), seen(truth[brightest]!))).toBeLessThan(2)
  })
})

it('a photograph: fruit of another colour keeps its highlights and its texture', async () => {
  const file = await readPicture(readFileSync('/usr/share/doc/opencv-doc/examples/data/fruits.jpg'))
  const pixels = toWorking(file, encodingOf('srgb'), 'none')
  const { width, height } = file
  // A lit part of the orange fruit, by eye
  const at = (x: number, y: number): Rgb => [...pixels.slice((y * width + x) * 4, (y * width + x) * 4 + 3)] as Rgb
  const from = at(...ORANGE)
  const out = await treat(
    engine.pool,
    'recolour',
    { from, to: [0.05, 0.25, 0.6], brightness: 0, by: 'light', gloss: 1 },
    width,
    height,
    pixels,
  )
  const lum = (list: ArrayLike<number>, i: number): number =>
    luminance(list[i * 4]!, list[i * 4 + 1]!, list[i * 4 + 2]!)
  let [highlights, moved, paleness] = [0, 0, 1]
  let [sa, sb, saa, sbb, sab, count] = [0, 0, 0, 0, 0, 0]
  for (let y = ORANGE[1] - 40; y < ORANGE[1] + 40; y++)
    for (let x = ORANGE[0] - 40; x < ORANGE[0] + 40; x++) {
      const i = y * width + x
      // Nearly without colour: gloss
      const shades = at(x, y)
      if (Math.min(...shades) > 0.8 * Math.max(...shades) && Math.max(...shades) > 0.2) {
        highlights++
        const after = [0, 1, 2].map(c => out[i * 4 + c]!)
        paleness = Math.min(paleness, Math.min(...after) / Math.max(...after))
        moved = Math.max(moved, Math.abs(lum(out, i) / lum(pixels, i) - 1))
      }
      const [a, b] = [lum(pixels, i), lum(out, i)]
      ;[sa, sb, saa, sbb, sab, count] = [sa + a, sb + b, saa + a * a, sbb + b * b, sab + a * b, count + 1]
    }
  const alike = (count * sab - sa * sb) / Math.sqrt((count * saa - sa * sa) * (count * sbb - sb * sb))
  expect(alike).toBeGreaterThan(0.99)
  const blue = [0, 1, 2].map(c => out[(ORANGE[1] * width + ORANGE[0]) * 4 + c]!)
  expect(blue[2]!).toBeGreaterThan(blue[0]! * 4)
  expect(highlights).toBeGreaterThan(0)
  // As nearly colourless as it was, and as bright
  expect(paleness).toBeGreaterThan(0.75)
  expect(moved).toBeLessThan(0.02)
})
const ORANGE: [number, number] = [165, 262]
