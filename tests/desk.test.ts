// The desk's crossings as they show in the picture: an object's grade against the same grade of all, of a layer against a
// line of its recipe, lamps on one object alone.
import { describe, expect, it } from 'vitest'
import { setDeskNumber } from '../core/shot/desk'
import { addRow } from '../core/shot/rows'
import { ownRender } from '../core/shot/tree'
import { newTreatment, type ShotDocument } from '../core/shot/document'
import { Evaluator } from '../core/compose/evaluate'
import { changed, document, FARTHER, HEIGHT, load, NEAR, one, pixels, WIDTH } from './buildShot'

const GRADE = { exposure: 0.6, contrast: 1.5, warmth: 70, tint: -12, saturation: 1.4 }
const rowsOf = (names: (string | undefined)[]) => (d: ShotDocument) => {
  const render = ownRender(d.build.layers)!
  for (const name of names)
    for (const [row, value] of Object.entries(GRADE))
      setDeskNumber(
        d,
        render.id,
        name === undefined ? { kind: 'everything' } : { kind: 'thing', name },
        { kind: 'row', row: row as keyof typeof GRADE },
        value,
      )
}
const close = (a: number, b: number, within = 2e-5): void =>
  expect(Math.abs(a - b), `${a} for ${b}`).toBeLessThan(within * Math.max(1, Math.abs(b)))

describe('the grade of one object', () => {
  it('is that of all, where it is, and nothing elsewhere', async () => {
    const before = await pixels(document)
    const own = await pixels(changed(rowsOf(['far'])))
    const all = await pixels(changed(rowsOf([undefined])))
    for (let c = 0; c < 3; c++) {
      close(own[FARTHER() * 4 + c]!, all[FARTHER() * 4 + c]!)
      expect(Math.abs(own[FARTHER() * 4 + c]! - before[FARTHER() * 4 + c]!)).toBeGreaterThan(0.005)
      expect(own[NEAR() * 4 + c]).toBe(before[NEAR() * 4 + c])
    }
  })
  it('on the desk for all is the treatment Desk grade on the render, at its borders too', async () => {
    const alone = (mutate: (d: ShotDocument) => void): ShotDocument =>
      changed(d => {
        d.plate = null
        for (const layer of Object.values(d.build.layers)) layer.on = layer.kind === 'render'
        mutate(d)
      })
    const desk = await pixels(alone(rowsOf([undefined])))
    const line = await pixels(
      alone(d => {
        addRow(ownRender(d.build.layers)!.treatments, newTreatment('desk_grade', GRADE))
      }),
    )
    let border = 0
    for (let i = 0; i < WIDTH * HEIGHT * 4; i++) {
      const alpha = desk[i - (i % 4) + 3]!
      if (alpha > 0.02 && alpha < 0.98) border++
      close(desk[i]!, line[i]!, 5e-5)
    }
    expect(border).toBeGreaterThan(40)
  })
  it('of another object is another picture, also where the first is kept', async () => {
    const evaluator = new Evaluator(one.pool, load, 2 ** 28)
    const of = async (d: ShotDocument): Promise<number[]> => {
      const raster = await evaluator.evaluate({ document: d, frame: 1, shrink: 1, show: { kind: 'build' } })
      const data = one.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4)
      return [data[NEAR() * 4]!, data[FARTHER() * 4]!]
    }
    const exposed = (name: string, stops: number): ShotDocument =>
      changed(d => {
        ownRender(d.build.layers)!.desk.objects[name] = { exposure: stops }
      })
    const [near, farther] = (await of(document)) as [number, number]
    for (const [name, stops, expected] of [
      ['far', 1, [near, farther * 2]],
      ['near', 1, [near * 2, farther]],
      ['near', 2, [near * 4, farther]],
      ['far', 1, [near, farther * 2]],
    ] as const) {
      const found = await of(exposed(name, stops))
      expected.forEach((value, i) => close(found[i]!, value))
    }
  })
  it('adds to what is said of all: stops and mireds add up, contrast and saturation multiply', async () => {
    const said =
      (name: string | undefined, row: 'exposure' | 'contrast' | 'saturation', value: number) => (d: ShotDocument) =>
        setDeskNumber(
          d,
          ownRender(d.build.layers)!.id,
          name === undefined ? { kind: 'everything' } : { kind: 'thing', name },
          { kind: 'row', row },
          value,
        )
    const both = await pixels(
      changed(d => {
        said(undefined, 'exposure', 0.5)(d)
        said('far', 'exposure', 0.25)(d)
        said(undefined, 'contrast', 1.2)(d)
        said('far', 'contrast', 1.5)(d)
        said('far', 'saturation', 0.5)(d)
      }),
    )
    const one = await pixels(
      changed(d => {
        said(undefined, 'exposure', 0.75)(d)
        said(undefined, 'contrast', 1.2 * 1.5)(d)
        said(undefined, 'saturation', 0.5)(d)
      }),
    )
    for (let c = 0; c < 3; c++) close(both[FARTHER() * 4 + c]!, one[FARTHER() * 4 + c]!)
  })
})
