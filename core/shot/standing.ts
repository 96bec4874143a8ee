// Whether the things of a scene touch anything: what hangs in the air by itself gives a picture away.
export interface StandingBox {
  name: string
  low: readonly [number, number, number]
  high: readonly [number, number, number]
}
/** Metres within which two things touch. */
const TOUCHES = 0.02

/**
 * Things whose box neither reaches the ground (height 0) nor meets that of another, each with the metres to what is
 * under it. Boxes are larger than what they hold: a thing is only told of where it certainly hangs free.
 */
export function floating(things: readonly StandingBox[]): { name: string; metres: number }[] {
  const meets = (a: StandingBox, b: StandingBox, axes: readonly number[]): boolean =>
    axes.every(k => a.low[k]! <= b.high[k]! + TOUCHES && b.low[k]! <= a.high[k]! + TOUCHES)
  return things.flatMap(thing => {
    if (thing.low[1] <= TOUCHES) return []
    const others = things.filter(other => other !== thing)
    if (others.some(other => meets(thing, other, [0, 1, 2]))) return []
    const under = others.filter(other => other.high[1] < thing.low[1] && meets(thing, other, [0, 2]))
    const metres = thing.low[1] - Math.max(0, ...under.map(({ high }) => high[1]))
    return [{ name: thing.name, metres: Number(metres.toFixed(4)) }]
  })
}
