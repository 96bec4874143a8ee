// Values that may change over frames: keys with eases or handles between them, and on top a steady drift and a sway.
import { wander } from '../engine/wander'

export type Ease = 'hold' | 'linear' | 'smooth'
/** A handle as an offset from its key: frames (its length along time, 0 or more) and value. */
export interface Handle {
  frames: number
  value: number
}
export interface Key {
  frame: number
  value: number
  /** How the value goes from this key to the next. */
  ease: Ease
  /** Of a smooth key: towards the key before, and towards the key after. Absent: level, a third of the way. */
  before?: Handle
  after?: Handle
}
/**
 * Wandering about the value: at most `amount` either way, about `speed` turns a second; another seed wanders otherwise.
 */
export interface Sway {
  amount: number
  speed: number
  seed: number
}
export interface Curve {
  keys: Key[]
  /** Added each second, from the first key on (and taken away before it). */
  drift?: number
  sway?: Sway
  /** Frames that make a second for drift and sway: the shot's rate. */
  perSecond?: number
}
export type Animatable = number | Curve

export const isCurve = (value: unknown): value is Curve =>
  typeof value === 'object' && value !== null && Array.isArray((value as Curve).keys)
const DEFAULT_PER_SECOND = 24

/**
 * The value at a frame (which may lie between whole ones). Before the first and after the last key it stays, but for
 * drift and sway.
 */
export function valueAt(value: Animatable, frame: number): number {
  if (typeof value === 'number') return value
  const first = value.keys[0]
  if (!first) return 0
  let now = keyed(value.keys, frame)
  const perSecond = value.perSecond ?? DEFAULT_PER_SECOND
  if (value.drift) now += (value.drift * (frame - first.frame)) / perSecond
  if (value.sway) now += value.sway.amount * wander((frame / perSecond) * value.sway.speed, value.sway.seed)
  return now
}

function keyed(keys: readonly Key[], frame: number): number {
  const first = keys[0]!
  const last = keys[keys.length - 1]!
  if (frame <= first.frame) return first.value
  if (frame >= last.frame) return last.value
  let low = 0
  let high = keys.length - 1
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (keys[middle]!.frame <= frame) low = middle
    else high = middle
  }
  const a = keys[low]!
  const b = keys[high]!
  if (a.ease === 'hold') return a.value
  const t = (frame - a.frame) / (b.frame - a.frame)
  if (a.ease === 'linear') return a.value + (b.value - a.value) * t
  return between(a, b, t)
}

/**
 * A cubic Bezier in time and value from a to b; its handles never reach past the other key, so that time runs forward.
 */
function between(a: Key, b: Key, t: number): number {
  // Level handles of a third are the ease t²(3 - 2t)
  if (!a.after && !b.before) return a.value + (b.value - a.value) * t * t * (3 - 2 * t)
  const span = b.frame - a.frame
  const x1 = Math.min(1, Math.max(0, (a.after?.frames ?? span / 3) / span))
  const x2 = 1 - Math.min(1, Math.max(0, (b.before?.frames ?? span / 3) / span))
  const y1 = a.value + (a.after?.value ?? 0)
  const y2 = b.value + (b.before?.value ?? 0)
  // Where the curve's time is t: bisection, for it is monotone and this stays exact to the bit everywhere
  let low = 0
  let high = 1
  for (let i = 0; i < 48; i++) {
    const s = (low + high) / 2
    if (3 * (1 - s) ** 2 * s * x1 + 3 * (1 - s) * s * s * x2 + s ** 3 < t) low = s
    else high = s
  }
  const s = (low + high) / 2
  return (1 - s) ** 3 * a.value + 3 * (1 - s) ** 2 * s * y1 + 3 * (1 - s) * s * s * y2 + s ** 3 * b.value
}

/**
 * With a key of that value at that frame; a plain number without keys becomes a curve. A key that stood there keeps its
 * ease and handles.
 */
export function withKey(value: Animatable, frame: number, to: number, ease: Ease = 'smooth'): Curve {
  const curve: Curve = isCurve(value) ? value : { keys: [] }
  // Drift and sway come on top: the key carries what is left
  const own = to - (valueAt(curve, frame) - (curve.keys.length ? keyed(curve.keys, frame) : 0))
  const before = curve.keys.find(key => key.frame === frame)
  const key: Key = before ? { ...before, value: own } : { frame, value: own, ease }
  return {
    ...curve,
    keys: [...curve.keys.filter(other => other.frame !== frame), key].sort((a, b) => a.frame - b.frame),
  }
}

/**
 * With the value changed at that frame: sets a key there, or moves the plain number. A value without keys of its own
 * (drift or sway on one) moves as a whole.
 */
export function withValue(value: Animatable, frame: number, to: number): Animatable {
  if (!isCurve(value)) return to
  if (value.keys.length > 1 || !(value.drift || value.sway)) return withKey(value, frame, to)
  const key = value.keys[0]!
  return { ...value, keys: [{ ...key, value: key.value + to - valueAt(value, frame) }] }
}

/** With drift or sway laid over the value; taken off when both are absent and one key is left. */
export function withMotion(
  value: Animatable,
  frame: number,
  motion: Pick<Curve, 'drift' | 'sway'>,
  perSecond: number,
): Animatable {
  const keys: Key[] = isCurve(value) ? value.keys : [{ frame, value, ease: 'smooth' }]
  const sway = motion.sway && motion.sway.amount !== 0 ? motion.sway : undefined
  if (!motion.drift && !sway) return keys.length === 1 ? keys[0]!.value : { keys }
  return { keys, ...(motion.drift ? { drift: motion.drift } : {}), ...(sway ? { sway } : {}), perSecond }
}

/**
 * Keys chosen by their frames, moved, or scaled about a frame; the others stay. Whole frames; where two meet, the moved
 * one stays.
 */
export function movedKeys(
  curve: Curve,
  chosen: ReadonlySet<number>,
  change: { frames?: number; value?: number; scale?: number; about?: number },
): Curve {
  const about = change.about ?? 0
  const scale = change.scale ?? 1
  const taken = new Map<number, Key>()
  for (const key of curve.keys) if (!chosen.has(key.frame)) taken.set(key.frame, key)
  for (const key of curve.keys) {
    if (!chosen.has(key.frame)) continue
    const frame = Math.round(about + (key.frame - about) * scale + (change.frames ?? 0))
    const stretched = (handle: Handle | undefined): Handle | undefined =>
      handle && { frames: handle.frames * Math.abs(scale), value: handle.value }
    const moved: Key = { ...key, frame, value: key.value + (change.value ?? 0) }
    // Turned about in time, what led in leads out
    const [before, after] =
      scale < 0 ? [stretched(key.after), stretched(key.before)] : [stretched(key.before), stretched(key.after)]
    delete moved.before
    delete moved.after
    taken.set(frame, { ...moved, ...(before ? { before } : {}), ...(after ? { after } : {}) })
  }
  return { ...curve, keys: [...taken.values()].sort((a, b) => a.frame - b.frame) }
}

/** With copies of keys laid in at a frame: the earliest stands there, the others as far after it as they were. */
export function pastedKeys(value: Animatable, keys: readonly Key[], at: number): Curve {
  const first = Math.min(...keys.map(key => key.frame))
  const curve: Curve = isCurve(value) ? value : { keys: [] }
  const laid = keys.map(key => ({ ...key, frame: Math.round(key.frame - first + at) }))
  const frames = new Set(laid.map(key => key.frame))
  return {
    ...curve,
    keys: [...curve.keys.filter(key => !frames.has(key.frame)), ...laid].sort((a, b) => a.frame - b.frame),
  }
}

/** The value times a factor, and then so much more: of all its keys, its drift and its sway. */
export function mappedValue(value: Animatable, factor: number, more = 0): Animatable {
  if (typeof value === 'number') return value * factor + more
  const handle = (at: Handle | undefined): Handle | undefined => at && { ...at, value: at.value * factor }
  const mapped: Curve = {
    ...value,
    keys: value.keys.map(key => {
      const next = { ...key, value: key.value * factor + more }
      if (key.before) next.before = handle(key.before)
      if (key.after) next.after = handle(key.after)
      return next
    }),
  }
  if (value.drift !== undefined) mapped.drift = value.drift * factor
  if (value.sway) mapped.sway = { ...value.sway, amount: value.sway.amount * Math.abs(factor) }
  return mapped
}

/** Without those keys; the last one leaves its value as a plain number. */
export function withoutKeys(curve: Curve, frames: ReadonlySet<number>): Animatable {
  const keys = curve.keys.filter(key => !frames.has(key.frame))
  return keys.length ? { ...curve, keys } : curve.keys[0]!.value
}

/**
 * Every curve inside a value of any shape, with the words of its path. Things that carry their place in an order (in
 * `order`) come in it: a database may return them in another.
 */
export function eachCurve(value: unknown, visit: (curve: Curve, path: string[]) => void, path: string[] = []): void {
  if (typeof value !== 'object' || value === null) return
  if (isCurve(value)) {
    visit(value, path)
    return
  }
  const entries = Object.entries(value) as [string, { order?: unknown } | null][]
  const orderOf = ([, entry]: (typeof entries)[number]): unknown => entry?.order
  if (entries.every(entry => typeof orderOf(entry) === 'string'))
    entries.sort((a, b) => ((orderOf(a) as string) < (orderOf(b) as string) ? -1 : 1))
  for (const [key, entry] of entries) eachCurve(entry, visit, [...path, key])
}

export const tripleAt = (
  value: readonly [Animatable, Animatable, Animatable],
  frame: number,
): [number, number, number] => [valueAt(value[0], frame), valueAt(value[1], frame), valueAt(value[2], frame)]
