// What is drawn goes along with what is under it: by the motion passes, from frame to frame.
import { placesWithin } from '../matte/drawn/inside'
import type { Contour } from '../matte/drawn/contour'
import type { Animatable, Key } from '../time/curve'
import type { movedBy } from './drawn'
import type { Shape } from './schema/drawn'

type Xy = readonly [number, number]
/** What is at a place, a number that is 0 for nothing, and where that goes: pixels of the frame, right and down. */
export interface Going {
  thing: number
  /** To where it is a frame on, and to where it was a frame ago. */
  forward: Xy
  back: Xy
}
/** What is under places of the frame at a frame; undefined where there are no passes of that very frame. */
export type ReadGoing = (frame: number, places: readonly Xy[]) => Promise<readonly Going[] | undefined>
/** A turn in degrees with a growth about the frame's corner, then a move in pixels. */
interface Step {
  turn: number
  scale: number
  x: number
  y: number
}
const STANDS: Step = { turn: 0, scale: 1, x: 0, y: 0 }
/** A value is left without a key where the line between its neighbours is so near: pixels, degrees, hundredths of size. */
const NEAR = 0.02

/** A place that is followed: where it was at first, and where it is. */
interface Followed {
  from: Xy
  at: Xy
}

/** Places that are followed together: what most of them are on. */
interface Group {
  thing: number
  steps: Map<number, Step>
  there: Followed[]
}
/**
 * How what is under each of several groups of places moves from `frame` to each frame of a range that the passes reach
 * without a gap; undefined for a group that is on nothing known. What most places of a group are on is followed; a place
 * that comes to lie on another thing is given up. Each frame is read once. Throws where there are no passes of `frame`.
 */
async function carried(
  groups: readonly (readonly Xy[])[],
  frame: number,
  { first, last }: { first: number; last: number },
  read: ReadGoing,
): Promise<(ReadonlyMap<number, Step> | undefined)[]> {
  /** What is under each place of each group. */
  const under = async (at: number, places: readonly (readonly Xy[])[]): Promise<Going[][] | undefined> => {
    const found = await read(at, places.flat())
    let begin = 0
    return found && places.map(({ length }) => found.slice(begin, (begin += length)))
  }
  const here = await under(frame, groups)
  if (!here) throw new Error('There are no passes of this frame that tell how things move.')
  const followed = here.map((own): Group => ({ thing: mostOf(own), steps: new Map([[frame, STANDS]]), there: [] }))
  for (const way of ['forward', 'back'] as const) {
    const by = way === 'forward' ? 1 : -1
    const end = way === 'forward' ? last : first
    followed.forEach((group, g) => {
      group.there = group.thing ? groups[g]!.map(place => ({ from: place, at: place })) : []
    })
    let going: Going[][] | undefined = here
    for (let now = frame; going && (end - now) * by > 0; now += by) {
      followed.forEach((group, g) => {
        // What is on the thing goes where that goes
        group.there = group.there.flatMap(({ from, at }, i) => {
          const { thing, [way]: vector } = going![g]![i]!
          return thing === group.thing ? [{ from, at: [at[0] + vector[0], at[1] + vector[1]] as const }] : []
        })
        if (group.there.length) group.steps.set(now + by, stepOf(group.there))
      })
      if (now + by === end || followed.every(({ there }) => !there.length)) break
      going = await under(
        now + by,
        followed.map(({ there }) => there.map(({ at }) => at)),
      )
    }
  }
  return followed.map(({ thing, steps }) => (thing ? steps : undefined))
}
/** Where a place of what is there goes, from frame to frame; undefined where nothing known is there. */
export async function placeFollowed(
  [x, y]: Xy,
  frame: number,
  frames: { first: number; last: number },
  read: ReadGoing,
): Promise<ReadonlyMap<number, Xy> | undefined> {
  // A few beside it, so that it is not lost with the first that comes to lie on an edge
  const round = [-2, 0, 2].flatMap(dy => [-2, 0, 2].map(dx => [x + dx, y + dy] as const))
  const [steps] = await carried([round], frame, frames, read)
  return (
    steps &&
    new Map(
      [...steps].map(([at, { turn, scale, x: moveX, y: moveY }]) => {
        const [cos, sin] = [Math.cos((turn * Math.PI) / 180) * scale, Math.sin((turn * Math.PI) / 180) * scale]
        return [at, [x * cos - y * sin + moveX, x * sin + y * cos + moveY] as const]
      }),
    )
  )
}
/** The thing that most of them are on; 0 where none is on any. */
function mostOf(places: readonly Going[]): number {
  const counts = new Map<number, number>()
  for (const { thing } of places) if (thing) counts.set(thing, (counts.get(thing) ?? 0) + 1)
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? 0
}

/** The move, turn and growth that take places nearest to where they are (least squares; S. Umeyama 1991, in the plane). */
function stepOf(places: readonly Followed[]): Step {
  const mean = (pick: (place: Followed) => number): number =>
    places.reduce((sum, place) => sum + pick(place), 0) / places.length
  const [fx, fy, ax, ay] = [mean(p => p.from[0]), mean(p => p.from[1]), mean(p => p.at[0]), mean(p => p.at[1])]
  let [cos, sin, spread] = [0, 0, 0]
  for (const { from, at } of places) {
    const [x, y, u, v] = [from[0] - fx, from[1] - fy, at[0] - ax, at[1] - ay]
    cos += x * u + y * v
    sin += x * v - y * u
    spread += x * x + y * y
  }
  // Places in one spot cannot tell a turn
  const scale = spread > 1 ? Math.hypot(cos, sin) / spread : 1
  const turn = spread > 1 && scale > 0 ? Math.atan2(sin, cos) : 0
  const [c, s] = [Math.cos(turn) * scale, Math.sin(turn) * scale]
  return { turn: (turn * 180) / Math.PI, scale, x: ax - c * fx + s * fy, y: ay - s * fx - c * fy }
}

/** What both kinds of drawn things are moved by. */
type Whole = Pick<Shape, 'move_x' | 'move_y' | 'turn' | 'scale'>
type MovedBy = ReturnType<typeof movedBy>
/** The values of a thing that is moved by `was` at `frame` and by those steps from there. */
function wholeOf(was: MovedBy, frame: number, steps: ReadonlyMap<number, Step>): Whole {
  const [aboutX, aboutY] = was.about
  let before = 0
  const moves = [...steps]
    .sort(([a], [b]) => a - b)
    .map(([at, { turn, scale, x, y }], i) => {
      // Turns go on past a half one
      const whole = i ? before + ((((turn - before) % 360) + 540) % 360) - 180 : turn
      before = whole
      const [cos, sin] = [Math.cos((turn * Math.PI) / 180) * scale, Math.sin((turn * Math.PI) / 180) * scale]
      const [px, py] = [aboutX + was.moveX, aboutY + was.moveY]
      return {
        at,
        x: px * cos - py * sin + x - aboutX,
        y: px * sin + py * cos + y - aboutY,
        turn: whole,
        scale: was.scale * scale,
      }
    })
  const stands = moves.find(({ at }) => at === frame)!.turn
  const curve = (pick: (move: (typeof moves)[number]) => number, near = NEAR): Animatable =>
    curveOf(
      moves.map(move => [move.at, pick(move)]),
      near,
      frame,
    )
  return {
    move_x: curve(move => move.x),
    move_y: curve(move => move.y),
    turn: curve(move => was.turn + move.turn - stands),
    scale: curve(move => move.scale, NEAR / 100),
  }
}
/** Keys of values by frame, as few as keep within `near` of them, one at `here`; a number where they are all the same. */
export function curveOf(
  values: readonly (readonly [frame: number, value: number])[],
  near: number,
  here: number,
): Animatable {
  const last = values.length - 1
  const middle = values.findIndex(([at]) => at === here)
  const kept = new Set([0, middle, last])
  const spans: [number, number][] = [
    [0, middle],
    [middle, last],
  ]
  while (spans.length) {
    const [a, b] = spans.pop()!
    const [[from, start], [to, end]] = [values[a]!, values[b]!]
    let [which, most] = [-1, near]
    for (let i = a + 1; i < b; i++) {
      const [at, value] = values[i]!
      const off = Math.abs(value - (start + ((end - start) * (at - from)) / (to - from)))
      if (off > most) [which, most] = [i, off]
    }
    if (which < 0) continue
    kept.add(which)
    spans.push([a, which], [which, b])
  }
  const round = (value: number): number => Math.round(value * 1e6) / 1e6
  const keys = values.flatMap(([frame, value], i): Key[] =>
    kept.has(i) ? [{ frame, value: round(value), ease: 'linear' }] : [],
  )
  return keys.every(({ value }) => value === keys[0]!.value) ? keys[0]!.value : { keys }
}

/** What is drawn, as it stands at a frame, and how it is moved as a whole there. */
export interface Standing {
  contour: Contour
  by: MovedBy
}
/**
 * How drawn things are moved as a whole so that each goes along with what is under it at a frame; undefined for one that
 * is on nothing known. Throws where there are no passes of that frame, or all are on nothing known.
 */
export async function alongThings(
  drawn: readonly Standing[],
  frame: number,
  range: { first: number; last: number },
  read: ReadGoing,
): Promise<(Whole | undefined)[]> {
  const places = drawn.map(({ contour }) => placesWithin(contour))
  const found = await carried(places, frame, range, read)
  if (!found.some(steps => steps)) throw new Error('Nothing is under it that the passes know.')
  return found.map((steps, i) => steps && wholeOf(drawn[i]!.by, frame, steps))
}
