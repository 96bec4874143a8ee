// What lines of words are set on.

export type Baseline =
  | { runs: 'straight' }
  /** Of a circle so that all of the longest line turns by so many degrees; less than nothing: the other way. */
  | { runs: 'arc'; bend: number }
  /** A cubic Bézier from where the line begins: its other three places, in heights of capitals, down. */
  | { runs: 'curve'; places: readonly [number, number, number, number, number, number] }

/** A place on it and its direction. */
interface On {
  x: number
  y: number
  cos: number
  sin: number
}

/** How finely the length of a curve is measured. */
const STEPS = 256

/**
 * So far along a baseline, in heights of capitals from where lines are aligned to: `share` of the way from its beginning
 * to its end (0 left, 0.5 centre, 1 right). wide: of the longest line.
 */
export function alongCurve(baseline: Baseline, along: number, share: number, wide: number): On {
  if (baseline.runs === 'curve') return onBezier(measured(baseline.places), along, share)
  const angle = baseline.runs === 'arc' ? (baseline.bend * Math.PI) / 180 : 0
  if (Math.abs(angle) < 1e-6 || !(wide > 0)) return { x: along, y: 0, cos: 1, sin: 0 }
  // Level in its middle, from where the longest line begins and ends
  const radius = wide / angle
  const middle = wide * (0.5 - share)
  const turned = (along - middle) / radius
  return {
    x: middle + radius * Math.sin(turned),
    y: radius * (1 - Math.cos(turned)),
    cos: Math.cos(turned),
    sin: Math.sin(turned),
  }
}

type Places = Extract<Baseline, { runs: 'curve' }>['places']
interface Measured {
  xs: Float64Array
  ys: Float64Array
  /** How long it is up to each. */
  lengths: Float64Array
}
let last: { places: Places; found: Measured } | undefined
function measured(places: Places): Measured {
  if (last?.places === places) return last.found
  const [ax, ay, bx, by, cx, cy] = places
  const xs = new Float64Array(STEPS + 1)
  const ys = new Float64Array(STEPS + 1)
  const lengths = new Float64Array(STEPS + 1)
  for (let i = 1; i <= STEPS; i++) {
    const t = i / STEPS
    const u = 1 - t
    xs[i] = 3 * u * u * t * ax + 3 * u * t * t * bx + t * t * t * cx
    ys[i] = 3 * u * u * t * ay + 3 * u * t * t * by + t * t * t * cy
    lengths[i] = lengths[i - 1]! + Math.hypot(xs[i]! - xs[i - 1]!, ys[i]! - ys[i - 1]!)
  }
  const found = { xs, ys, lengths }
  last = { places, found }
  return found
}

/** Beyond its ends it goes on straight. */
function onBezier({ xs, ys, lengths }: Measured, along: number, share: number): On {
  const at = lengths[STEPS]! * share + along
  let low = 0
  let high = STEPS
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (lengths[middle]! <= at) low = middle
    else high = middle
  }
  const long = lengths[high]! - lengths[low]!
  const [dx, dy] = long > 0 ? [(xs[high]! - xs[low]!) / long, (ys[high]! - ys[low]!) / long] : [1, 0]
  const on = at - lengths[low]!
  return { x: xs[low]! + dx * on, y: ys[low]! + dy * on, cos: dx, sin: dy }
}
