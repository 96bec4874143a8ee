import { expect, it } from 'vitest'
import { borderPath } from '../compose/border'
import { newDocument, type PictureReference } from './document'
import { addRender } from './layers'
import { addStuck, drawByBrush, drawPicture, drawWords, spotIn, stuckRound } from './stuck'

const picture: PictureReference = {
  blob: 'a'.repeat(64),
  name: 'mark.png',
  encoding: 'srgb',
  alpha: 'straight',
  width: 300,
  height: 200,
} as never
const file = {
  blob: 'b'.repeat(64),
  name: 'p',
  width: 64,
  height: 64,
  passes: ['rest'],
  objects: [],
  materials: [],
  of: '',
}

it('a drawing begins on a frame, on the render where there is one, else on the ground', () => {
  const document = newDocument(1280, 720)
  document.build.layers = {}
  document.frames = { first: 5, last: 20 } as never
  expect(document.build.layers[addStuck(document, 9)]).toMatchObject({ placed: 9, appears: 5, onto: 'the ground' })
  const render = addRender(document, file as never, 'R')
  const id = addStuck(document, 12, render)
  expect(document.build.layers[id]).toMatchObject({
    placed: 12,
    of: render,
    onto: 'what the render shows',
    ordered: 'by hand',
  })
})

it('what is drawn lies in it, at the spot; nothing is drawn in one that is gone', () => {
  const document = newDocument(1280, 720)
  const id = addStuck(document, 1)
  const spot = { x: 400, y: 300, side: 150 }
  const made = drawPicture(document, id, picture, 1, spot)
  expect(document.build.layers[made]).toMatchObject({ within: id, x: 400, y: 300, scale: 0.5 })
  expect(drawPicture(document, id, picture, 1, spot, 'of a job')).toBe('of a job')
  expect(document.build.layers['of a job']).toMatchObject({ within: id, x: 400 })
  const words = drawWords(document, id, { name: 'f', files: [] }, 1, spot)
  expect(document.build.layers[words]).toMatchObject({ within: id, put: 'on the picture', across: 400, down: 300 })
  const brush = drawByBrush(document, id)
  expect(document.build.layers[brush]).toMatchObject({ within: id, kind: 'wash' })
  for (const one of [made, words, brush, id]) expect(stuckRound(document, one)?.id).toBe(id)
  expect(stuckRound(document, 'plate')).toBeUndefined()
  const before = Object.keys(document.build.layers)
  expect([drawPicture(document, 'gone', picture, 1), drawByBrush(document, 'gone')]).toEqual(['', ''])
  expect(Object.keys(document.build.layers)).toEqual(before)
})

it('the spot is the middle of the largest part of what is seen', () => {
  // A square of 20 and one of 8 pixels
  const matte = Float32Array.from({ length: 60 * 40 }, (_, i) => {
    const [x, y] = [i % 60, Math.floor(i / 60)]
    return Number((x >= 10 && x < 30 && y >= 5 && y < 25) || (x >= 45 && x < 53 && y >= 30 && y < 38))
  })
  const found = spotIn(borderPath(matte, { width: 60, height: 40, left: 0, top: 0 }, { width: 60, height: 40 }))!
  expect(found.x).toBeCloseTo(20, 1)
  expect(found.y).toBeCloseTo(15, 1)
  expect(found.side).toBeCloseTo(12, 0)
  expect(spotIn('')).toBeUndefined()
})
