import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { addRow, inOrder, moveRow, rowsOf, stepRow, type Rows } from './rows'
import type { Row } from '../declare/field'

const ids = (rows: Rows<Row>): string[] => inOrder(rows).map(({ id }) => id)
const abc = (): Rows<Row> => rowsOf<Row>([{ id: 'a' }, { id: 'b' }, { id: 'c' }])

describe('things in an order', () => {
  it('are added at the end, after a neighbour, before all; moved; stepped, not past the ends', () => {
    const rows = abc()
    addRow(rows, { id: 'd' })
    addRow(rows, { id: 'e' }, 'a')
    addRow(rows, { id: 'f' }, null)
    expect(ids(rows)).toEqual(['f', 'a', 'e', 'b', 'c', 'd'])
    moveRow(rows, 'd', 'f')
    moveRow(rows, 'f', 'c')
    moveRow(rows, 'a', 'a')
    expect(ids(rows)).toEqual(['d', 'a', 'e', 'b', 'c', 'f'])
    stepRow(rows, 'e', 2)
    stepRow(rows, 'd', -1)
    stepRow(rows, 'c', -9)
    expect(ids(rows)).toEqual(['c', 'd', 'a', 'b', 'e', 'f'])
  })
  it('change nothing of their neighbours', () => {
    const rows = abc()
    const before = structuredClone(rows)
    moveRow(rows, 'c', 'a')
    expect([rows.a, rows.b]).toEqual([before.a, before.b])
  })
  it('that two pages put at the very same place stand one after the other, and something fits after either', () => {
    for (const after of ['b', 'x']) {
      const rows = abc()
      const { order } = addRow(structuredClone(rows), { id: 'b2' }, 'a')
      rows.x = { id: 'x', order }
      rows.y = { id: 'y', order }
      expect(ids(rows)).toEqual(['a', 'x', 'y', 'b', 'c'])
      addRow(rows, { id: 'new' }, after)
      const list = ids(rows)
      expect(list[list.indexOf(after) + 1]).toBe('new')
      expect(list.filter(id => id !== 'new')).toEqual(['a', 'x', 'y', 'b', 'c'])
    }
  })
  it('are as a list would have them, whatever is done (against an array)', () => {
    const move = fc.tuple(fc.nat(), fc.option(fc.nat()))
    fc.assert(
      fc.property(fc.array(move, { maxLength: 60 }), moves => {
        const rows: Rows<Row> = {}
        const list: string[] = []
        moves.forEach(([of, after], i) => {
          const before = after === null || !list.length ? null : list[after % list.length]!
          if (i % 3 && list.length) {
            const id = list[of % list.length]!
            moveRow(rows, id, before)
            if (id === before) return
            list.splice(list.indexOf(id), 1)
            list.splice(before === null ? 0 : list.indexOf(before) + 1, 0, id)
          } else {
            addRow(rows, { id: `n${i}` }, before)
            list.splice(before === null ? 0 : list.indexOf(before) + 1, 0, `n${i}`)
          }
        })
        expect(ids(rows)).toEqual(list)
      }),
      { numRuns: 300 },
    )
  })
})
