// What a row of points makes of a pixel, in terms: each mixed in by its strength and matte, and divided by alpha where its
// values are for such colour.
import { Colour, Terms, type Term } from './term'
import type { Pixel, PointForm } from './point'
import { logarithmOf, powerOf } from './power'

/** The name of a point's argument among those of its row. */
export const inRow = (name: string, place: number): string =>
  name === 'source' || name === 'out' ? name : `${place}.${name}`

export interface Body {
  /** The colours after each point, then that to be written. */
  results: Colour[]
  /** All terms that are needed, each after those it is made of. */
  used: Term[]
  uses: Map<Term, number>
}

/** What the points make of a pixel. covered: its alpha is 1. */
export function bodyOf(forms: readonly PointForm[], covered: boolean): Body {
  const terms = new Terms()
  let colour = new Colour(terms.pixel('red'), terms.pixel('green'), terms.pixel('blue'))
  const alpha = terms.pixel('alpha')
  const results = forms.map(({ kernel, matte, full, straight }, i) => {
    const before = colour
    const divided = straight && !covered
    const values: Record<string, Term | Colour> = {}
    const singles: Record<string, Term> = {}
    const tables: Record<string, (index: Term) => Term> = {}
    const colours: Record<string, { colour: Colour; alpha: Term }> = {}
    for (const [name, argument] of Object.entries(kernel.arguments)) {
      const { kind } = argument
      const own = inRow(name, i)
      if (kind === 'splat') values[name] = terms.value(own)
      else if (kind === 'shade')
        values[name] = new Colour(terms.value(`${own} 0`), terms.value(`${own} 16`), terms.value(`${own} 32`))
      else if (kind === 'pointer') tables[name] = index => terms.entry(own, index)
      else if (name === 'source' || name === 'out') continue
      else if (kind === 'raster' && argument.pixel === 'colour') {
        const channel = (which: string): Term => terms.pixel(`${own} ${which}`)
        colours[name] = {
          colour: new Colour(channel('red'), channel('green'), channel('blue')),
          alpha: channel('alpha'),
        }
      } else if (kind === 'raster') singles[name] = terms.pixel(own)
    }
    const pixel = {
      colour: divided ? before.times(terms.constant(1).over(alpha)) : before,
      alpha,
      x: terms.pixel('x'),
      y: terms.pixel('y'),
      values,
      singles,
      colours,
      tables,
    } as Pixel<never>
    let after = kernel.formula(pixel)
    if (divided) {
      const some = alpha.isAbove(0)
      after = after.times(alpha).map((channel, which) => some.choose(channel, before[which]))
    }
    if (matte || !full) {
      let amount = full ? undefined : terms.value(inRow('strength', i))
      if (matte) amount = amount ? amount.times(singles.matte!) : singles.matte!
      const mixed = before.map((channel, which) => channel.plus(after[which].minus(channel).times(amount!)))
      // Nothing is nothing, even of what is not a number; and all is all, to the bit
      colour = matte
        ? mixed.map((channel, which) =>
            amount!.isEqual(0).choose(before[which], amount!.isEqual(1).choose(after[which], channel)),
          )
        : mixed
    } else colour = after
    return colour
  })
  return { results, ...usedBy(results.at(-1)!) }
}

/** A term as the machine has it. */
export const lowered = (term: Term): Term =>
  term.operation === 'power'
    ? powerOf(term.inputs[0]!, term.inputs[1]!)
    : term.operation === 'logarithm'
      ? logarithmOf(term.inputs[0]!)
      : term

function usedBy({ red, green, blue }: Colour): Pick<Body, 'used' | 'uses'> {
  const uses = new Map<Term, number>()
  const used: Term[] = []
  const visit = (asked: Term): void => {
    const term = lowered(asked)
    uses.set(term, (uses.get(term) ?? 0) + 1)
    if (uses.get(term)! > 1) return
    term.inputs.forEach(visit)
    used.push(term)
  }
  ;[red, green, blue].forEach(visit)
  return { used, uses }
}
