// A figure cut out of a render by name: each of its pixels has as much of it as the thing covers there, by the Cryptomatte of
// the file itself, read here by its definition.
import { expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { readPassFile, contentOf, openPassFile, unpacking } from '../core/render/openpasses'
import { passesToExr } from '../core/render/passfile'
import { newDocument, type ShotDocument } from '../core/shot/document'
import { bringFigure } from '../core/shot/figures'
import { addStandIn, renameObject } from '../core/shot/objects'
import { namesTerm, slipOf } from '../core/shot/slip'
import { documentFaults } from '../shared/validate'
import { keep, load, two } from './buildShot'
import { ball, constantEnvironment, lookAt, material, object, renderScene, scene } from './scenes'

const [WIDTH, HEIGHT] = [60, 50]
const bytes = passesToExr(
  renderScene(
    scene([object('ball', ball([0, 0.7, 0], 0.8, 32)), object('buoy', ball([0.9, 0.3, -0.6], 0.6, 32, 1))], {
      materials: [material({ baseColour: [0.8, 0.1, 0.1, 1] }), material({ baseColour: [0.1, 0.1, 0.8, 1] })],
      environment: constantEnvironment(1, { seenByCamera: false }),
    }),
    {
      ...{ camera: lookAt([0, 1, 5], [0.3, 0.6, 0], 30), width: WIDTH, height: HEIGHT, samples: 32 },
      ...{ passes: ['beauty', 'alpha', 'crypto_object'], seeEnvironment: false },
    },
  ),
  { passes: ['beauty', 'alpha', 'crypto_object'], objectNames: ['ball', 'buoy'], materialNames: ['red', 'blue'] },
)

async function cut(
  names: string[],
  alpha: 'premultiplied' | 'none',
  change: (document: ShotDocument) => void = () => {},
) {
  const document = newDocument(80, 60)
  const reference = { blob: keep(bytes), name: 'two.exr', encoding: 'linear', alpha, width: WIDTH, height: HEIGHT }
  const figure = bringFigure(document, reference, 1, 'figure')
  const content = (await unpacking(async () => contentOf(await openPassFile(bytes))))!
  figure.names = { blob: reference.blob, name: reference.name, ...content, of: '' }
  figure.matte = slipOf(namesTerm(names, 'straight'))
  figure.world = 'scene'
  change(document)
  expect(documentFaults(document)).toEqual([])
  // As its card has it: in its own pixels
  const { pixels, width, height } = (await new Evaluator(two.pool, load, 2 ** 28).cards(document, 1)).get('figure')!
  expect([width, height]).toEqual([WIDTH, HEIGHT])
  return pixels
}
const file = await readPassFile(bytes)
/** What a thing covers of each pixel. */
const covers = (number: number): Float32Array => {
  const { ranks, index, weight } = file.coverage.get('crypto_object')!
  return Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
    let sum = 0
    for (let rank = 0; rank < ranks; rank++) if (index[i * ranks + rank] === number) sum += weight[i * ranks + rank]!
    return sum
  })
}

it.each([
  ['ball', 1],
  ['buoy', 2],
] as const)('the %s is there by as much as it covers, with the light of those pixels', async (name, number) => {
  const pixels = await cut([name], 'premultiplied')
  const cover = covers(number)
  const all = [covers(1), covers(2)]
  let [whole, border] = [0, 0]
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    expect(pixels[i * 4 + 3]!).toBeCloseTo(cover[i]!, 2)
    if (cover[i]! > 0.999) whole++
    // At its border against nothing it has its own colour: red or blue above all
    if (cover[i]! > 0.1 && cover[i]! < 0.9 && all[2 - number]![i] === 0) {
      border++
      const [own, other] = number === 1 ? [0, 2] : [2, 0]
      expect(pixels[i * 4 + own]! / pixels[i * 4 + 3]!).toBeGreaterThan(
        4 * (pixels[i * 4 + other]! / pixels[i * 4 + 3]!),
      )
    }
  }
  expect(whole).toBeGreaterThan(25)
  expect(border).toBeGreaterThan(12)
})
it('of a picture without alpha a thing covers so much of the pixel', async () => {
  const [pixels, cover] = [await cut(['ball'], 'none'), covers(1)]
  for (let i = 0; i < WIDTH * HEIGHT; i++) expect(pixels[i * 4 + 3]!).toBeCloseTo(cover[i]!, 2)
})
it('goes on being cut so when a thing of the scene that is called alike gets another name', async () => {
  const before = await cut(['ball'], 'premultiplied')
  const after = await cut(['ball'], 'premultiplied', document => {
    const plane = { shape: 'plane' as const, width: 1, height: 0.01, depth: 1, points: [] }
    const made = addStandIn(document, [], plane, [0, 0, 0], 0)
    renameObject(document, [], made, 'ball')
    renameObject(document, [], 'ball', 'mat')
  })
  expect(after).toEqual(before)
})
