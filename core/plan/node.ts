// A picture that may be asked for: what it is made of and how, where it has pixels, and a key that is the same for the
// same picture. Nothing is computed here; schedule.ts says in which order it is done, runner.ts does it.
import { grown, type Box } from '../engine/box'
import { operatorKey } from '../engine/key'
import type { Kernels } from '../engine/memory'
import type { Argument, ArgumentsOf, Kernel, PixelKind, Raster } from '../../kernels/record'

export type Needs = (area: Box, input: number) => Box
interface Common {
  readonly key: string
  readonly pixel: PixelKind
  /** Where it has pixels; beyond there is nothing. */
  readonly window: Box
  readonly inputs: readonly Node[]
  /** What of its inputs (of one, by its place) an area of it needs; undefined: the very same pixels. */
  readonly needs?: Needs
}
/** Made by a kernel, whose pictures are its inputs by name. */
export interface KernelNode extends Common {
  readonly by: 'kernel'
  readonly kernel: Kernel
  readonly names: readonly string[]
  readonly given: Readonly<Record<string, unknown>>
  readonly tables: Readonly<Record<string, Float32Array>>
  /** Works only where one input is; elsewhere the result is another input as it stands. */
  readonly only?: { where: string; elsewhere: string }
}
/** Made by the asking thread itself: what comes from files, and what is only looked at now and then. */
export interface ScriptNode extends Common {
  readonly by: 'script'
  /** Fills `out`; the inputs hold at least what it needs. */
  readonly make: (out: Raster, inputs: readonly Raster[], kernels: Kernels) => void
  /** What of files must be at hand for it, awaited before anything is computed. */
  readonly wants?: () => Promise<void>
}
export type Node = KernelNode | ScriptNode

type Names<K extends Kernel, Kind extends Argument['kind']> = {
  [N in keyof K['arguments']]: K['arguments'][N]['kind'] extends Kind ? N : never
}[keyof K['arguments']]
/** A kernel's pictures as nodes, its tables as numbers, all else as it is given. */
export type NodeArguments<K extends Kernel> = {
  [N in keyof ArgumentsOf<K> as N extends 'out' ? never : N]: N extends Names<K, 'raster'>
    ? Node | (undefined extends ArgumentsOf<K>[N] ? undefined : never)
    : N extends Names<K, 'pointer'>
      ? Float32Array
      : ArgumentsOf<K>[N]
}

export interface KernelNodeOptions {
  window: Box
  /** Pixels round a pixel that it needs of its inputs. */
  reach?: number
  needs?: Needs
  only?: { where: string; elsewhere: string }
  /** Grows when the same arguments give other pixels. */
  version?: number
  /** What the tables are made from: stands for them in the key, where they are large. */
  told?: unknown
}

/** A node of a kernel. `kernelNode(Mix, { first, second, share: 0.5 }, { window: first.window })` */
export function kernelNode<K extends Kernel>(
  kernel: K,
  all: NodeArguments<K>,
  { window, reach, needs, only, version = 1, told }: KernelNodeOptions,
): KernelNode {
  const names: string[] = []
  const inputs: Node[] = []
  const tables: Record<string, Float32Array> = {}
  const given: Record<string, unknown> = {}
  for (const [name, { kind }] of Object.entries(kernel.arguments)) {
    if (name === 'out') continue
    const value = (all as Record<string, unknown>)[name]
    if (kind === 'raster') {
      if (!value) continue
      names.push(name)
      inputs.push(value as Node)
    } else if (kind === 'pointer') tables[name] = value as Float32Array
    else given[name] = value
  }
  return {
    by: 'kernel',
    key: operatorKey(
      kernel.name,
      version,
      names,
      inputs.map(input => input.key),
      given,
      told ?? Object.entries(tables).map(([name, table]) => [name, [...table]]),
      window,
    ),
    kernel,
    pixel: (kernel.arguments.out as { pixel: PixelKind }).pixel,
    window,
    names,
    inputs,
    given,
    tables,
    only,
    needs: needs ?? (reach ? area => grown(area, reach) : undefined),
  }
}

/** A node that a function fills. key: parts that name it, besides its inputs and its window. */
export function scriptNode(
  key: readonly unknown[],
  pixel: PixelKind,
  window: Box,
  make: ScriptNode['make'],
  { inputs = [], wants, needs }: Partial<Pick<ScriptNode, 'inputs' | 'wants' | 'needs'>> = {},
): ScriptNode {
  return {
    by: 'script',
    key: operatorKey(
      ...key,
      inputs.map(input => input.key),
      window,
    ),
    pixel,
    window,
    inputs,
    make,
    wants,
    needs,
  }
}

/** Every node that a picture is made of, each after all that it needs. */
export function nodesOf(root: Node): Node[] {
  const found = new Map<string, Node>()
  const out: Node[] = []
  const visit = (node: Node): void => {
    if (found.has(node.key)) return
    found.set(node.key, node)
    node.inputs.forEach(visit)
    out.push(node)
  }
  visit(root)
  return out
}
