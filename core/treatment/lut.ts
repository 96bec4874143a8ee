import type { Lut } from '../colour/lut'
import { choice } from '../declare/field'
import { decoded, encoded, FORMULA_ENCODINGS } from '../formula/encodings'
import { point, type PointKernel } from '../formula/point'
import { Colour, type Term } from '../formula/term'
import { pointNode } from '../plan/pointNode'
import { pointer, shade, splat, type POINT } from '../../kernels/record'
import { treatment } from './treatment'

const TABLE = { table: pointer, low: shade, scale: shade, last: splat, size: splat, on: splat }
type Table = PointKernel<typeof POINT & typeof TABLE>
type Entry = (index: Term) => Term

/** Where the codes stand in the table, held to it: whole steps, and how far on. */
function placed(codes: Colour, low: Colour, scale: Colour, last: Term): { at: Colour; whole: Colour; rest: Colour } {
  const at = codes.map((code, name) => code.minus(low[name]).times(scale[name]).atLeast(0).atMost(last))
  const whole = at.map(place => place.floor().atMost(last.minus(1)))
  return { at, whole, rest: at.map((place, name) => place.minus(whole[name])) }
}
/** Three curves: straight between entries. */
function ofCurves(entry: Entry, whole: Colour, rest: Colour): Colour {
  const names = ['red', 'green', 'blue'] as const
  const [red, green, blue] = names.map((name, c) => {
    const index = whole[name].times(3).plus(c)
    const below = entry(index)
    return below.plus(entry(index.plus(3)).minus(below).times(rest[name]))
  })
  return new Colour(red!, green!, blue!)
}
/** A cube, red fastest: within the tetrahedron of the cell that the colour is in (J. Kasson et al. 1993). */
function ofCube(entry: Entry, { red, green, blue }: Colour, rest: Colour, size: Term): Colour {
  const steps = { red: size.terms.constant(3), green: size.times(3), blue: size.times(size).times(3) }
  const base = red.times(steps.red).plus(green.times(steps.green)).plus(blue.times(steps.blue))
  const { red: r, green: g, blue: b } = rest
  const most = r.atLeast(g).atLeast(b)
  const least = r.atMost(g).atMost(b)
  const between = r.plus(g).plus(b).minus(most).minus(least)
  const stepOf = (value: Term): Term =>
    r.isEqual(value).choose(steps.red, g.isEqual(value).choose(steps.green, steps.blue))
  // Of two that are the same the first is taken as the greatest and the last as the least, so that they differ
  const stepOfLeast = b.isEqual(least).choose(steps.blue, g.isEqual(least).choose(steps.green, steps.red))
  const all = steps.red.plus(steps.green).plus(steps.blue)
  const first = base.plus(stepOf(most))
  const second = base.plus(all).minus(stepOfLeast)
  const white = base.plus(all)
  const [x, y, z] = [between.terms.constant(1).minus(most), most.minus(between), between.minus(least)]
  const channel = (c: number): Term =>
    entry(base.plus(c))
      .times(x)
      .plus(entry(first.plus(c)).times(y))
      .plus(entry(second.plus(c)).times(z))
      .plus(entry(white.plus(c)).times(least))
  return new Colour(channel(0), channel(1), channel(2))
}

const kernels = new Map<string, Table>()
/** The kernel for a kind of table between two encodings; made when it is first asked for. */
function kernelOf(kind: Lut['kind'], reads: string, gives: string): Table {
  const name = `Table ${kind} ${reads} ${gives}`
  let found = kernels.get(name)
  if (!found) {
    found = point(name, TABLE, ({ colour, tables, values: { low, scale, last, size, on } }) => {
      const codes = encoded(colour, reads)
      const { at, whole, rest } = placed(codes, low, scale, last)
      const through = kind === '1d' ? ofCurves(tables.table, whole, rest) : ofCube(tables.table, whole, rest, size)
      // What lies beyond the table
      const beyond = codes.map((code, channel) =>
        code.minus(at[channel].over(scale[channel]).plus(low[channel])).times(on),
      )
      return decoded(through.plus(beyond), gives)
    })
    kernels.set(name, found)
  }
  return found
}

const encodings = (label: string, help: string): ReturnType<typeof choice<readonly string[]>> =>
  choice(FORMULA_ENCODINGS, { label, help, first: 'srgb' })
export const lut = treatment({
  id: 'lut',
  label: 'Colour table',
  help: 'Colours through a table of a .cube file: three curves, or a cube of colours read within tetrahedra.',
  group: 'Colour',
  sentence: 'Through a table that reads {reads} and gives {gives}, what is beyond it {beyond}',
  values: {
    reads: encodings('reads', 'What the table is made for: colours go into it so encoded.'),
    gives: encodings('gives', 'What comes out of it, brought back to light.'),
    beyond: choice(['held', 'goes on'], {
      label: 'beyond',
      help: 'Codes beyond the domain of the table are held at its border, or go on from there as far as they went.',
    }),
  },
  tabled: 'colours',
  plan: (input, { reads, gives, beyond }) => {
    const found = input.table?.()
    if (!found) return input.colour
    const { lut: table, key } = found
    const last = table.size - 1
    const three = (of: (c: number) => number): [number, number, number] => [of(0), of(1), of(2)]
    return pointNode(
      kernelOf(table.kind, reads, gives),
      input,
      {
        table: table.data,
        low: three(c => table.low[c]!),
        scale: three(c => last / (table.high[c]! - table.low[c]!)),
        last,
        size: table.size,
        on: beyond === 'held' ? 0 : 1,
      },
      { straight: true, told: key },
    )
  },
})
