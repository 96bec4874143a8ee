// The binary format of WebAssembly, as much of it as a row of treatments needs: one module with one function of six
// addresses and coordinates, over the shared memory. Source: WebAssembly Core Specification 2.0, section 5, and for the
// shared memory the threads proposal (limits with flag 3).

const I32 = 0x7f
const V128 = 0x7b
const VOID = 0x40

export const CODE = {
  loop: [0x03, VOID],
  if: [0x04, VOID],
  else: [0x05],
  end: [0x0b],
  i32: { add: [0x6a], sub: [0x6b], mul: [0x6c], shl: [0x74], ltS: [0x48], gtS: [0x4a] },
  drop: [0x1a],
  toFloat: [0xb2],
  memoryCopy: [0xfc, 10, 0, 0],
} as const

/** Instructions of four lanes, behind the prefix 0xfd. */
export const VECTOR = {
  load: 0,
  load32Splat: 9,
  load32Lane: 86,
  i32ExtractLane: 27,
  toWhole: 248,
  store: 11,
  constant: 12,
  shuffle: 13,
  f32Splat: 19,
  f32Equal: 65,
  f32Above: 68,
  f32AtLeast: 70,
  and: 78,
  bitselect: 82,
  nearest: 106,
  floor: 104,
  i32Shl: 171,
  i32ShrS: 172,
  i32Add: 174,
  i32Sub: 177,
  i32AllTrue: 163,
  absolute: 224,
  root: 227,
  plus: 228,
  minus: 229,
  times: 230,
  over: 231,
  lesser: 234,
  greater: 235,
  fromWhole: 250,
} as const

/** An unsigned number in LEB128. */
export function unsigned(value: number): number[] {
  const bytes: number[] = []
  for (let rest = value >>> 0; ;) {
    const low = rest & 0x7f
    rest >>>= 7
    if (!rest) return [...bytes, low]
    bytes.push(low | 0x80)
  }
}
/** A signed one. */
export function signed(value: number): number[] {
  const bytes: number[] = []
  for (let rest = value | 0; ;) {
    const low = rest & 0x7f
    rest >>= 7
    if ((rest === 0 && !(low & 0x40)) || (rest === -1 && low & 0x40)) return [...bytes, low]
    bytes.push(low | 0x80)
  }
}
const text = (value: string): number[] => {
  const bytes = [...new TextEncoder().encode(value)]
  return [...unsigned(bytes.length), ...bytes]
}
const section = (id: number, content: readonly number[]): number[] => [id, ...unsigned(content.length), ...content]

/** Writes one function: what it holds of its own, and its instructions. */
export class FunctionWriter {
  private code: number[] = []
  private whole = 0
  private vectors = 0
  constructor(private parameters: number) {}

  emit(...parts: readonly (number | readonly number[])[]): void {
    for (const part of parts)
      if (typeof part === 'number') this.code.push(part)
      else for (const byte of part) this.code.push(byte)
  }
  /** A new i32; all of them are asked for before the first vector. */
  newWhole(): number {
    if (this.vectors) throw new Error('The whole numbers of a function come before its vectors.')
    return this.parameters + this.whole++
  }
  newVector(): number {
    return this.parameters + this.whole + this.vectors++
  }
  get(local: number): void {
    this.emit(0x20, unsigned(local))
  }
  set(local: number): void {
    this.emit(0x21, unsigned(local))
  }
  tee(local: number): void {
    this.emit(0x22, unsigned(local))
  }
  number(value: number): void {
    this.emit(0x41, signed(value))
  }
  loadWhole(offset: number): void {
    this.emit(0x28, 2, unsigned(offset))
  }
  /** Continues the loop so many levels out. */
  againIf(levels = 0): void {
    this.emit(0x0d, unsigned(levels))
  }
  vector(instruction: number): void {
    this.emit(0xfd, unsigned(instruction))
  }
  load(offset: number, instruction: number = VECTOR.load): void {
    this.emit(0xfd, unsigned(instruction), instruction === VECTOR.load ? 4 : 2, unsigned(offset))
  }
  store(offset: number): void {
    this.emit(0xfd, unsigned(VECTOR.store), 4, unsigned(offset))
  }
  four(...values: readonly [number, number, number, number]): void {
    this.vector(VECTOR.constant)
    this.emit([...new Uint8Array(Float32Array.from(values).buffer)])
  }
  /** One lane of a vector from memory: the address, then the vector. */
  loadLane(lane: number): void {
    this.emit(0xfd, unsigned(VECTOR.load32Lane), 2, 0, lane)
  }
  /** One lane as a whole number. */
  extract(lane: number): void {
    this.emit(0xfd, unsigned(VECTOR.i32ExtractLane), lane)
  }
  /** Lanes of two vectors, counted from 0 to 7. */
  shuffle(...lanes: readonly [number, number, number, number]): void {
    this.vector(VECTOR.shuffle)
    for (const lane of lanes) this.emit(lane * 4, lane * 4 + 1, lane * 4 + 2, lane * 4 + 3)
  }

  /** The module, with the function exported as `run`. memory: pages at most, as the memory itself says. */
  module(memoryPages: number): Uint8Array<ArrayBuffer> {
    const locals: number[][] = []
    if (this.whole) locals.push([...unsigned(this.whole), I32])
    if (this.vectors) locals.push([...unsigned(this.vectors), V128])
    const body = [...unsigned(locals.length), ...locals.flat(), ...this.code, 0x0b]
    const parts = [
      [0, 0x61, 0x73, 0x6d, 1, 0, 0, 0],
      section(1, [1, 0x60, this.parameters, ...Array<number>(this.parameters).fill(I32), 0]),
      section(2, [1, ...text('env'), ...text('memory'), 2, 3, 1, ...unsigned(memoryPages)]),
      section(3, [1, 0]),
      section(7, [1, ...text('run'), 0, 0]),
      section(10, [1, ...unsigned(body.length), ...body]),
    ]
    return Uint8Array.from(parts.flat())
  }
}
