// The fit check of a shot: the plate alone against what a layer shows in the picture, and the noise of a render by
// what taking it out changes.
import { expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { measureFit, plateAlone } from '../core/compose/fit'
import { renderNoise } from '../core/measure/renderNoise'
import { newDocument, type ShotDocument } from '../core/shot/document'
import { bringLayer, bringPlate } from '../core/shot/bring'
import { inOrder } from '../core/shot/rows'
import { writePng } from '../core/formats/png/png'
import { randomFrom } from './compose/random'
import { keep, load, one } from './buildShot'

const [WIDTH, HEIGHT] = [320, 240]
/** Patches of many tones; `gain` brightens them. */
function patches(width: number, height: number, gain: number): string {
  const data = new Uint8Array(width * height * 3)
  for (let i = 0; i < width * height; i++) {
    const value = (Math.floor((i % width) / 13) * 37 + Math.floor(i / width / 11) * 71) % 60
    data.fill(Math.min(255, (40 + 2 * value) * gain), i * 3, i * 3 + 3)
  }
  return keep(writePng({ width, height, channels: 3, maximum: 255, data }))
}
const picture = (blob: string, name: string, width: number, height: number) =>
  ({ blob, name, encoding: 'srgb', alpha: 'none', width, height }) as const
function shot(gain: number): { document: ShotDocument; layer: string } {
  const document = newDocument(WIDTH, HEIGHT)
  bringPlate(document, picture(patches(WIDTH, HEIGHT, 1), 'set.png', WIDTH, HEIGHT))
  bringLayer(document, picture(patches(120, 90, gain), 'card.png', 120, 90), 1)
  const layer = inOrder(document.build.layers).find(({ name }) => name.startsWith('card'))!.id
  return { document, layer }
}
const fit = ({ document, layer }: ReturnType<typeof shot>) =>
  measureFit(new Evaluator(one.pool, load), document, 1, layer)

it('a layer as the plate fits, a brighter one is told of, where it is looked at', async () => {
  const same = await fit(shot(1))
  expect(same.rows.filter(({ sure }) => sure === 'likely' || sure === 'certain')).toEqual([])
  expect(same.place).toEqual({ left: 100, top: 75, right: 220, bottom: 165 })
  const bright = await fit(shot(1.6))
  const whites = bright.rows.find(({ id }) => id === 'whites')!
  expect(whites.sure).toBe('certain')
  // sRGB 158 and 252 of 255 as lightness: the root of light, by three (B. Ottosson 2020, of greys)
  const lightness = (code: number): number => Math.cbrt(((code / 255 + 0.055) / 1.055) ** 2.4)
  expect(whites.plate![0]).toBeCloseTo(lightness(158), 2)
  expect(whites.render![0]).toBeCloseTo(lightness(252), 2)
})
it('what is behind another layer is not looked at, and no other layer is the plate', async () => {
  const made = shot(1.6)
  const { document, layer } = made
  bringLayer(document, picture(patches(120, 90, 0.3), 'before.png', 120, 90), 1)
  const front = inOrder(document.build.layers).find(({ name }) => name.startsWith('before'))!
  expect(
    Object.values(plateAlone(document).build.layers)
      .filter(({ on }) => on)
      .map(({ kind }) => kind),
  ).toEqual(['plate'])
  Object.assign(document.build.layers[layer]!, { distance: 9 })
  Object.assign(document.build.layers[front.id]!, { distance: 3 })
  await expect(fit(made)).rejects.toThrow('Nothing of card is seen here')
  Object.assign(document.build.layers[front.id]!, { x: 260 })
  const { place, rows } = await fit(made)
  expect(place.right).toBeLessThanOrEqual(201)
  // The dark one before it is in no number of the plate
  expect(rows.find(({ id }) => id === 'whites')!.ends![0]).toBeGreaterThan(0.6)
})
it('what cannot be measured is said', async () => {
  const { document, layer } = shot(1)
  const bare = { ...document, plate: null }
  await expect(fit({ document: bare, layer })).rejects.toThrow('There is no plate yet')
  document.build.layers[layer]!.on = false
  await expect(fit({ document, layer })).rejects.toThrow('Nothing of card is seen here')
})
it('noise of a render: of a known amount, growing as the root of light, bright specks or not', () => {
  const random = randomFrom(3)
  // Twelve even numbers less six: a bell of deviation 1 (central limit)
  const bell = (): number => Array.from({ length: 12 }, random).reduce((sum, value) => sum + value, -6)
  const clean = Float32Array.from({ length: 80 * 80 * 4 }, (_, i) => (i % 4 === 3 ? 1 : 0.02 + (i / 25600) * 0.8))
  const noisy = clean.slice()
  for (let i = 0; i < clean.length; i += 4) {
    const off = 0.05 * 0.18 * Math.sqrt(clean[i]! / 0.18) * bell() + (i % 400 === 0 ? 30 : 0)
    for (let c = 0; c < 3; c++) noisy[i + c]! += off
  }
  const all = new Uint8Array(6400).fill(1)
  expect(Math.abs(renderNoise(noisy, clean, all)! / 0.05 - 1)).toBeLessThan(0.05)
  expect(renderNoise(clean, clean, all)).toBe(0)
  expect(renderNoise(noisy, clean, new Uint8Array(6400))).toBeUndefined()
})
