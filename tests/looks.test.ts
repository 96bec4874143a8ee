// Looks: lines kept together, laid on another shot as one line; and as a table of colours, read back by OpenColorIO
// (Debian's python3-pyopencolorio).
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { encodingOf } from '../core/colour/encoding'
import { Evaluator } from '../core/compose/evaluate'
import { writePng } from '../core/formats/png/png'
import { readCube, writeCube } from '../core/formats/cube/cube'
import { newDocument, newTreatment, type ShotDocument, type TreatmentSettings } from '../core/shot/document'
import { alone, laidLook, lookOf, notOfColour, readLook, unpacked, writeLook } from '../core/shot/look'
import { addRow, inOrder } from '../core/shot/rows'
import { keptTerm, newTerm, slipOf, usesOf } from '../core/shot/slip'
import { startEngine, type Engine } from '../host/engine'
import { documentFaults } from '../shared/validate'
import { Files } from './compose/passes'
import { python, scratchFolder } from './python'

const [WIDTH, HEIGHT] = [24, 16]
const files = new Files()
let engine: Engine
let evaluator: Evaluator
beforeAll(async () => {
  engine = await startEngine(2)
  evaluator = new Evaluator(engine.pool, files.load, 2 ** 26)
})
afterAll(() => engine.stop())

const data = Uint8Array.from({ length: WIDTH * HEIGHT * 3 }, (_, i) => 5 * ((i * 89 + ((i * i) % 61)) % 52))
const BLOB = files.keep(writePng({ width: WIDTH, height: HEIGHT, channels: 3, maximum: 255, data }))
const shot = (width = WIDTH, height = HEIGHT): ShotDocument => {
  const document = newDocument(width, height)
  document.plate = { blob: BLOB, name: 'plate.png', encoding: 'srgb', alpha: 'none', width: WIDTH, height: HEIGHT }
  return document
}
const add = (document: ShotDocument, kind: string, values: TreatmentSettings['values']): TreatmentSettings =>
  addRow(document.finish, newTreatment(kind, values))
async function finished(document: ShotDocument): Promise<number[]> {
  expect(documentFaults(document)).toEqual([])
  const { pointer } = await evaluator.evaluate({ document, frame: 1, shrink: 1, show: { kind: 'finish' } })
  return [...engine.kernels.floats(pointer, WIDTH * HEIGHT * 4)]
}
const graded = (): ShotDocument => {
  const document = shot()
  add(document, 'exposure', { stops: 0.7 })
  add(document, 'saturation', { amount: 1.6 })
  add(document, 'contrast', { amount: 1.3 })
  return document
}

describe('a look', () => {
  it('laid wholly it is its lines; at half it is half way from what was there', async () => {
    const plain = await finished(shot())
    const full = await finished(graded())
    const look = lookOf(graded(), graded().finish, 'dusk')
    for (const strength of [1, 0.5, 0]) {
      const document = shot()
      addRow(document.finish, laidLook(document, look, strength))
      const out = await finished(document)
      out.forEach((value, i) =>
        expect(Math.abs(value - (plain[i]! + (full[i]! - plain[i]!) * strength))).toBeLessThan(1e-6),
      )
    }
  })
  it('works only where its own slip says, before other lines and after', async () => {
    const document = shot()
    const look = laidLook(document, lookOf(graded(), graded().finish, 'dusk'))
    look.matte = slipOf({
      ...newTerm('gradient'),
      values: { shape: 'line', from_x: 0, from_y: 0, to_x: 24, to_y: 0 },
    } as never)
    add(document, 'exposure', { stops: 1 })
    addRow(document.finish, look)
    const out = await finished(document)
    const before = shot()
    add(before, 'exposure', { stops: 1 })
    const without = await finished(before)
    const after = shot()
    add(after, 'exposure', { stops: 1 })
    addRow(after.finish, laidLook(after, lookOf(graded(), graded().finish, 'dusk')))
    const everywhere = await finished(after)
    let moved = 0
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      // Its share by the gradient’s definition: smooth from the left side to the right
      const t = ((i % WIDTH) + 0.5) / WIDTH
      const share = t * t * (3 - 2 * t)
      for (let c = 0; c < 3; c++) {
        const [a, b] = [without[i * 4 + c]!, everywhere[i * 4 + c]!]
        moved = Math.max(moved, Math.abs(b - a))
        expect(Math.abs(out[i * 4 + c]! - (a + (b - a) * share))).toBeLessThan(1e-5 * (1 + Math.abs(b)))
      }
    }
    expect(moved).toBeGreaterThan(0.1)
  })
  it('goes as text and comes back the same; broken ones are said', () => {
    const look = lookOf(graded(), graded().finish, 'dusk')
    expect(readLook(writeLook(look))).toEqual(look)
    const text = writeLook(look)
    expect(() => readLook(text.slice(0, 200))).toThrow(/not whole/)
    expect(() => readLook('{"northmist":"layers"}')).toThrow(/no look/)
    expect(() => readLook(JSON.stringify({ ...look, name: '' }))).toThrow(/no name/)
    expect(() => readLook(JSON.stringify({ ...look, lines: 4 }))).toThrow(/no lines/)
    const wrong = readLook(
      JSON.stringify({ ...look, lines: { a: { ...inOrder(look.lines)[0]!, id: 'a', kind: 'sparkle' } } }),
    )
    expect(documentFaults(alone(wrong)).join()).toMatch(/kind/)
  })
  it('brings the kept mattes that it names, under ids of their own; lengths go with the frame', () => {
    const document = graded()
    addRow(document.mattes, { id: 'm1', name: 'left', slip: slipOf(newTerm('gradient')) })
    addRow(document.mattes, { id: 'm2', name: 'both', slip: slipOf(keptTerm('m1')) })
    addRow(document.mattes, { id: 'm3', name: 'other', slip: slipOf() })
    add(document, 'vignette', { softness: 10 }).matte = slipOf(keptTerm('m2'))
    const look = lookOf(document, document.finish, 'corners')
    expect(
      Object.values(look.mattes)
        .map(({ name }) => name)
        .sort(),
    ).toEqual(['both', 'left'])
    const target = shot(WIDTH * 2, HEIGHT * 2)
    addRow(target.mattes, { id: 'm1', name: 'mine', slip: slipOf() })
    const line = addRow(target.finish, laidLook(target, look))
    expect(documentFaults(target)).toEqual([])
    expect(target.mattes.m1!.name).toBe('mine')
    expect(Object.keys(target.mattes)).toHaveLength(3)
    const vignette = inOrder(line.lines).find(({ kind }) => kind === 'vignette')!
    expect(vignette.values.softness).toBe(20)
    const both = inOrder(target.mattes).find(({ name }) => name === 'both')!
    expect(usesOf(target, both.id).map(({ label }) => label)).toEqual(['Vignette of the look corners'])
  })
  it('a look in a look is its lines; at a strength of its own it is none, and that is said', () => {
    const document = shot()
    const inner = addRow(document.finish, laidLook(document, lookOf(graded(), graded().finish, 'dusk')))
    add(document, 'hue', { angle: 20 })
    expect(inOrder(lookOf(document, document.finish, 'more').lines).map(({ kind }) => kind)).toEqual([
      'exposure',
      'saturation',
      'contrast',
      'hue',
    ])
    expect(unpacked(inner)).toHaveLength(3)
    inner.strength = 0.5
    expect(() => lookOf(document, document.finish, 'more')).toThrow(/at a strength/)
  })
  it('says what keeps it from being a table of colours', () => {
    const document = graded()
    expect(notOfColour(document.finish)).toEqual([])
    add(document, 'vignette', {})
    add(document, 'blur', {}).on = false
    add(document, 'exposure', {}).matte = slipOf()
    expect(notOfColour(document.finish)).toEqual([
      'Vignette depends on more than the colour of a pixel.',
      'Exposure works only where its matte says.',
    ])
  })
})

describe('as a .cube table', () => {
  const folder = scratchFolder()
  it.each(['srgb', 'acescct'])('in %s OpenColorIO makes of colours what the lines make', async encoding => {
    const look = lookOf(graded(), graded().finish, 'dusk')
    const table = await evaluator.table(alone(look), 1, 33, encoding)
    const text = writeCube(table, 'dusk "in quotes"')
    expect(readCube(new TextEncoder().encode(text)).data.length).toBe(33 ** 3 * 3)
    const path = join(folder, `${encoding}.cube`)
    writeFileSync(path, text)
    // What the lines make of colours of the lattice and between, by a plain picture of them
    const codes = Array.from({ length: 20 }, (_, i) => [0, 1, 2].map(c => ((i * 13 + c * 29) % 33) / 32))
    const theirs = python<number[][]>(
      `
import sys, json, PyOpenColorIO as O
t = O.FileTransform(sys.argv[1], interpolation=O.INTERP_TETRAHEDRAL)
p = O.Config.CreateRaw().getProcessor(t).getOptimizedCPUProcessor(O.OPTIMIZATION_LOSSLESS)
print(json.dumps([p.applyRGB(c) for c in json.loads(sys.argv[2])]))`,
      path,
      JSON.stringify(codes),
    )
    const own = (await evaluator.table(alone(look), 1, 33, encoding)).data
    codes.forEach((code, i) => {
      const [r, g, b] = code.map(value => Math.round(value * 32)) as [number, number, number]
      for (let c = 0; c < 3; c++)
        // OpenColorIO keeps entries as half floats
        expect(Math.abs(theirs[i]![c]! / own[(r + g * 33 + b * 1089) * 3 + c]! - 1), code.join()).toBeLessThan(5e-4)
    })
  })
  it('its lattice holds what the lines make of a picture of those colours', async () => {
    const { decode, encode } = encodingOf('srgb')
    const look = lookOf(graded(), graded().finish, 'dusk')
    const small = await evaluator.table(alone(look), 1, 52, 'srgb')
    // Codes of the plate that stand on the lattice of 51 steps of five
    const document = graded()
    const out = await finished(document)
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const rgb = [0, 1, 2].map(c => data[i * 3 + c]!)
      const at = rgb.map(code => code / 5)
      const found = [0, 1, 2].map(c => decode!(small.data[(at[0]! + at[1]! * 52 + at[2]! * 52 * 52) * 3 + c]!))
      found.forEach((value, c) => expect(Math.abs(encode!(value) - encode!(out[i * 4 + c]!))).toBeLessThan(1e-4))
    }
  })
})
