// .cube tables against OpenColorIO 2.1 (Debian), which reads the same files.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { encodingOf } from '../../core/colour/encoding'
import { applyLut, throughLut, type Lut } from '../../core/colour/lut'
import { apply3, inverse3 } from '../../core/colour/matrix'
import { FORMULA_ENCODINGS } from '../../core/formula/encodings'
import { startEngine, type Engine } from '../../host/engine'
import { treat } from '../compose/treat'
import { isCube, readCube } from '../../core/formats/cube/cube'
import { readPicture, toWorking } from '../../core/formats/picture/picture'
import { writePng } from '../../core/formats/png/png'
import { python, scratchFolder } from '../python'

const folder = scratchFolder()
const text = (kind: '1D' | '3D', size: number, domain: [number, number]): string => {
  const lines = [
    'TITLE "made up"',
    `# a comment`,
    `LUT_${kind}_SIZE ${size}`,
    `DOMAIN_MIN ${Array(3).fill(domain[0]).join(' ')}`,
    `DOMAIN_MAX ${Array(3).fill(domain[1]).join(' ')}`,
  ]
  const curve = (t: number): number => t ** 2.1 * 1.3 - 0.02
  if (kind === '1D')
    for (let i = 0; i < size; i++) {
      const t = i / (size - 1)
      lines.push([curve(t), curve(t) * 0.9, t].map(value => value.toFixed(7)).join(' '))
    }
  else
    for (let b = 0; b < size; b++)
      for (let g = 0; g < size; g++)
        for (let r = 0; r < size; r++) {
          const [x, y, z] = [r, g, b].map(value => value / (size - 1)) as [number, number, number]
          lines.push(
            [curve(x) + 0.1 * y * z, curve(y) + 0.07 * x, curve(z) + 0.05 * Math.sin(x * 5)]
              .map(value => value.toFixed(7))
              .join(' '),
          )
        }
  return `${lines.join('\n')}\n`
}

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(1)
})
afterAll(() => engine.stop())
/** The line of a recipe, on opaque pixels. */
const throughLine = (
  table: Lut,
  colours: readonly number[][],
  reads: string,
  gives: string,
  beyond = 'held',
): Promise<Float32Array> =>
  treat(
    engine.pool,
    'lut',
    { reads, gives, beyond },
    colours.length,
    1,
    colours.flatMap(colour => [...colour, 1]),
    { table },
  )

describe('the line of a recipe', () => {
  const lut = readCube(new TextEncoder().encode(text('3D', 9, [0, 1])))
  const colours = Array.from({ length: 80 }, (_, i) => [0, 1, 2].map(c => (((i * 37 + c * 61) % 101) / 80) ** 3 - 0.02))
  it.each(FORMULA_ENCODINGS)('reads and gives %s as its encoding says', async id => {
    const { encode = same, decode = same, toWorking } = encodingOf(id)
    const own = await throughLine(lut, colours, id, id)
    colours.forEach(([r, g, b], i) => {
      const linear = toWorking ? apply3(inverse3(toWorking), r!, g!, b!) : [r!, g!, b!]
      const codes = Float32Array.from([...linear.map(encode), 1])
      applyLut(lut, codes)
      const light = [...codes.slice(0, 3)].map(decode) as [number, number, number]
      const expected = toWorking ? apply3(toWorking, ...light) : light
      expected.forEach((value, c) =>
        expect(Math.abs(own[i * 4 + c]! - value), `${id} ${i} ${c}`).toBeLessThan(3e-5 + Math.abs(value) * 2e-4),
      )
    })
  })
  it('what goes on beyond the table goes on as far; channels that are alike are read as any', async () => {
    const plain = readCube(new TextEncoder().encode('LUT_1D_SIZE 2\n0 0 0\n1 1 1\n'))
    const [r, g, b] = await throughLine(plain, [[3, -0.5, 0.25]], 'linear', 'linear', 'goes on')
    expect([r, g, b]).toEqual([3, -0.5, 0.25])
    const [held] = await throughLine(plain, [[3, 0, 0]], 'linear', 'linear')
    expect(held).toBe(1)
    const ties = [0.3, 0.71].flatMap(a => [0.3, 0.71].flatMap(b => [0.3, 0.71].map(c => [a, b, c])))
    const own = await throughLine(lut, ties, 'linear', 'linear')
    const truth = Float32Array.from(ties.flatMap(colour => [...colour, 1]))
    applyLut(lut, truth)
    own.forEach((value, i) => expect(value).toBeCloseTo(truth[i]!, 5))
  })
})
const same = (value: number): number => value

describe('a table gives what OpenColorIO gives', () => {
  it.each([
    ['1D', 33, [0, 1]],
    ['1D', 17, [-0.2, 2]],
    ['3D', 9, [0, 1]],
    ['3D', 17, [0, 1]],
    ['3D', 5, [-0.1, 1.5]],
  ] as const)('%s of %d over %j', async (kind, size, domain) => {
    const path = join(folder, `${kind}-${size}.cube`)
    const colours = Array.from({ length: 60 }, (_, i) => [0, 1, 2].map(c => ((i * 37 + c * 61) % 101) / 92 - 0.04))
    writeFileSync(path, text(kind, size, [...domain]))
    const theirs = python<number[][]>(
      `
import sys, json, PyOpenColorIO as O
t = O.FileTransform(sys.argv[1], interpolation=O.INTERP_${kind === '1D' ? 'LINEAR' : 'TETRAHEDRAL'})
p = O.Config.CreateRaw().getProcessor(t).getOptimizedCPUProcessor(O.OPTIMIZATION_LOSSLESS)
print(json.dumps([p.applyRGB(c) for c in json.loads(sys.argv[2])]))`,
      path,
      JSON.stringify(colours),
    )
    const lut = readCube(new TextEncoder().encode(text(kind, size, [...domain])))
    const pixels = Float32Array.from(colours.flatMap(colour => [...colour, 0.5]))
    applyLut(lut, pixels)
    const treated = await throughLine(lut, colours, 'linear', 'linear')
    colours.forEach((_, i) => {
      for (let c = 0; c < 3; c++)
        expect(Math.abs(treated[i * 4 + c]! - theirs[i]![c]!), `line: ${colours[i]!.join()} ${c}`).toBeLessThan(2e-5)
      for (let c = 0; c < 3; c++)
        expect(Math.abs(pixels[i * 4 + c]! - theirs[i]![c]!), `${colours[i]!.join()} ${c}`).toBeLessThan(2e-5)
      expect(pixels[i * 4 + 3]).toBe(0.5)
    })
  })
})

it('a picture is read through a table, then from what comes out of it; straight alpha stays', async () => {
  const data = Uint8Array.from([255, 128, 0, 255, 64, 64, 64, 128])
  const file = await readPicture(writePng({ width: 2, height: 1, channels: 4, maximum: 255, data }))
  const lut = readCube(new TextEncoder().encode('LUT_1D_SIZE 2\n0 0 0\n2 2 2\n'))
  const out = toWorking(file, throughLut(lut, encodingOf('linear')), 'straight')
  const wanted = [
    2,
    256 / 255,
    0,
    1,
    ((128 / 255) * 128) / 255,
    ((128 / 255) * 128) / 255,
    ((128 / 255) * 128) / 255,
    128 / 255,
  ]
  out.forEach((value, i) => expect(value).toBeCloseTo(wanted[i]!, 6))
  // Out in ACEScg: its white is white still
  const aces = toWorking(file, throughLut(lut, encodingOf('acescg')), 'straight')
  expect(aces[4]).toBeCloseTo(((128 / 255) * 128) / 255, 4)
})

describe('broken tables', () => {
  const read = (lines: string) => () => readCube(new TextEncoder().encode(lines))
  it.each([
    ['LUT_3D_SIZE 2\n0 0 0\n', /holds 1 colours where its size asks for 8/],
    ['0 0 0\n', /before any size/],
    ['LUT_3D_SIZE 900\n', /outside 2 to 129/],
    ['LUT_1D_SIZE 2\n0 0 zero\n', /line 2 should hold 3 numbers/],
    ['LUT_1D_SIZE 2\n0 0 0\n1 1 1\n2 2 2\n', /one colour too many/],
    ['LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 0 0\n0 0 0\n1 1 1\n', /ends before it begins/],
    ['SOMETHING 3\n', /“SOMETHING”/],
    ['', /no size/],
    ['LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n', /two sizes/],
  ])('%j is refused with what is wrong', (lines, says) => {
    expect(read(lines)).toThrow(says)
  })
  it('are told by content', () => {
    expect(isCube(new TextEncoder().encode('TITLE "x"\nLUT_3D_SIZE 17\n'))).toBe(true)
    expect(isCube(new TextEncoder().encode('hello'))).toBe(false)
  })
})
