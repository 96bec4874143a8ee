// Rows of points as kernels. Which code is run depends on the forms alone, so a value that is dragged needs no new one;
// numbers and constants are arguments, which an instruction can take straight from memory.
import { POINT, type Argument, type Kernel } from '../../kernels/record'
import { MOST_ROW_PICTURES } from '../../kernels/assembly/layout'
import { bodyOf, inRow } from './body'
import { codeOf, constantName } from './code'
import type { PointForm, PointKernel } from './point'

/** A row of points as one kernel: its arguments are theirs, each named by its place in the row before its own name. */
export interface RowKernel extends Kernel {
  traversal: 'formula'
  /** Its module (code.ts). */
  code: Uint8Array<ArrayBuffer>
}
export const isRowKernel = (kernel: Kernel): kernel is RowKernel => kernel.traversal === 'formula'

/** Points of a row at most: longer ones take too long to compile. */
const MOST_POINTS = 24
/** Whether a row of so many points that read so many pictures, with the one they are laid on, is short enough. */
export const fitsRow = (points: number, pictures: number): boolean =>
  points <= MOST_POINTS && pictures < MOST_ROW_PICTURES

const numbers = new WeakMap<PointKernel, number>()
let counted = 0
const numberOf = (kernel: PointKernel): number => {
  let number = numbers.get(kernel)
  if (number === undefined) numbers.set(kernel, (number = counted++))
  return number
}
const known = new Map<string, RowKernel>()
const MOST_KNOWN = 1000

/** The kernel of a row of points: the same object for the same forms. */
export function rowOf(forms: readonly PointForm[]): RowKernel {
  const signature = forms
    .map(({ kernel, ...flags }) => [numberOf(kernel), ...Object.values(flags).map(Number)].join(''))
    .join()
  let row = known.get(signature)
  if (!row) {
    if (known.size >= MOST_KNOWN) known.clear()
    known.set(signature, (row = compiled(forms)))
  }
  return row
}

function compiled(forms: readonly PointForm[]): RowKernel {
  const all: Record<string, Argument> = { source: POINT.source, out: POINT.out }
  forms.forEach(({ kernel, matte, full }, i) => {
    for (const [name, argument] of Object.entries(kernel.arguments))
      if (name !== 'straight' && (name !== 'matte' || matte) && (name !== 'strength' || !full))
        all[inRow(name, i)] = argument
  })
  const pictures = Object.values(all).filter(({ kind }) => kind === 'raster').length
  if (!fitsRow(forms.length, pictures - 1)) throw new Error('A row of points is longer than it may be.')
  // Where all pixels are covered wholly nothing needs to be divided by alpha
  const bodies = (forms.some(({ straight }) => straight) ? [true, false] : [false]).map(covered =>
    bodyOf(forms, covered),
  )
  const constants: Record<string, number> = {}
  for (const { used } of bodies)
    for (const { operation, detail } of used)
      if (operation === 'constant') {
        const name = constantName(detail as number)
        constants[name] = detail as number
        all[name] = { kind: 'splat' }
      }
  const kernel: RowKernel = {
    name: forms.map(({ kernel }) => kernel.name).join(' '),
    traversal: 'formula',
    arguments: all,
    constants,
    code: codeOf(all, bodies),
  }
  return kernel
}
