// Code of rows of points (core/formula) as the threads of a pool come by it: the asking thread lays each module in the
// shared memory once and gives it a number; before a thread takes bands, it puts those that are new to it in its table.
import {
  CONTROL_FORMULA_COUNT,
  CONTROL_FORMULA_ERA,
  CONTROL_FORMULA_LIST,
  FORMULA_FIRST,
  MOST_FORMULAS,
} from '../../kernels/assembly/layout'
import type { RowKernel } from '../formula/compile'
import type { Kernels } from './memory'

/** What one thread has in its table. */
export class FormulaTable {
  private era = 0
  private count = 0

  constructor(
    private control: Int32Array,
    private memory: WebAssembly.Memory,
    private table: WebAssembly.Table,
  ) {}

  /** Takes in what is new. */
  update(): void {
    const era = this.control[CONTROL_FORMULA_ERA >> 2]!
    if (era !== this.era) {
      this.era = era
      this.count = 0
    }
    const count = this.control[CONTROL_FORMULA_COUNT >> 2]!
    for (; this.count < count; this.count++) {
      const list = (this.control[CONTROL_FORMULA_LIST >> 2]! >> 2) + this.count * 2
      const [pointer, bytes] = new Int32Array(this.memory.buffer, list * 4, 2) as unknown as [number, number]
      // A module is not compiled from memory that is shared
      const code = new Uint8Array(this.memory.buffer, pointer, bytes).slice()
      const { exports } = new WebAssembly.Instance(new WebAssembly.Module(code), { env: { memory: this.memory } })
      this.table.set(FORMULA_FIRST + this.count, exports.run)
    }
  }
}

/** Of the asking thread: which rows have a number. */
export class Formulas {
  private numbers = new Map<RowKernel, number>()
  private laid: number[] = []
  private list = 0

  constructor(
    private kernels: Kernels,
    private control: Int32Array,
  ) {}

  /** Numbers for the rows of one program, all of which hold until the next call. */
  numbersOf(rows: readonly RowKernel[]): number[] {
    const fresh = new Set(rows.filter(row => !this.numbers.has(row)))
    if (fresh.size + this.laid.length > MOST_FORMULAS) this.giveUp()
    return rows.map(row => this.numbers.get(row) ?? this.lay(row))
  }

  private lay(row: RowKernel): number {
    const { kernels, control } = this
    if (!this.list) {
      this.list = kernels.allocate(MOST_FORMULAS * 8)
      control[CONTROL_FORMULA_LIST >> 2] = this.list
    }
    const place = this.laid.length
    const pointer = kernels.place(row.code)
    kernels.words(this.list + place * 8, 2).set([pointer, row.code.byteLength])
    this.laid.push(pointer)
    this.numbers.set(row, FORMULA_FIRST + place)
    control[CONTROL_FORMULA_COUNT >> 2] = place + 1
    return FORMULA_FIRST + place
  }

  /** Begins anew: what was long ago is not asked for again. */
  private giveUp(): void {
    for (const pointer of this.laid) this.kernels.dispose(pointer)
    this.laid = []
    this.numbers.clear()
    this.control[CONTROL_FORMULA_ERA >> 2]!++
    this.control[CONTROL_FORMULA_COUNT >> 2] = 0
  }
}
