// A camera track in the shot: the camera's values become curves with a key a frame.
import { readTrack, unwound, type CameraTrack, type TrackFrame } from '../track/track'
import { trackOfGltf } from '../track/gltf'
import { isGltf } from '../formats/gltf/gltf'
import { project } from '../match/project'
import type { Vector3 } from '../scene/vector'
import { valueAt, type Curve } from '../time/curve'
import { rateText, perSecond, type Rate } from '../time/rate'
import type { BlobReference, CameraSettings, Layer, ShotDocument, TrackUse } from './document'
import type { Unplaced } from './rows'
import type { Shape } from './schema/drawn'
import { cameraAt } from './scene'

/** Reads a track of any of its forms; glTF is sampled at the shot's rate. */
export const trackFrom = (bytes: Uint8Array, rate: Rate): Promise<CameraTrack> =>
  isGltf(bytes) ? trackOfGltf(bytes, rate) : Promise.resolve(readTrack(bytes))

/**
 * The camera follows the track, whose first frame stands at frame `start` of the shot. Frame n of the track stands at
 * start + n.
 */
export function useTrack(document: ShotDocument, reference: BlobReference, track: CameraTrack, start: number): void {
  const round = (value: number, digits: number): number => Number(value.toFixed(digits))
  const curve = (values: readonly number[], digits: number): Curve | number =>
    values.every(value => value === values[0])
      ? round(values[0]!, digits)
      : { keys: values.map((value, i) => ({ frame: start + i, value: round(value, digits), ease: 'linear' as const })) }
  const list = (field: keyof TrackFrame): number[] => track.frames.map(frame => frame[field])
  const camera: CameraSettings = {
    focalLength: curve(list('focalLength'), 4),
    sensorWidth: track.sensorWidth,
    x: curve(list('x'), 5),
    y: curve(list('y'), 5),
    z: curve(list('z'), 5),
    heading: curve(unwound(list('heading')), 5),
    pitch: curve(list('pitch'), 5),
    bank: curve(unwound(list('bank')), 5),
  }
  const use: TrackUse = {
    ...reference,
    start,
    count: track.frames.length,
    points: track.points.length,
    ...(track.rate ? { rate: track.rate } : {}),
  }
  document.scene.camera = camera
  document.scene.track = use
}

/** Moves the keys of the camera with the track's start. */
export function startTrack(document: ShotDocument, start: number): void {
  const { track, camera } = document.scene
  if (!track) return
  const by = start - track.start
  for (const value of Object.values(camera))
    if (typeof value === 'object') for (const key of (value as Curve).keys) key.frame += by
  track.start = start
}

const MOST_KEYS = 5000
/** Where a place of the world stands at each frame of the shot, and now. Throws when it is behind the camera. */
function travels(
  document: ShotDocument,
  place: Vector3,
  frame: number,
): { now: Seen; curve: (pick: (entry: Seen) => number) => Curve } {
  const {
    frames: { first, last },
    frame: { width, height },
    scene,
  } = document
  const seen = Array.from({ length: Math.min(MOST_KEYS, last - first + 1) }, (_, i): Seen => {
    const { u, v, metres } = project(cameraAt(scene.camera, first + i), width / height, place)
    return { at: first + i, x: u * width, y: v * height, metres }
  }).filter(entry => entry.metres > 0.05)
  const now = seen.find(entry => entry.at === frame) ?? seen[0]
  if (!now) throw new Error('That point is behind the camera.')
  return {
    now,
    curve: pick => ({
      keys: seen.map(entry => ({ frame: entry.at, value: Number(pick(entry).toFixed(4)), ease: 'linear' as const })),
    }),
  }
}
/** A frame, a place in its pixels, and how far away that is. */
interface Seen {
  at: number
  x: number
  y: number
  metres: number
}
/** Layers that are set on a point. */
const SET_ON_POINTS = ['picture', 'figure', 'element'] as const
type SetOnPoint = Extract<Layer, { kind: (typeof SET_ON_POINTS)[number] }>
export const isSetOnPoint = (layer: Layer | undefined): layer is SetOnPoint =>
  !!layer && (SET_ON_POINTS as readonly string[]).includes(layer.kind)
/**
 * A layer that travels with a place of the world: what stands in that is put there; of a picture its place, distance and
 * size get a key at each frame of the shot, and at `frame` it is as large as it was. Throws when the place is behind the
 * camera.
 */
export function setLayerOnPoint(
  document: ShotDocument,
  layer: Unplaced<SetOnPoint>,
  place: Vector3,
  frame: number,
): void {
  const [x, y, z] = place.map(value => Number(value.toFixed(4))) as Vector3
  if (layer.kind === 'figure') Object.assign(layer, { x, level: y, z })
  if (layer.kind === 'element') Object.assign(layer, { x, y, z })
  if (layer.kind !== 'picture') return
  const size = valueAt(layer.scale, frame)
  const { now, curve } = travels(document, place, frame)
  Object.assign(layer, {
    x: curve(entry => entry.x),
    y: curve(entry => entry.y),
    distance: curve(entry => entry.metres),
    scale: curve(entry => (size * now.metres) / entry.metres),
  })
}
/**
 * A drawn shape that travels with a place of the world and grows as that comes nearer; at `frame` it stands as it does.
 * Throws when the place is behind the camera.
 */
export function setShapeOnPoint(document: ShotDocument, shape: Shape, place: Vector3, frame: number): void {
  const { now, curve } = travels(document, place, frame)
  const was = { x: valueAt(shape.move_x, frame), y: valueAt(shape.move_y, frame), scale: valueAt(shape.scale, frame) }
  const [aboutX, aboutY] = shape.about
  const times = (entry: Seen): number => now.metres / entry.metres
  // What it turns about stays as far from the place as it is, grown as much
  Object.assign(shape, {
    move_x: curve(entry => entry.x + (aboutX + was.x - now.x) * times(entry) - aboutX),
    move_y: curve(entry => entry.y + (aboutY + was.y - now.y) * times(entry) - aboutY),
    scale: curve(entry => was.scale * times(entry)),
  })
}

/** What of the track does not fit the shot, in sentences. */
export function trackFaults(document: ShotDocument): string[] {
  const { track } = document.scene
  const { frames, rate, plate } = document
  if (!track) return []
  const faults: string[] = []
  const last = track.start + track.count - 1
  const length = frames.last - frames.first + 1
  if (track.start > frames.first || last < frames.last)
    faults.push(
      `The track has ${track.count} frames and covers ${track.start} to ${last}; the shot runs from ${frames.first} to ${frames.last} (${length} frames). Outside the track the camera stands still.`,
    )
  if (plate?.clip && plate.clip.count !== track.count)
    faults.push(`The track has ${track.count} frames, the plate ${plate.clip.count}.`)
  if (track.rate && Math.abs(perSecond(track.rate) - perSecond(rate)) > 1e-6)
    faults.push(
      `The track was made at ${rateText(track.rate)} frames a second, the shot runs at ${rateText(rate)}: frame for frame it still fits the plate it was made from.`,
    )
  return faults
}
