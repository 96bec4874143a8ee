// A card that stands upright in the scene and faces the camera: what a cut-out is, that stands on the ground.
import { common, grown, heightOf, widthOf, type Box } from '../engine/box'
import { MotionCarried, OwnPlaces } from '../../kernels/records'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { boxOfSize, type Size } from '../plan/size'
import type { Camera } from '../scene/scene'
import { dot, subtract, type Vector3 } from '../scene/vector'
import { pointOf, Projected } from '../treatment/projected'

/** Where a cut-out stands and how tall it is, in metres of the world; lean in degrees, clockwise as it is seen. */
export interface Stance {
  x: number
  level: number
  z: number
  height: number
  mirrored: boolean
  lean: number
}
/** Where in its own picture it touches the ground, and how high its top is: shares of width and height from the left and top. */
export interface Contact {
  footAcross: number
  footDown: number
  headDown: number
  /** A second place that touches the ground, where there is one. */
  second?: { across: number; down: number } | undefined
}
/** The picture of a card. */
export interface CardPicture {
  width: number
  height: number
  pixelAspect: number
}
export interface Card {
  foot: Vector3
  /** Unit vectors: to the right as the camera sees it, and toward the camera, level both. */
  right: Vector3
  toward: Vector3
  /** World metres to places of its picture: across = a s + b t + c, down = d s + e t + f; s to the right of the foot, t above it. */
  toPicture: Affine
  /** How much higher the ground is a metre to the right of the foot, along the card. */
  rise: number
}
/** x' = a x + b y + c, y' = d x + e y + f. */
export type Affine = readonly [a: number, b: number, c: number, d: number, e: number, f: number]
/** Nine numbers, row by row. */
export type Projection = readonly number[]

/** What is nearer to the camera than this, metres along the view axis, is not before it. */
export const BEFORE = 0.01
/** What is smaller than this, of a picture or in metres, is no size. */
const LEAST = 1e-4

/** Metres along the view axis of a place of the world. */
export function metresTo({ matrix: m }: Camera, [x, y, z]: Vector3): number {
  return -((x - m[12]!) * m[8]! + (y - m[13]!) * m[9]! + (z - m[14]!) * m[10]!)
}

/** The card of a cut-out that faces a camera. The card's picture has so many pixels. */
export function cardOf(
  stance: Stance,
  contact: Contact,
  { width, height, pixelAspect }: CardPicture,
  camera: Camera,
): Card {
  const foot: Vector3 = [stance.x, stance.level, stance.z]
  const m = camera.matrix
  let [tx, tz] = [m[12]! - foot[0], m[14]! - foot[2]]
  const far = Math.hypot(tx, tz)
  // Straight below or above the camera it faces where the camera comes from
  ;[tx, tz] = far > LEAST ? [tx / far, tz / far] : [m[8]!, m[10]!]
  const tall = Math.max(LEAST, contact.footDown - contact.headDown) * height
  const dense = tall / Math.max(LEAST, stance.height)
  const angle = (stance.lean * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle) * dense, Math.sin(angle) * dense]
  const side = (stance.mirrored ? -1 : 1) / pixelAspect
  // Leaning clockwise the picture is turned back, counter-clockwise with t up, to be read
  const toPicture: Affine = [side * cos, -side * sin, contact.footAcross * width, -sin, -cos, contact.footDown * height]
  return {
    foot,
    right: [tz, 0, -tx],
    toward: [tx, 0, tz],
    toPicture,
    rise: riseOf(contact, { width, height }, toPicture),
  }
}

function riseOf(
  { footAcross, footDown, second }: Contact,
  { width, height }: { width: number; height: number },
  to: Affine,
): number {
  if (!second) return 0
  const [s, t] = inverseAffine(to, (second.across - footAcross) * width, (second.down - footDown) * height)
  return Math.abs(s) < LEAST ? 0 : t / s
}
/** What a step of the picture is on the card. */
function inverseAffine([a, b, , d, e]: Affine, x: number, y: number): [s: number, t: number] {
  const det = a * e - b * d
  return [(e * x - b * y) / det, (a * y - d * x) / det]
}

/** A place of the card's picture in the world. */
export function inWorld({ foot, right, toPicture }: Card, x: number, y: number): Vector3 {
  const [s, t] = inverseAffine(toPicture, x - toPicture[2], y - toPicture[5])
  return [foot[0] + right[0] * s, foot[1] + t, foot[2] + right[2] * s]
}

/** Pixels of a frame so wide to a metre that stands across the view one metre away. */
export const pixelsAtOne = ({ focalLength, sensorWidth }: Camera, width: number): number =>
  (focalLength / sensorWidth) * width

/**
 * Rays of a camera: a pixel (x, y) of the full frame so large sees along X x + Y y + C in the world, one metre along the
 * view axis.
 */
export function raysOf(
  camera: Camera,
  width: number,
  height: number,
): { across: Vector3; down: Vector3; first: Vector3 } {
  const { matrix: m, focalLength, sensorWidth, shiftX, shiftY } = camera
  // Half of what is seen at one metre, across; pixels are square
  const side = sensorWidth / focalLength / width
  const [middleX, middleY] = [width / 2 - (shiftX * width) / 2, height / 2 + (shiftY * height) / 2]
  const across: Vector3 = [m[0]! * side, m[1]! * side, m[2]! * side]
  const down: Vector3 = [-m[4]! * side, -m[5]! * side, -m[6]! * side]
  const first = [0, 1, 2].map(i => -m[8 + i]! - across[i]! * middleX - down[i]! * middleY) as unknown as Vector3
  return { across, down, first }
}

/** Places of the frame (pixels of the full size) to those of the card's picture; below zero is behind the camera. */
export function toCard(card: Card, camera: Camera, width: number, height: number): Projection {
  const { across, down, first } = raysOf(camera, width, height)
  const { foot, right, toward, toPicture } = card
  const m = camera.matrix
  const off = subtract(foot, [m[12]!, m[13]!, m[14]!])
  const n = dot(off, toward)
  // A ray d meets the card at n / (d . toward): s and t there, times d . toward
  const columns = [across, down, first].map(d => {
    const w = dot(d, toward)
    const s = n * dot(d, right) - dot(off, right) * w
    const t = n * d[1] - off[1] * w
    return [
      toPicture[0] * s + toPicture[1] * t + toPicture[2] * w,
      toPicture[3] * s + toPicture[4] * t + toPicture[5] * w,
      w,
    ]
  })
  // Before the camera both are less than nothing: it faces the camera
  return [0, 1, 2].flatMap(row => columns.map(column => -column[row]!))
}

/** The projection of the full size for pixels so many times as large, and into pictures that have fewer pixels. */
export const shrunk = (m: Projection, shrink: number, fewerX = 1, fewerY = 1): number[] =>
  m.map((value, i) => (i % 3 < 2 ? value * shrink : value) * (i < 3 ? fewerX : i < 6 ? fewerY : 1))

/** One projection after another (`first`). */
export const after = (m: Projection, first: Projection): number[] =>
  [0, 3, 6].flatMap(row =>
    [0, 1, 2].map(column => [0, 1, 2].reduce((sum, k) => sum + m[row + k]! * first[k * 3 + column]!, 0)),
  )

/** Inverse of nine numbers; undefined where there is none. */
export function inverted(m: Projection): number[] | undefined {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number]
  const [A, B, C] = [e * i - f * h, f * g - d * i, d * h - e * g]
  const det = a * A + b * B + c * C
  if (!(Math.abs(det) > 0) || !Number.isFinite(det)) return undefined
  return [A, c * h - b * i, b * f - c * e, B, a * i - c * g, c * d - a * f, C, b * g - a * h, a * e - b * d].map(
    value => value / det,
  )
}

/** A picture as it stands on its card, with the size that all of it would have. */
export interface OnCard {
  node: Node
  picture: CardPicture
}

/** Pixels of the size worked at that a card covers at most, and a pixel round it; undefined where none. */
export function cardWindow(toPicture: Projection, { node }: OnCard, size: Size): Box | undefined {
  const back = inverted(toPicture)
  if (!back) return undefined
  const { left, top, right, bottom } = node.window
  const corners = [
    [left, top],
    [right, top],
    [left, bottom],
    [right, bottom],
  ].map(([x, y]) => [0, 3, 6].map(row => back[row]! * x! + back[row + 1]! * y! + back[row + 2]!))
  const frame = boxOfSize(size)
  // Where a corner lies behind the camera it may be anywhere
  if (corners.some(([, , w]) => !(w! > 1e-9))) return frame
  const xs = corners.map(([x, , w]) => x! / w!)
  const ys = corners.map(([, y, w]) => y! / w!)
  const box = {
    left: Math.floor(Math.min(...xs)) - 2,
    top: Math.floor(Math.min(...ys)) - 2,
    right: Math.ceil(Math.max(...xs)) + 2,
    bottom: Math.ceil(Math.max(...ys)) + 2,
  }
  const seen = common(frame, box)
  return seen.right > seen.left && seen.bottom > seen.top ? seen : undefined
}

/** Places of the picture for each pixel of a window, as maps have them. */
export const placesBy = (map: Projection, window: Box): Node =>
  pointNode(Projected, whole(kernelNode(OwnPlaces, {}, { window })), pointOf(map as number[]))

/** Pixels of a picture for one of the size that it would have whole. */
export const fewerOf = ({ node, picture }: OnCard): [x: number, y: number] => [
  widthOf(node.window) / picture.width,
  heightOf(node.window) / picture.height,
]

/**
 * Where the pixels of a window go whose places of the picture are by one projection now, by others a frame on and a frame
 * ago; undefined where they stay.
 */
export function carriedBy(
  now: Projection,
  next: Projection,
  before: Projection,
  window: Box,
): (() => Node) | undefined {
  if ([next, before].every(other => other.every((value, i) => value === now[i]))) return undefined
  const room = grown(window, 1)
  return () =>
    kernelNode(
      MotionCarried,
      { map: placesBy(now, room), next: placesBy(next, room), before: placesBy(before, room) },
      { window, needs: area => grown(area, 1) },
    )
}
