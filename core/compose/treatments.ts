// Lines of treatments laid on a picture, and the mattes that say where.
import { kernelNode, type KernelNodeOptions, type Node, type NodeArguments } from '../plan/node'
import { namesOf } from '../render/openpasses'
import type { MatteSettings, TreatmentSettings } from '../shot/document'
import { inOrder, type Rows } from '../shot/rows'
import { valueAt } from '../time/curve'
import { treatmentOf } from '../treatment/registry'
import { isNeutral } from '../treatment/treatment'
import { CoverageMatte } from '../../kernels/records'
import type { PassNodes } from './sources'
import { boxOfSize, type Size } from './size'

/** Drift and sway may carry a value past its range. */
export const within = (value: number, low: number, high: number): number => Math.min(high, Math.max(low, value))

export interface TreatedBy {
  frame: number
  size: Size
  /** Passes at that size, where there are any. */
  passes?: PassNodes
  /** Left out by its id. */
  without?: string
  /** Whether a matte counts as a share of what covers the pixel (for premultiplied layers). */
  relative: boolean
}

/** A picture with the lines of a recipe laid on it. */
export function treated(picture: Node, lines: Rows<TreatmentSettings>, by: TreatedBy): Node {
  const { frame, size, passes, relative } = by
  let result = picture
  for (const line of inOrder(lines)) {
    if (!line.on || by.without === line.id) continue
    const treatment = treatmentOf(line.kind)
    const values = Object.fromEntries(
      treatment.parameters.map(({ id, neutral, low, high }) => [
        id,
        within(valueAt(line.values[id] ?? neutral, frame), low, high),
      ]),
    )
    const strength = within(valueAt(line.strength, frame), 0, 1)
    if (strength === 0 || isNeutral(treatment, values)) continue
    if (line.matte && !passes) continue
    const matte = line.matte ? matteNode(line.matte, passes!, relative) : undefined
    const { kernel, straight, given } = treatment.point
    result = kernelNode(
      kernel,
      { source: result, matte, strength, straight: straight ? 1 : 0, ...given(values, size) } as NodeArguments<
        typeof kernel
      >,
      { window: result.window } satisfies KernelNodeOptions,
    )
  }
  return result
}

/**
 * Coverage of the named things, one float a pixel; relative: as a share of what covers the pixel (for premultiplied
 * layers). Throws StillPacked.
 */
export function matteNode(settings: MatteSettings, passes: PassNodes, relative: boolean): Node {
  const names = namesOf(passes.file, settings.of)
  return kernelNode(
    CoverageMatte,
    {
      coverage: passes.coverage(settings.of, settings.seen),
      selection: Float32Array.from([0, ...names.map(name => (settings.names.includes(name) ? 1 : 0))]),
      invert: settings.invert ? 1 : 0,
      relative: relative ? 1 : 0,
    },
    { window: boxOfSize(passes.size) },
  )
}
