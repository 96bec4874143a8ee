// Focus against the true lens in five views of three scenes at three f-numbers: docs/focus.md, written by
// `WRITE=1 npx vitest run tests/render/focusTable.test.ts`. Here the table is held to its bounds, and some rows are made again.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { readGltf } from '../../core/formats/gltf/gltf'
import { writePng } from '../../core/formats/png/png'
import { circleAtInfinity } from '../../core/lens/focus'
import { ROUND } from '../../core/lens/aperture'
import type { Camera, Material, Scene } from '../../core/scene/scene'
import { demoFile } from '../../host/demofile'
import { startEngine, type Engine } from '../../host/engine'
import { code, comb, discBlur, finished, points, psnr, sharp, truth, wall, type View } from '../focusScenes'
import { object } from '../scenes'

const FILE = new URL('../../docs/focus.md', import.meta.url)
const PICTURES = new URL('../../docs/lens/', import.meta.url)
const TURNS = [-1, -0.5, 0, 0.5, 1] as const
interface Case {
  scene: string
  view: (turn: number) => View
  distances: readonly number[]
  fNumbers: readonly number[]
}
let engine: Engine
let house: Scene
beforeAll(async () => {
  engine = await startEngine(2)
  house = await readGltf(await demoFile('bell house.glb'))
})
afterAll(() => engine.stop())

/**
 * The demo's house and quay as they shine by themselves in their own colours, so that a render has no noise but that of its
 * lens; no glass, and a wall of many colours far behind.
 */
function bellHouse(turn: number): View {
  const materials = house.materials.map((own): Material => ({
    ...own,
    emission: own.baseColour.slice(0, 3).map((channel, c) => Math.min(4, channel * 1.2 + own.emission[c]!)) as never,
    emissionTexture: own.baseTexture,
    baseColour: [0, 0, 0, 1],
    baseTexture: undefined,
    specular: { strength: 0, colour: [0, 0, 0] },
    coat: undefined,
    alphaMode: 'opaque',
    transmission: 0,
  }))
  const glass = new Set(house.materials.flatMap(({ transmission }, i) => (transmission ? [i] : [])))
  const objects = house.objects
    .map(own => ({ ...own, role: 'object' as const, parts: own.parts.filter(part => !glass.has(part.material ?? -1)) }))
    .filter(({ parts }) => parts.length)
    .concat(wall(-30, 40, 60, materials, 5).map((part, i) => object(`wall ${i}`, part)) as never)
  const camera: Camera = structuredClone(house.camera!)
  camera.matrix[12]! += turn * 0.6
  camera.matrix[13]! += turn * 0.15
  return { width: 192, height: 128, scene: { ...house, objects, materials, lights: [] }, camera }
}
const CASES: readonly Case[] = [
  { scene: 'bell house', view: bellHouse, distances: [5.5, 8, 9.5, 8, 5.5], fNumbers: [0.1, 0.15, 0.25] },
  { scene: 'rods', view: comb, distances: [3, 6, 14, 9, 6], fNumbers: [0.12, 0.2, 0.35] },
  { scene: 'points behind an edge', view: points, distances: [2.4, 20, 8, 20, 2.4], fNumbers: [0.1, 0.15, 0.25] },
]

const lightness = (pixels: Float32Array, channels: number): Float64Array =>
  Float64Array.from({ length: pixels.length / channels }, (_, i) =>
    [0.2126, 0.7152, 0.0722].reduce((sum, weight, c) => sum + weight * code(pixels[i * channels + c]!), 0),
  )
/**
 * Mean structural similarity of lightness (Z. Wang, A. Bovik, H. Sheikh, E. Simoncelli, "Image Quality Assessment", IEEE
 * Transactions on Image Processing 13(4), 2004: a bell of 1.5 pixels over 11 by 11, K1 0.01, K2 0.03).
 */
function ssim(a: Float64Array, b: Float64Array, width: number): number {
  const height = a.length / width
  const [c1, c2] = [(0.01 * 255) ** 2, (0.03 * 255) ** 2]
  const bell = Array.from({ length: 11 }, (_, i) => Math.exp(-((i - 5) ** 2) / 4.5))
  const whole = bell.reduce((sum, value) => sum + value, 0) ** 2
  let [total, count] = [0, 0]
  for (let y = 5; y < height - 5; y++)
    for (let x = 5; x < width - 5; x++) {
      let [ma, mb, aa, bb, ab] = [0, 0, 0, 0, 0]
      for (let j = 0; j < 11; j++)
        for (let i = 0; i < 11; i++) {
          const weight = (bell[i]! * bell[j]!) / whole
          const at = (y + j - 5) * width + x + i - 5
          ma += weight * a[at]!
          mb += weight * b[at]!
          aa += weight * a[at]! ** 2
          bb += weight * b[at]! ** 2
          ab += weight * a[at]! * b[at]!
        }
      const [va, vb, cov] = [aa - ma * ma, bb - mb * mb, ab - ma * mb]
      total += ((2 * ma * mb + c1) * (2 * cov + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2))
      count++
    }
  return total / count
}

interface Row {
  scene: string
  view: number
  fNumber: number
  circle: number
  own: number
  plain: number
  ownLike: number
  plainLike: number
}
async function made(
  { scene, view, distances }: Case,
  which: number,
  fNumber: number,
): Promise<Row & { strip: Uint8Array[] }> {
  const seen = view(TURNS[which]!)
  const lens = { fNumber, distance: distances[which]!, aperture: { ...ROUND, blades: 7 } }
  const real = truth(engine, seen, lens)
  const own = await finished(engine, seen, [
    ['focus', { distance: lens.distance, fNumber, factor: 1, most: 60, ...lens.aperture }],
  ])
  const plain = discBlur(sharp(engine, seen, undefined), seen, lens)
  const like = (other: Float32Array): number => ssim(lightness(real, 3), lightness(other, 4), seen.width)
  const codes = (pixels: Float32Array, channels: number): Uint8Array =>
    Uint8Array.from({ length: seen.width * seen.height * 3 }, (_, i) =>
      Math.round(code(pixels[Math.floor(i / 3) * channels + (i % 3)]!)),
    )
  return {
    ...{ scene, view: which + 1, fNumber },
    circle: circleAtInfinity(seen.camera, fNumber, lens.distance, seen.width),
    ...{ own: psnr(real, own), plain: psnr(real, plain), ownLike: like(own), plainLike: like(plain) },
    strip: [codes(real, 3), codes(own, 4), codes(plain, 4)],
  }
}

/** Pictures beside each other, twice as large, pixel by pixel. */
function stripOf(pictures: readonly Uint8Array[], { width, height }: View): Uint8Array {
  const across = pictures.length * (width * 2 + 4) - 4
  const data = new Uint8Array(across * height * 2 * 3).fill(255)
  pictures.forEach((picture, k) => {
    for (let y = 0; y < height * 2; y++)
      for (let x = 0; x < width * 2; x++)
        for (let c = 0; c < 3; c++)
          data[(y * across + k * (width * 2 + 4) + x) * 3 + c] = picture[((y >> 1) * width + (x >> 1)) * 3 + c]!
  })
  return writePng({ width: across, height: height * 2, channels: 3, maximum: 255, data })
}

const line = ({ scene, view, fNumber, circle, own, plain, ownLike, plainLike }: Row): string =>
  `| ${scene} | ${view} | ${fNumber} | ${circle.toFixed(1)} | ${own.toFixed(2)} | ${plain.toFixed(2)} | ${ownLike.toFixed(4)} | ${plainLike.toFixed(4)} |`
const rowsOf = (text: string): Row[] =>
  text.split('\n').flatMap(row => {
    const [, scene, ...numbers] = row.split('|').map(cell => cell.trim())
    const [view, fNumber, circle, own, plain, ownLike, plainLike] = numbers.map(Number) as Required<number[]>
    return CASES.some(one => one.scene === scene)
      ? [
          {
            scene: scene!,
            view: view!,
            fNumber: fNumber!,
            circle: circle!,
            own: own!,
            plain: plain!,
            ownLike: ownLike!,
            plainLike: plainLike!,
          },
        ]
      : []
  })

it.runIf(process.env.WRITE)('writes the table', async () => {
  const rows: Row[] = []
  mkdirSync(PICTURES, { recursive: true })
  for (const own of CASES) {
    let worst: Awaited<ReturnType<typeof made>> | undefined
    for (let which = 0; which < TURNS.length; which++)
      for (const fNumber of own.fNumbers) {
        const row = await made(own, which, fNumber)
        rows.push(row)
        if (!worst || row.own < worst.own) worst = row
      }
    writeFileSync(new URL(`${own.scene.replaceAll(' ', '-')}.png`, PICTURES), stripOf(worst!.strip, own.view(0)))
  }
  writeFileSync(
    FILE,
    `# Focus beside the true lens
Five views of three scenes, each rendered sharp and taken out of focus by *Focus*, and rendered through the true lens (160
samples a pixel), which is the truth: the demo's bell house, rods near and far before a wall, and bright points behind an
edge. All of them shine by themselves, so that there is no noise but the lens's own. Beside it the plain way: each pixel the
mean of a disc as large as its own circle. PSNR in decibels of sRGB codes, SSIM of lightness (Wang and others, 2004). Circle:
its radius at infinity, in pixels of a picture 192 pixels wide.

In the mean Focus is 3.3 dB nearer to the truth than the disc; by 3 dB or more in 25 of the 45 rows, most where near things
hide far ones. It is farther from it than the disc in one view (*points behind an edge*, 5): of lamps of which an edge in
focus hides all but a sliver the light stays on that edge. Where circles are large the grain of the truth itself (160 samples)
bounds both.

The pictures show, twice as large, the row of each scene that is farthest from the truth: the true lens, Focus, the disc.

${CASES.map(({ scene }) => `![${scene}](lens/${scene.replaceAll(' ', '-')}.png)`).join('\n\n')}

| scene | view | f-number | circle | Focus dB | disc dB | Focus SSIM | disc SSIM |
|---|---|---|---|---|---|---|---|
${rows.map(line).join('\n')}
`,
  )
})

it('the table has all rows: 3 dB nearer to the truth than a disc blur in the mean, and where it is not, why is said', () => {
  const text = readFileSync(FILE, 'utf8')
  const rows = rowsOf(text)
  expect(rows).toHaveLength(45)
  const gains = rows.map(({ own, plain }) => own - plain)
  expect(gains.reduce((sum, gain) => sum + gain, 0) / 45).toBeGreaterThan(3)
  for (const row of rows) {
    expect(row.own, line(row)).toBeGreaterThan(28)
    expect(row.ownLike, line(row)).toBeGreaterThan(row.plainLike - 0.003)
  }
  // Lamps of which an edge in focus hides all but a sliver: their light stays on the edge
  expect(rows.filter(({ own, plain }) => own < plain).map(({ scene, view }) => `${scene} ${view}`)).toEqual(
    Array.from({ length: 3 }, () => 'points behind an edge 5'),
  )
  expect(text).toContain('all but a sliver')
})
// Of the rods there are others in focus.test.ts
it.each([0, 2].map(i => [CASES[i]!.scene, i, 3 - i] as const))(
  'a row of %s comes out as it stands there',
  async (_, i, which) => {
    const own = CASES[i]!
    const row = await made(own, which, own.fNumbers[1]!)
    const written = rowsOf(readFileSync(FILE, 'utf8')).find(
      other => other.scene === own.scene && other.view === which + 1 && other.fNumber === row.fNumber,
    )!
    expect(Math.abs(row.own - written.own)).toBeLessThan(0.3)
    expect(Math.abs(row.ownLike - written.ownLike)).toBeLessThan(0.003)
  },
)
