// The tree that lamps and shining triangles are picked by (kernels/assembly/lighttree.ts): built from above, each
// branch with a ball round its lights, a cone round the ways they face, and what they give together. Split by the
// measure of A. Conty Estevez and C. Kulla (2018): power times size times the cone's.
import * as L from '../../kernels/assembly/layout'
import { add, cross, dot, length, normalized, scaled, subtract, type Vector3 } from '../scene/vector'

/**
 * A light as the tree sees it. cone: angle within which its faces look; emits: angle from a face within which it
 * shines; radians. power: most W/sr that it sends one way.
 */
export interface TreeLight {
  index: number
  low: Vector3
  high: Vector3
  axis: Vector3
  cone: number
  emits: number
  power: number
}
interface Cone {
  axis: Vector3
  cone: number
}
interface Bounds {
  low: Vector3
  high: Vector3
  axis: Vector3
  cone: number
  emits: number
  power: number
}

const BINS = 12
/** Depth from which branches are split in equal halves, so that a path fits the bits of a word. */
const HALVES_FROM = 11

const smaller = (a: Vector3, b: Vector3): Vector3 => [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.min(a[2], b[2])]
const greater = (a: Vector3, b: Vector3): Vector3 => [Math.max(a[0], b[0]), Math.max(a[1], b[1]), Math.max(a[2], b[2])]

/** The smallest cone known to hold both (Pharr, Jakob and Humphreys 2023, section 3.8.4). */
export function coneOf(a: Cone, b: Cone): Cone {
  const between = Math.acos(Math.min(1, Math.max(-1, dot(a.axis, b.axis))))
  if (Math.min(Math.PI, between + b.cone) <= a.cone) return { axis: a.axis, cone: a.cone }
  if (Math.min(Math.PI, between + a.cone) <= b.cone) return { axis: b.axis, cone: b.cone }
  const cone = (a.cone + between + b.cone) / 2
  const turn = cone - a.cone
  const about = cross(a.axis, b.axis)
  if (cone >= Math.PI || length(about) < 1e-9) return { axis: a.axis, cone: Math.PI }
  // Turned from a's axis towards b's (Rodrigues)
  const k = normalized(about)
  return { axis: normalized(add(scaled(a.axis, Math.cos(turn)), scaled(cross(k, a.axis), Math.sin(turn)))), cone }
}

function joined(a: Bounds | undefined, b: Bounds): Bounds {
  if (!a) return b
  return {
    low: smaller(a.low, b.low),
    high: greater(a.high, b.high),
    ...coneOf(a, b),
    emits: Math.max(a.emits, b.emits),
    power: a.power + b.power,
  }
}

/** Power times extent times the measure of the cone (Conty Estevez and Kulla, equation 1). */
function cost({ low, high, cone, emits, power }: Bounds, thickness: number): number {
  const w = Math.min(Math.PI, cone + emits)
  const d = subtract(high, low)
  const size =
    (d[0] + thickness) * (d[1] + thickness) +
    (d[1] + thickness) * (d[2] + thickness) +
    (d[2] + thickness) * (d[0] + thickness)
  const measure =
    2 * Math.PI * (1 - Math.cos(cone)) +
    (Math.PI / 2) * (2 * w * Math.sin(cone) - Math.cos(cone - 2 * w) - 2 * cone * Math.sin(cone) + Math.cos(cone))
  return power * size * measure
}

/**
 * Nodes of TREE_STRIDE bytes, the root first, and for each light the turns from the root to it (bit 0 first; 1: right),
 * by its index.
 */
export function lightTree(lights: readonly TreeLight[]): { nodes: ArrayBuffer; trails: Map<number, number> } {
  const stride = L.TREE_STRIDE / 4
  const words = new Int32Array(Math.max(1, lights.length * 2 - 1) * stride)
  const floats = new Float32Array(words.buffer)
  const trails = new Map<number, number>()
  let made = 0
  const build = (list: TreeLight[], depth: number, trail: number): number => {
    const at = made++ * stride
    const bounds = list.reduce<Bounds | undefined>(joined, undefined)!
    const half = scaled(subtract(bounds.high, bounds.low), 0.5)
    floats.set(
      [
        ...add(bounds.low, half),
        length(half),
        ...bounds.axis,
        bounds.cone >= Math.PI ? -1 : Math.cos(bounds.cone),
        bounds.emits >= Math.PI ? -2 : Math.cos(bounds.emits),
        bounds.power,
      ],
      at,
    )
    words[at + (L.TREE_LEFT >> 2)] = -1
    if (list.length === 1) {
      words[at + (L.TREE_LIGHT >> 2)] = list[0]!.index
      trails.set(list[0]!.index, trail >>> 0)
      return at / stride
    }
    const [left, right] = (depth === 0 && beamsApart(list)) || divided(list, depth)
    words[at + (L.TREE_LEFT >> 2)] = build(left, depth + 1, trail)
    words[at + (L.TREE_RIGHT >> 2)] = build(right, depth + 1, trail | (1 << depth))
    return at / stride
  }
  build([...lights], 0, 0)
  return { nodes: words.buffer, trails }
}

/** Spots that are points beside all else: a ray through air asks each of them, where other lights have bounds together. */
function beamsApart(list: TreeLight[]): [TreeLight[], TreeLight[]] | undefined {
  const beams = list.filter(isBeam)
  return beams.length && beams.length < list.length ? [beams, list.filter(light => !isBeam(light))] : undefined
}
const isBeam = ({ emits }: TreeLight): boolean => emits === L.BEAM_EMITS

const middle = ({ low, high }: TreeLight, axis: number): number => (low[axis]! + high[axis]!) / 2

function divided(list: TreeLight[], depth: number): [TreeLight[], TreeLight[]] {
  const spans = [0, 1, 2].map(axis => {
    let low = Infinity
    let high = -Infinity
    for (const light of list) {
      const m = middle(light, axis)
      low = Math.min(low, m)
      high = Math.max(high, m)
    }
    return { axis, low, high }
  })
  const halves = (axis: number): [TreeLight[], TreeLight[]] => {
    const sorted = [...list].sort((a, b) => middle(a, axis) - middle(b, axis))
    return [sorted.slice(0, list.length >> 1), sorted.slice(list.length >> 1)]
  }
  const longest = spans.reduce((best, span) => (span.high - span.low > best.high - best.low ? span : best))
  const widest = longest.high - longest.low
  if (depth >= HALVES_FROM || list.length === 2 || !(widest > 0)) return halves(longest.axis)
  let best: { axis: number; bin: number; cost: number } | undefined
  const binOf = (light: TreeLight, { axis, low, high }: (typeof spans)[number]): number =>
    Math.min(BINS - 1, Math.floor(((middle(light, axis) - low) / (high - low)) * BINS))
  for (const span of spans) {
    if (!(span.high > span.low)) continue
    const bins: (Bounds | undefined)[] = new Array(BINS).fill(undefined)
    for (const light of list) {
      const bin = binOf(light, span)
      bins[bin] = joined(bins[bin], light)
    }
    for (let bin = 0; bin < BINS - 1; bin++) {
      const left = bins
        .slice(0, bin + 1)
        .reduce<Bounds | undefined>((sum, own) => (own ? joined(sum, own) : sum), undefined)
      const right = bins
        .slice(bin + 1)
        .reduce<Bounds | undefined>((sum, own) => (own ? joined(sum, own) : sum), undefined)
      if (!left || !right) continue
      // Thin slabs are dear: they bound badly across
      const total = ((cost(left, widest * 0.01) + cost(right, widest * 0.01)) * widest) / (span.high - span.low)
      if (!best || total < best.cost) best = { axis: span.axis, bin, cost: total }
    }
  }
  if (!best) return halves(longest.axis)
  const span = spans[best.axis]!
  const { bin } = best
  return [list.filter(light => binOf(light, span) <= bin), list.filter(light => binOf(light, span) > bin)]
}
