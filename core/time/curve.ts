// Values that may change over frames.
export type Ease = 'hold' | 'linear' | 'smooth'
export interface Key { frame: number; value: number; /** How the value goes from this key to the next. */ ease: Ease }
export interface Curve { keys: Key[] }
export type Animatable = number | Curve

export const isCurve = (value: unknown): value is Curve => typeof value === 'object' && value !== null && Array.isArray((value as Curve).keys)

/** The value at a frame (which may lie between whole ones). Before the first and after the last key it stays. */
export function valueAt(value: Animatable, frame: number): number {
  if (typeof value === 'number') return value
  const { keys } = value
  const first = keys[0]
  if (!first) return 0
  if (frame <= first.frame) return first.value
  for (let i = 0; i + 1 < keys.length; i++) {
    const a = keys[i]!, b = keys[i + 1]!
    if (frame >= b.frame) continue
    if (a.ease === 'hold') return a.value
    const t = (frame - a.frame) / (b.frame - a.frame)
    return a.value + (b.value - a.value) * (a.ease === 'smooth' ? t * t * (3 - 2 * t) : t)
  }
  return keys[keys.length - 1]!.value
}

/** With a key of that value at that frame; a plain number without keys becomes a curve. */
export function withKey(value: Animatable, frame: number, to: number, ease: Ease = 'smooth'): Curve {
  const keys = isCurve(value) ? value.keys.filter(key => key.frame !== frame) : []
  return { keys: [...keys, { frame, value: to, ease }].sort((a, b) => a.frame - b.frame) }
}

/** With the value changed at that frame: moves the key there, or the plain number. */
export const withValue = (value: Animatable, frame: number, to: number): Animatable => isCurve(value) ? withKey(value, frame, to) : to
