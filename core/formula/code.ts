// Machine code for a row of points: vectors of four pixels, their reds together and so on, a few of them in turn.
import { FORMULA_TAIL, MAXIMUM_PAGES } from '../../kernels/assembly/layout'
import { layoutOf, PIXEL_BYTES, type Argument } from '../../kernels/record'
import { lowered, type Body } from './body'
import type { Operation, Term } from './term'
import { CODE, FunctionWriter, VECTOR } from './wasm'

export const constantName = (value: number): string => `=${Object.is(value, -0) ? '-0' : value}`

const INSTRUCTIONS: Partial<Record<Operation, number>> = {
  plus: VECTOR.plus,
  minus: VECTOR.minus,
  times: VECTOR.times,
  over: VECTOR.over,
  lesser: VECTOR.lesser,
  greater: VECTOR.greater,
  isAbove: VECTOR.f32Above,
  isAtLeast: VECTOR.f32AtLeast,
  isEqual: VECTOR.f32Equal,
  root: VECTOR.root,
  absolute: VECTOR.absolute,
  floor: VECTOR.floor,
  bitsPlus: VECTOR.i32Add,
  bitsMinus: VECTOR.i32Sub,
  bitsAnd: VECTOR.and,
  bitsLeft23: VECTOR.i32Shl,
  bitsRight23: VECTOR.i32ShrS,
  fromWhole: VECTOR.fromWhole,
  nearest: VECTOR.nearest,
}

const [RASTERS, VALUES, LEFT, TOP, RIGHT, BOTTOM] = [0, 1, 2, 3, 4, 5]
const PARAMETERS = 6
/**
 * Vectors of four pixels that are worked on in turn, so that none waits for its own last result. A power needs so many
 * registers that a third has no room.
 */
const GROUPS = 3
const GROUPS_OF_POWERS = 2
/** Where a picture's fields stand (kernels/assembly/raster.ts). */
const RASTER = { left: 4, top: 8, stride: 20 } as const

/**
 * The module of a row. It exports run(rasters, values, x0, y0, x1, y1): the rasters lie in the thread's scratch and
 * FORMULA_TAIL behind their beginning room for four pixels of each; the values where the step holds its arguments.
 */
export function codeOf(all: Readonly<Record<string, Argument>>, bodies: readonly Body[]): Uint8Array<ArrayBuffer> {
  const { places } = layoutOf(all)
  const powers = bodies.some(({ used }) => used.some(({ operation }) => operation === 'nearest'))
  const count = powers ? GROUPS_OF_POWERS : GROUPS
  const pixels = count * 4
  const write = new FunctionWriter(PARAMETERS)
  const pictures = Object.entries(all).flatMap(([name, argument]) =>
    argument.kind === 'raster'
      ? [{ name, bytes: PIXEL_BYTES[argument.pixel], address: write.newWhole(), place: places.get(name)! }]
      : [],
  )
  const tails = new Map<string, number>()
  pictures.reduce((at, { name, bytes }) => (tails.set(name, at), at + pixels * bytes), FORMULA_TAIL)
  const row = write.newWhole()
  const left = write.newWhole()
  const aside = write.newWhole()
  const tables = new Map(
    Object.entries(all)
      .filter(([, { kind }]) => kind === 'pointer')
      .map(([name]) => [name, write.newWhole()]),
  )
  const addressOf = (name: string): number => pictures.find(picture => picture.name === name)!.address

  // Numbers are loaded once: what the processor has no room for it keeps near
  const numbers = new Map<string, number>()
  for (const { used } of bodies)
    for (const { operation, detail } of used) {
      if (operation !== 'constant' && operation !== 'value') continue
      const full = operation === 'constant' ? constantName(detail as number) : (detail as string)
      if (numbers.has(full)) continue
      // A colour's channels stand behind each other
      const [name, offset = 0] = full.split(' ')
      const own = write.newVector()
      write.get(VALUES)
      write.load(places.get(name!)! + Number(offset))
      write.set(own)
      numbers.set(full, own)
    }
  const numberAt = (name: string): void => write.get(numbers.get(name)!)
  for (const [name, own] of tables) {
    write.get(VALUES)
    write.loadWhole(places.get(name)!)
    write.set(own)
  }
  write.get(TOP)
  write.set(row)
  write.emit(CODE.loop)
  for (const { bytes, address, place } of pictures) {
    // pointer + ((row - top) stride + (x0 - left)) bytes
    write.get(RASTERS)
    write.loadWhole(place)
    write.get(row)
    write.get(RASTERS)
    write.loadWhole(place + RASTER.top)
    write.emit(CODE.i32.sub)
    write.get(RASTERS)
    write.loadWhole(place + RASTER.stride)
    write.emit(CODE.i32.mul)
    write.get(LEFT)
    write.emit(CODE.i32.add)
    write.get(RASTERS)
    write.loadWhole(place + RASTER.left)
    write.emit(CODE.i32.sub)
    write.number(Math.log2(bytes))
    write.emit(CODE.i32.shl, CODE.i32.add)
    write.set(address)
  }
  write.get(RIGHT)
  write.get(LEFT)
  write.emit(CODE.i32.sub)
  write.set(left)
  write.emit(CODE.loop)
  // The last pixels of a row go through room of their own, so that nothing beyond is touched
  const ifLast = (then: () => void): void => {
    write.get(left)
    write.number(pixels)
    write.emit(CODE.i32.ltS, CODE.if)
    then()
    write.emit(CODE.end)
  }
  const copy = (bytes: number): void => {
    write.get(left)
    write.number(Math.log2(bytes))
    write.emit(CODE.i32.shl, CODE.memoryCopy)
  }
  const tailOf = (name: string): void => {
    write.get(RASTERS)
    write.number(tails.get(name)!)
    write.emit(CODE.i32.add)
  }
  ifLast(() => {
    for (const { name, bytes, address } of pictures) {
      if (name === 'out') {
        write.get(address)
        write.set(aside)
      } else {
        tailOf(name)
        write.get(address)
        copy(bytes)
      }
      tailOf(name)
      write.set(address)
    }
  })
  const groups = Array.from({ length: count }, (_, group) => readPixels(write, addressOf('source'), group * 64))
  // Other pictures of colour, told apart by the names of their channels
  const others = pictures.filter(
    ({ name, bytes }) => bytes === PIXEL_BYTES.colour && name !== 'source' && name !== 'out',
  )
  const channels = groups.map(
    (_, group) =>
      new Map(
        others.flatMap(({ name, address }) =>
          Object.entries(readPixels(write, address, group * 64)).map(([which, own]) => [`${name} ${which}`, own]),
        ),
      ),
  )
  const body = (which: Body): void => {
    const sources = groups.map((own, group): Sources => ({
      ...own,
      x: () => {
        write.get(RIGHT)
        write.get(left)
        write.emit(CODE.i32.sub, CODE.toFloat)
        write.vector(VECTOR.f32Splat)
        write.four(group * 4 + 0.5, group * 4 + 1.5, group * 4 + 2.5, group * 4 + 3.5)
        write.vector(VECTOR.plus)
      },
      y: () => {
        write.get(row)
        write.emit(CODE.toFloat)
        write.vector(VECTOR.f32Splat)
        write.four(0.5, 0.5, 0.5, 0.5)
        write.vector(VECTOR.plus)
      },
      table: name => write.get(tables.get(name)!),
      single: name => {
        const channel = channels[group]!.get(name)
        if (channel !== undefined) return write.get(channel)
        write.get(addressOf(name))
        write.load(group * 16)
      },
    }))
    const colours = writeBody(which, write, numberAt, sources)
    groups.forEach(({ alpha }, group) => writePixels(write, addressOf('out'), group * 64, [...colours[group]!, alpha]))
  }
  if (bodies.length > 1) {
    groups.forEach(({ alpha }, group) => {
      write.get(alpha)
      numberAt(constantName(1))
      write.vector(VECTOR.f32Equal)
      if (group) write.vector(VECTOR.and)
    })
    write.vector(VECTOR.i32AllTrue)
    write.emit(CODE.if)
    body(bodies[0]!)
    write.emit(CODE.else)
    body(bodies[1]!)
    write.emit(CODE.end)
  } else body(bodies[0]!)
  ifLast(() => {
    write.get(aside)
    tailOf('out')
    copy(PIXEL_BYTES.colour)
  })
  for (const { bytes, address } of pictures) {
    write.get(address)
    write.number(pixels * bytes)
    write.emit(CODE.i32.add)
    write.set(address)
  }
  write.get(left)
  write.number(pixels)
  write.emit(CODE.i32.sub)
  write.tee(left)
  write.number(0)
  write.emit(CODE.i32.gtS)
  write.againIf()
  write.emit(CODE.end)
  write.get(row)
  write.number(1)
  write.emit(CODE.i32.add)
  write.tee(row)
  write.get(BOTTOM)
  write.emit(CODE.i32.ltS)
  write.againIf()
  write.emit(CODE.end)
  return write.module(MAXIMUM_PAGES)
}

/** Four pixels, by channel. Vectors that are interleaved pair by pair and then pair with pair. */
function readPixels(
  write: FunctionWriter,
  address: number,
  first: number,
): Record<'red' | 'green' | 'blue' | 'alpha', number> {
  const [a, b, c, d] = [0, 16, 32, 48].map(offset => {
    const own = write.newVector()
    write.get(address)
    write.load(first + offset)
    write.set(own)
    return own
  }) as [number, number, number, number]
  const joined = (first: number, second: number, lanes: readonly [number, number, number, number]): number => {
    const own = write.newVector()
    write.get(first)
    write.get(second)
    write.shuffle(...lanes)
    write.set(own)
    return own
  }
  const redGreen = [joined(a, b, [0, 4, 1, 5]), joined(c, d, [0, 4, 1, 5])] as const
  const blueAlpha = [joined(a, b, [2, 6, 3, 7]), joined(c, d, [2, 6, 3, 7])] as const
  return {
    red: joined(...redGreen, [0, 1, 4, 5]),
    green: joined(...redGreen, [2, 3, 6, 7]),
    blue: joined(...blueAlpha, [0, 1, 4, 5]),
    alpha: joined(...blueAlpha, [2, 3, 6, 7]),
  }
}

/** The other way round. */
function writePixels(write: FunctionWriter, address: number, first: number, channels: readonly number[]): void {
  const [red, green, blue, alpha] = channels as [number, number, number, number]
  const pair = (first: number, second: number, high: boolean): number => {
    const own = write.newVector()
    write.get(first)
    write.get(second)
    if (high) write.shuffle(2, 6, 3, 7)
    else write.shuffle(0, 4, 1, 5)
    write.set(own)
    return own
  }
  const pixel = (offset: number, redGreen: number, blueAlpha: number, high: boolean): void => {
    write.get(address)
    write.get(redGreen)
    write.get(blueAlpha)
    if (high) write.shuffle(2, 3, 6, 7)
    else write.shuffle(0, 1, 4, 5)
    write.store(first + offset)
  }
  for (const high of [false, true]) {
    const redGreen = pair(red, green, high)
    const blueAlpha = pair(blue, alpha, high)
    pixel(high ? 32 : 0, redGreen, blueAlpha, false)
    pixel(high ? 48 : 16, redGreen, blueAlpha, true)
  }
}

/** What a table holds at the four whole numbers that lie on the stack. */
function writeEntries(write: FunctionWriter, table: () => void): void {
  const places = write.newVector()
  const found = write.newVector()
  write.vector(VECTOR.toWhole)
  write.number(2)
  write.vector(VECTOR.i32Shl)
  write.set(places)
  const address = (lane: number): void => {
    table()
    write.get(places)
    write.extract(lane)
    write.emit(CODE.i32.add)
  }
  address(0)
  write.load(0, VECTOR.load32Splat)
  write.set(found)
  for (const lane of [1, 2, 3]) {
    address(lane)
    write.get(found)
    write.loadLane(lane)
    write.set(found)
  }
  write.get(found)
}

/** Where the channels of four pixels stand, and what brings the rest. */
type Sources = Record<'red' | 'green' | 'blue' | 'alpha', number> &
  Record<'x' | 'y', () => void> & { single: (name: string) => void; table: (name: string) => void }

/** Writes what a body computes, point after point, and says where red, green and blue of each group stand. */
function writeBody(
  { results, uses }: Body,
  write: FunctionWriter,
  numberAt: (name: string) => void,
  groups: readonly Sources[],
): number[][] {
  const writers = groups.map(sources => {
    const held = new Map<Term, number>()
    const hold = (term: Term): void => {
      const own = write.newVector()
      write.tee(own)
      held.set(term, own)
    }
    const emit = (asked: Term): void => {
      const term = lowered(asked)
      const { operation, inputs, detail } = term
      const own = held.get(term)
      if (own !== undefined) return write.get(own)
      if (operation === 'constant') return numberAt(constantName(detail as number))
      if (operation === 'value') return numberAt(detail as string)
      if (operation === 'pixel') {
        const name = detail as string
        if (name === 'x' || name === 'y') sources[name]()
        else if (name === 'red' || name === 'green' || name === 'blue' || name === 'alpha')
          return write.get(sources[name])
        else sources.single(name)
      } else if (operation === 'entry') {
        emit(inputs[0]!)
        writeEntries(write, () => sources.table(detail as string))
      } else if (operation === 'choose') {
        emit(inputs[1]!)
        emit(inputs[2]!)
        emit(inputs[0]!)
        write.vector(VECTOR.bitselect)
      } else {
        inputs.forEach(emit)
        if (operation === 'bitsLeft23' || operation === 'bitsRight23') write.number(23)
        write.vector(INSTRUCTIONS[operation]!)
      }
      if ((uses.get(term) ?? 0) > 1) hold(term)
    }
    return { held, hold, emit }
  })
  // Point after point, so that what one makes is there before the next begins
  for (const { red, green, blue } of results)
    for (const asked of [red, green, blue]) {
      const term = lowered(asked)
      if (!uses.has(term)) continue
      for (const { held, hold, emit } of writers) {
        if (held.has(term)) continue
        emit(term)
        if (!held.has(term)) hold(term)
        write.emit(CODE.drop)
      }
    }
  const { red, green, blue } = results.at(-1)!
  return writers.map(({ held }) => [red, green, blue].map(channel => held.get(lowered(channel))!))
}
