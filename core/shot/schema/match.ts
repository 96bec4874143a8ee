// What was drawn on the plate to find its camera. Places are in pixels of the frame.
import {
  choice,
  flag,
  list,
  name,
  number,
  optional,
  place,
  rows,
  thing,
  three,
  type Row,
  type ValueOf,
} from '../../declare/field'

/** Along an edge that runs with one axis of the world. */
const LINE = thing({ axis: choice(['x', 'y', 'z']), from: place(), to: place() })
/** A place of the world that is seen at a place of the picture. */
const POINT = thing({ name: name(), world: three(), pixel: place() })
/** Places along something that is straight in the world. */
const CURVE = thing({ points: list(place(), 200) })
/** An upright check on the ground, metres. */
const POLE = thing({ x: number(-1e5, 1e5), z: number(-1e5, 1e5), height: number(0.001, 1e4) })

export const MATCH = thing({
  lines: rows(LINE, 400),
  /** The focal length is solved, or stays the camera's. */
  focal: choice(['solve', 'keep']),
  poles: rows(POLE, 400),
  points: optional(rows(POINT, 400)),
  /** Solved with the points: the first term of the lens. */
  pointsLens: optional(flag()),
  /** The lines (of three directions) give the optical centre too. */
  centre: optional(flag()),
  curves: optional(rows(CURVE, 100)),
})

export type MatchLine = ValueOf<typeof LINE> & Row
export type MatchPoint = ValueOf<typeof POINT> & Row
export type MatchCurve = ValueOf<typeof CURVE> & Row
export type MatchPole = ValueOf<typeof POLE> & Row
export type MatchSettings = ValueOf<typeof MATCH>
