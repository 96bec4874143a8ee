// The scale of the soundings: which distances from the camera are in sight, on a scale of logarithms.

/** Metres between which anything can be sounded. */
export const SOUNDED = { near: 0.05, far: 50_000 }
/** Bins over all of that; a distance's bin is as wide as a hundredth of it, about. */
export const SOUNDED_BINS = 1200
/** Where nothing is there yet. */
const BARE: Reach = { near: 0.5, far: 400 }
/** Far over near, at least. */
const CLOSEST = { fitted: 8, zoomed: 1.3 }
/** Room that is left before and behind. */
const ROOM = 1.5

export interface Reach {
  near: number
  far: number
}
const SPAN = Math.log(SOUNDED.far / SOUNDED.near)
export const binMetres = (bin: number): number => SOUNDED.near * Math.exp(((bin + 0.5) / SOUNDED_BINS) * SPAN)
const clamped = (metres: number): number => Math.min(SOUNDED.far, Math.max(SOUNDED.near, metres))

/** Metres between which nearly all (96 %) of what is rendered lies; undefined when nothing is. */
export function renderedReach(spread: ArrayLike<number>): Reach | undefined {
  let total = 0
  for (let i = 0; i < spread.length; i++) total += spread[i]!
  if (total <= 0) return undefined
  let sum = 0
  let low = 0
  let high = 0
  for (let i = 0; i < spread.length; i++) {
    sum += spread[i]!
    if (sum < total * 0.02) low = i + 1
    if (sum < total * 0.98) high = i + 1
  }
  return { near: binMetres(low), far: binMetres(Math.min(high, spread.length - 1)) }
}

/** The reach that shows what is rendered and the layers at their distances, with room about it. */
export function fittedReach(rendered: Reach | undefined, layers: readonly number[]): Reach {
  const all = [...(rendered ? [rendered.near, rendered.far] : []), ...layers.map(clamped)]
  if (!all.length) return BARE
  let near = Math.min(...all) / ROOM
  let far = Math.max(...all) * ROOM
  const wanting = CLOSEST.fitted / (far / near)
  if (wanting > 1) {
    near /= Math.sqrt(wanting)
    far *= Math.sqrt(wanting)
  }
  return { near: clamped(near), far: clamped(far) }
}

/** The reach grown or shrunk about a place that stays where it is; factor below 1 comes closer. */
export function zoomedReach({ near, far }: Reach, about: number, factor: number): Reach {
  const span = Math.log(far / near)
  const wanted = Math.min(SPAN, Math.max(Math.log(CLOSEST.zoomed), span * factor))
  const share = Math.log(about / near) / span
  return shiftedInto(Math.log(about) - share * wanted, wanted)
}
/** Moved along by a share of itself. */
export function movedReach({ near, far }: Reach, by: number): Reach {
  const span = Math.log(far / near)
  return shiftedInto(Math.log(near) + by * span, span)
}
function shiftedInto(low: number, span: number): Reach {
  const from = Math.min(Math.log(SOUNDED.far) - span, Math.max(Math.log(SOUNDED.near), low))
  return { near: Math.exp(from), far: Math.exp(from + span) }
}

/** Round distances in a reach: 1, 2 and 5 of each power of ten, or finer where it is short, no more than `most`. */
export function soundingTicks({ near, far }: Reach, most: number): number[] {
  const of = (parts: readonly number[]): number[] => {
    const found: number[] = []
    for (let power = Math.floor(Math.log10(near)); power <= Math.log10(far); power++)
      for (const part of parts) {
        const tick = Number((part * 10 ** power).toPrecision(3))
        if (tick >= near && tick <= far) found.push(tick)
      }
    return found
  }
  const finest = Array.from({ length: 90 }, (_, i) => 1 + i / 10)
  const sets = [finest, [1, 1.5, 2, 3, 4, 5, 6, 7, 8, 9], [1, 2, 3, 5, 7], [1, 2, 5], [1, 3], [1]]
  return sets.map(of).find(ticks => ticks.length <= most) ?? of([1]).slice(0, most)
}
