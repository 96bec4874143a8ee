// What a fit check tells beside what is measured: each with what it says and its mend.
import { expect, it } from 'vitest'
import { newDocument, type ShotDocument } from './document'
import { bringFigure } from './figures'
import { fitNotes, type FitScene } from './fitcheck'
import { lineToFit, mendToFit } from './fitMends'
import { fitDifference, fitValue, fitWithin } from './fitWords'
import { inOrder } from './rows'
import { floating } from './standing'
import type { Beside } from '../measure/beside'
import { NO_GRAIN } from '../measure/grain'

const thing = (
  name: string,
  low: [number, number, number],
  high: [number, number, number],
  role = 'object',
): FitScene['objects'][number] => ({
  ...{ name, role, low, high, hidden: false, absent: false, ofPlate: false, shines: false },
  position: [0, low[1], 0],
})
const sceneOf = (...objects: FitScene['objects'][number][]): FitScene => ({ lights: ['sun'], fileNames: [], objects })
const lit = (document: ShotDocument): ShotDocument => {
  document.scene.fileLights = true
  return document
}

it('what hangs in the air by itself: not on the ground, on nothing, beside nothing', () => {
  const table = thing('table', [0, 0, 0], [2, 0.8, 1])
  const cup = thing('cup', [1, 0.8, 0.4], [1.1, 0.9, 0.5])
  const lamp = thing('lamp', [1, 1.5, 0.4], [1.2, 1.8, 0.6])
  expect(floating([table, cup])).toEqual([])
  expect(floating([table, cup, lamp])).toEqual([{ name: 'lamp', metres: 0.6 }])
  // What it hangs from holds it; what is far beside it does not
  expect(floating([table, cup, lamp, thing('beam', [0, 1.8, 0], [2, 2, 1])]).map(({ name }) => name)).toEqual([])
  expect(floating([lamp, thing('wall', [5, 0, 0], [5.1, 1, 1])])).toEqual([{ name: 'lamp', metres: 1.5 }])
})

it('contact and shadows of the scene, each mended', () => {
  const document = lit(newDocument(1920, 1080))
  const lamp = thing('lamp', [1, 1.5, 0.4], [1.2, 1.8, 0.6])
  const notes = fitNotes(document, 1, 'render', sceneOf(lamp))
  const contact = notes.find(({ id }) => id === 'contact-lamp')!
  expect(contact).toMatchObject({ sure: 'likely', words: 'It touches nothing: 1.5 m above what is under it.' })
  contact.mend!.change(document)
  expect(document.scene.objects['lamp']!.position).toEqual([0, 0, 0])
  const shadow = notes.find(({ id }) => id === 'shadow')!
  expect(shadow.sure).toBe('certain')
  shadow.mend!.change(document)
  expect(inOrder(document.scene.added).map(({ name }) => name)).toEqual(['ground'])
  const after = fitNotes(
    document,
    1,
    'render',
    sceneOf(thing('ball', [0, 0, 0], [1, 1, 1]), thing('ground', [-9, 0, -9], [9, 0, 9], 'catcher')),
  )
  expect(after.filter(({ sure }) => sure === 'likely' || sure === 'certain')).toEqual([])
})

it('figures: heads off the horizon and no shadow', () => {
  const document = newDocument(1920, 1080)
  document.scene.camera.y = 1.6
  const picture = {
    blob: '0'.repeat(64),
    name: 'someone.png',
    encoding: 'srgb',
    alpha: 'straight',
    width: 200,
    height: 400,
  } as const
  const figure = bringFigure(document, picture as never, 1)
  expect(fitNotes(document, 1, figure.id, null).filter(({ id }) => id.startsWith('head'))).toMatchObject([
    { sure: 'fits' },
  ])
  figure.height = 2.4
  figure.shadow = 0
  const notes = fitNotes(document, 1, figure.id, null).filter(({ sure }) => sure !== 'fits' && sure !== 'unknown')
  expect(notes.map(({ id }) => id)).toEqual([`head-${figure.id}`, `shadow-${figure.id}`])
  // In the scene its shadow is rendered, whatever is laid
  figure.world = 'scene'
  expect(fitNotes(document, 1, figure.id, null).map(({ id }) => id)).not.toContain(`shadow-${figure.id}`)
  figure.world = 'picture'
  for (const { mend } of notes) mend!.change(document)
  expect(fitNotes(document, 1, figure.id, null).filter(({ sure }) => sure === 'likely' || sure === 'certain')).toEqual(
    [],
  )
})

it('rate and shutter of footage', () => {
  const document = newDocument(1920, 1080)
  document.rate = { numerator: 24, denominator: 1 }
  document.frames = { first: 1, last: 48 }
  const clip = { rate: { numerator: 24000, denominator: 1001 }, timing: { conform: 'frames', start: 1 } }
  document.plate = {
    blob: '0'.repeat(64),
    name: 'a.mov',
    encoding: 'rec709',
    alpha: 'none',
    width: 1920,
    height: 1080,
    clip,
  } as never
  document.passes.file = { blob: '1'.repeat(64), passes: ['motion_forward', 'motion_back', 'depth'] } as never
  const off = (): Record<string, string> =>
    Object.fromEntries(
      fitNotes(document, 1, 'render', null)
        .filter(({ sure }) => sure === 'likely' || sure === 'certain')
        .map(({ id, words }) => [id, words]),
    )
  expect(off()).toMatchObject({ rate: 'The plate runs at 24000/1001, the shot at 24.' })
  expect(Object.keys(off())).toEqual(['rate', 'shutter'])
  for (const { mend } of fitNotes(document, 1, 'render', null)) mend?.change(document)
  expect(document.rate).toEqual(clip.rate)
  expect(inOrder(document.build.layers['render']!.treatments)).toMatchObject([
    { kind: 'motion_blur', values: { shutter: 180 } },
  ])
  expect(off()).toEqual({})
})

it('numbers are said as one speaks of them, and nothing is said of what nobody sees', () => {
  const said = (id: Beside['id'], plate: number[], render: number[], difference: number): string[] => {
    const found: Beside = { id, plate, render, difference, within: 0.02, sure: 'likely' }
    return [fitValue(id, plate), fitValue(id, render), fitDifference(found), fitWithin(found)]
  }
  expect(said('blacks', [0.12], [0.04], -0.08)).toEqual(['12.0 %', '4.0 %', '8.0 % deeper', '± 2.0 %'])
  expect(said('shadows', [0, 0], [0, -0.05], 0.05)).toEqual(['grey', 'blue 5.0', '5.0 bluer', '± 2.0'])
  expect(said('sharpness', [1.2], [0.4], -0.8)).toEqual([
    '1.20 px soft',
    '0.40 px soft',
    '0.80 px sharper',
    '± 0.02 px',
  ])
  expect(said('side', [180], [0], 180)).toEqual(['from the left', 'from the right', 'turned by 180°', '± 0°'])
  expect(said('blacks', [0.12], [0.121], 0.001)[2]).toBe('as the plate')
  expect(fitValue('grain', undefined)).toBe('does not tell')
})

it('noise of a render is taken out by the render’s own value; the side of the light by no line', () => {
  const document = newDocument()
  const row = (id: Beside['id']): Beside => ({
    id,
    plate: [0.02],
    render: [0.2],
    difference: 0.18,
    within: 0.01,
    sure: 'certain',
  })
  const measured = { rows: [], grain: {} }
  mendToFit(row('noise'), measured, 'render')!.change(document)
  expect(document.build.layers['render']).toMatchObject({ clean: 1 })
  expect(mendToFit(row('side'), measured, 'render')).toBeUndefined()
  expect(lineToFit(row('sharpness'), measured)).toMatchObject({ kind: 'deconvolve' })
})

it('grain: what is missing by its squares, what is too much taken out, all of it where a layer does not tell', () => {
  const of = (amount: number) => ({ ...NO_GRAIN, amount, size: 0.9 })
  const line = (plate: number, render: number | undefined) => {
    const row: Beside = { id: 'grain', plate: [plate], difference: 0, within: 0, sure: 'likely' }
    if (render !== undefined) row.render = [render]
    const grain = { plate: of(plate), ...(render === undefined ? {} : { render: of(render) }) }
    return lineToFit(row, { rows: [], grain })
  }
  expect(line(0.05, 0.03)).toMatchObject({ kind: 'grain', values: { amount: 0.04, size: 0.9 } })
  expect(line(0.05, 0)).toMatchObject({ kind: 'grain', values: { amount: 0.05 } })
  expect(line(0.05, undefined)).toMatchObject({ kind: 'grain', values: { amount: 0.05 } })
  expect(line(0.02, 0.06)).toMatchObject({ kind: 'degrain', values: { amount: 0.06 } })
  expect(line(0, 0)).toBeUndefined()
  expect(line(0, undefined)).toBeUndefined()
})
