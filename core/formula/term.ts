// Arithmetic that is written down instead of done: a treatment says its result by terms, and from those the same numbers
// come by machine code of its own for a whole row of treatments (compile.ts). Terms of the same parts are one term.

export type Operation =
  // Of two
  | 'plus'
  | 'minus'
  | 'times'
  | 'over'
  | 'lesser'
  | 'greater'
  | 'power'
  | 'isAbove'
  | 'isAtLeast'
  | 'isEqual'
  // Of one
  | 'root'
  | 'absolute'
  | 'floor'
  | 'logarithm'
  // An entry of a table that is given, by its number
  | 'entry'
  // condition, where it holds, where not
  | 'choose'
  // Of the bits of a float, for powers
  | 'bitsPlus'
  | 'bitsMinus'
  | 'bitsAnd'
  | 'bitsLeft23'
  | 'bitsRight23'
  | 'fromWhole'
  | 'nearest'
  // What is given
  | 'constant'
  | 'value'
  | 'pixel'

/** Makes terms, each only once. */
export class Terms {
  private all = new Map<string, Term>()

  private make(operation: Operation, inputs: readonly Term[], detail: string | number = ''): Term {
    const key = `${operation} ${Object.is(detail, -0) ? '-0' : detail} ${inputs.map(({ number }) => number).join()}`
    let term = this.all.get(key)
    if (!term) this.all.set(key, (term = new Term(this, this.all.size, operation, inputs, detail)))
    return term
  }
  of(operation: Operation, ...inputs: (Term | number)[]): Term {
    return this.make(
      operation,
      inputs.map(input => (typeof input === 'number' ? this.constant(input) : input)),
    )
  }
  constant(number: number): Term {
    return this.make('constant', [], Math.fround(number))
  }
  /** A number that is given with the call. */
  value(name: string): Term {
    return this.make('value', [], name)
  }
  /** What the pixel holds: a channel of a picture, or where it stands. */
  pixel(name: string): Term {
    return this.make('pixel', [], name)
  }
  /** What a table holds at a whole number, which must lie within it. */
  entry(table: string, index: Term): Term {
    return this.make('entry', [index], table)
  }
}

export type Operand = Term | number

/** A number at each pixel, in 32-bit floats. Conditions are terms too, for `choose` alone. */
export class Term {
  constructor(
    readonly terms: Terms,
    /** Counted from the first: all that a term is made of has smaller ones. */
    readonly number: number,
    readonly operation: Operation,
    readonly inputs: readonly Term[],
    readonly detail: string | number,
  ) {}

  plus(other: Operand): Term {
    return this.terms.of('plus', this, other)
  }
  minus(other: Operand): Term {
    return this.terms.of('minus', this, other)
  }
  times(other: Operand): Term {
    return this.terms.of('times', this, other)
  }
  over(other: Operand): Term {
    return this.terms.of('over', this, other)
  }
  /** The lesser of both; this where either is not a number. */
  atMost(other: Operand): Term {
    return this.terms.of('lesser', this, other)
  }
  /** The greater of both; this where either is not a number. */
  atLeast(other: Operand): Term {
    return this.terms.of('greater', this, other)
  }
  /** this^exponent, to 8e-7 relative for bases from 1e-4 to 1e4; 0 for a base of 0 or less. */
  power(exponent: Operand): Term {
    return this.terms.of('power', this, exponent)
  }
  /** Logarithm to base 2, to 2e-6; about -100 for what is 0 or less. */
  logarithm(): Term {
    return this.terms.of('logarithm', this)
  }
  root(): Term {
    return this.terms.of('root', this)
  }
  absolute(): Term {
    return this.terms.of('absolute', this)
  }
  floor(): Term {
    return this.terms.of('floor', this)
  }
  isAbove(other: Operand): Term {
    return this.terms.of('isAbove', this, other)
  }
  isAtLeast(other: Operand): Term {
    return this.terms.of('isAtLeast', this, other)
  }
  isEqual(other: Operand): Term {
    return this.terms.of('isEqual', this, other)
  }
  /** Of a condition: one term where it holds, another where not. */
  choose(holds: Operand, otherwise: Operand): Term {
    return this.terms.of('choose', this, holds, otherwise)
  }
}

/** Red, green and blue. What is done with it is done with each, by a term for all or by another colour's own. */
export class Colour {
  constructor(
    readonly red: Term,
    readonly green: Term,
    readonly blue: Term,
  ) {}

  map(change: (channel: Term, which: 'red' | 'green' | 'blue') => Term): Colour {
    return new Colour(change(this.red, 'red'), change(this.green, 'green'), change(this.blue, 'blue'))
  }
  private by(other: Operand | Colour, join: (channel: Term, other: Operand) => Term): Colour {
    return this.map((channel, which) => join(channel, other instanceof Colour ? other[which] : other))
  }
  plus(other: Operand | Colour): Colour {
    return this.by(other, (channel, more) => channel.plus(more))
  }
  minus(other: Operand | Colour): Colour {
    return this.by(other, (channel, less) => channel.minus(less))
  }
  times(other: Operand | Colour): Colour {
    return this.by(other, (channel, factor) => channel.times(factor))
  }
  /** Luminance of linear Rec.709 (ITU-R BT.709-6). */
  luminance(): Term {
    return this.red.times(0.2126).plus(this.green.times(0.7152)).plus(this.blue.times(0.0722))
  }
}
