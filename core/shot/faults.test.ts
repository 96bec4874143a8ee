import { describe, expect, it } from 'vitest'
import type { PictureFacts } from '../formats/picture/describe'
import { newDocument, type PictureReference, type ShotDocument } from './document'
import { frameFaults, inTheDark, readingFaults, shadowsFallNowhere } from './faults'
import { groundOf, layGround, removeObject } from './objects'

const blob = 'a'.repeat(64)
const picture = (facts: Partial<PictureFacts>, values: Partial<PictureReference> = {}): PictureReference => ({
  blob,
  name: 'x',
  encoding: 'srgb',
  alpha: 'none',
  width: 1920,
  height: 1080,
  facts: { format: 'png', bits: 8, float: false, alpha: 'none', ...facts },
  ...values,
})

describe('faults of reading', () => {
  it('a picture that fits has none', () => {
    expect(readingFaults(picture({}))).toEqual([])
    expect(
      readingFaults(
        picture(
          { format: 'exr', float: true, bits: 16, alpha: 'premultiplied' },
          { encoding: 'linear', alpha: 'premultiplied' },
        ),
      ),
    ).toEqual([])
  })
  // Each mend, applied, leaves no fault behind
  it.each([
    ['float read as display', picture({ format: 'exr', float: true, bits: 32 }), /dark and contrasty/],
    ['display read as light', picture({ bits: 16 }, { encoding: 'linear' }), /washed out/],
    ['data', picture({}, { encoding: 'data' }), /not converted/],
    ['float data', picture({ format: 'exr', float: true, bits: 32 }, { encoding: 'data' }), /not converted/],
    ['straight as premultiplied', picture({ alpha: 'straight' }, { alpha: 'premultiplied' }), /bright rims/],
    ['premultiplied as straight', picture({ alpha: 'premultiplied' }, { alpha: 'straight' }), /dark rims/],
    ['no alpha read with', picture({}, { alpha: 'straight' }), /file has none/],
    ['alpha not read', picture({ alpha: 'straight' }), /read without/],
  ] as const)('%s', (_, reference, words) => {
    const [fault, ...more] = readingFaults(reference)
    expect(more).toEqual([])
    expect(fault!.text).toMatch(words)
    expect(readingFaults({ ...reference, ...fault!.mends[0]!.values })).toEqual([])
  })
  it('8 bits of linear light cannot be mended by reading', () => {
    expect(readingFaults(picture({}, { encoding: 'linear' })).find(fault => !fault.mends.length)?.text).toMatch(/band/)
  })
  it('alpha that is to be left out is no fault, nor one that cannot be told', () => {
    expect(readingFaults(picture({ alpha: 'straight' }, { alpha: 'ignore' }))).toEqual([])
    expect(readingFaults(picture({ alpha: 'unclear' }, { alpha: 'premultiplied' }))).toEqual([])
  })
})

describe('faults of the frame', () => {
  const shot = (plate: [number, number], frame: [number, number], passes?: [number, number]) => {
    const document = newDocument(...frame)
    document.plate = picture({}, { width: plate[0], height: plate[1] })
    if (passes)
      document.passes.file = {
        blob,
        name: 'p',
        width: passes[0],
        height: passes[1],
        passes: [],
        objects: [],
        materials: [],
        of: '',
      }
    return document
  }
  it('none where plate, frame and passes agree, half-size passes too', () => {
    expect(frameFaults(newDocument())).toEqual([])
    expect(frameFaults(shot([1920, 1080], [1920, 1080], [960, 540]))).toEqual([])
    expect(frameFaults(shot([1919, 1079], [1919, 1079], [960, 540]))).toEqual([])
  })
  it('another size and another shape, each with the frame that mends it', () => {
    expect(frameFaults(shot([1600, 900], [1920, 1080]))).toEqual([
      expect.objectContaining({ frame: { width: 1600, height: 900 } }),
    ])
    expect(frameFaults(shot([1920, 1080], [1920, 1080], [1200, 800]))).toEqual([
      expect.objectContaining({ text: expect.stringContaining('line up'), frame: { width: 1200, height: 800 } }),
    ])
  })
})

it('a scene that nothing lights is told of: not one with a lamp, an environment, lights of its file, a shining thing, or nothing to see', () => {
  const thing = { role: 'object', absent: false, shines: false }
  const document = newDocument(10, 10)
  expect(inTheDark(document, [], [thing])).toBe(true)
  expect(inTheDark(document, ['sun'], [thing])).toBe(false)
  expect(inTheDark({ ...document, scene: { ...document.scene, fileLights: false } }, ['sun'], [thing])).toBe(true)
  expect(inTheDark(document, [], [thing, { ...thing, shines: true }])).toBe(false)
  expect(
    inTheDark(
      document,
      [],
      [
        { ...thing, absent: true },
        { ...thing, role: 'catcher' },
      ],
    ),
  ).toBe(false)
  const lit = { on: true } as ShotDocument['scene']['lights'][number]
  expect(inTheDark({ ...document, scene: { ...document.scene, lights: { lit } } }, [], [thing])).toBe(false)
  expect(
    inTheDark({ ...document, scene: { ...document.scene, lights: { lit: { ...lit, on: false } } } }, [], [thing]),
  ).toBe(true)
})

it('shadows that fall on nothing are told of: only where things are lit and nothing catches', () => {
  const thing = { role: 'object', absent: false, shines: false }
  const document = newDocument(10, 10)
  expect(shadowsFallNowhere(document, [], [thing])).toBe(false)
  document.scene.environment = { kind: 'made' } as never
  expect(shadowsFallNowhere(document, [], [thing])).toBe(true)
  expect(shadowsFallNowhere(document, [], [thing, { ...thing, role: 'catcher' }])).toBe(false)
  expect(shadowsFallNowhere(document, [], [thing, { ...thing, role: 'catcher', absent: true }])).toBe(true)
  expect(shadowsFallNowhere(document, [], [])).toBe(false)
})
it('the ground is laid once, catches, is wide for what stands on it, and goes again', () => {
  const document = newDocument(10, 10)
  const name = layGround(document, ['ground'], [{ low: [0, 0, 0], high: [0.09, 0.02, 0.05] }])
  expect([name, groundOf(document), document.scene.objects[name]!.role]).toEqual(['ground 2', 'ground 2', 'catcher'])
  expect(layGround(document, ['ground'], [{ low: [0, 0, 0], high: [5, 1, 1] }])).toBe(name)
  expect(Object.values(document.scene.added!)).toEqual([expect.objectContaining({ width: 100 })])
  removeObject(document, name)
  expect([groundOf(document), document.scene.objects[name]]).toEqual([undefined, undefined])
})
