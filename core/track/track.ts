// Camera tracks: an animated camera with the points it was solved from. Read from two open text forms of our own
// (docs/formats.md) and from glTF.
import { BadInput } from '../formats/errors'
import { rateOf, type Rate } from '../time/rate'
import type { Vector3 } from '../scene/vector'

export interface TrackFrame {
  /** Metres; degrees as a camera head turns: heading, pitch, bank. */
  x: number
  y: number
  z: number
  heading: number
  pitch: number
  bank: number
  /** Millimetres. */
  focalLength: number
}
export interface TrackPoint {
  name: string
  place: Vector3
}
export interface CameraTrack {
  rate?: Rate
  /** Number of the first frame as the maker counted. */
  first: number
  sensorWidth: number
  frames: TrackFrame[]
  points: TrackPoint[]
}

const MOST_FRAMES = 20000
const MOST_POINTS = 100000
const FIELDS = ['x', 'y', 'z', 'heading', 'pitch', 'bank'] as const

const wrong = (what: string): never => {
  throw new BadInput(`This camera track cannot be read: ${what}.`)
}
function number(value: unknown, where: string): number {
  const found = typeof value === 'string' && value.trim() !== '' ? Number(value) : value
  if (typeof found !== 'number' || !Number.isFinite(found) || Math.abs(found) > 1e9)
    return wrong(`${where} is no number (“${String(value).slice(0, 40)}”)`)
  return found
}

/**
 * JSON: { "northmist": "camera track", "version": 1, "rate": "24000/1001", "first": 1, "sensorWidth": 36, "frames": [{
 * x, y, z, heading, pitch, bank, focalLength }], "points": [{ "name", x, y, z }] }.
 */
function fromJson(text: string): CameraTrack {
  let value: {
    northmist?: unknown
    version?: unknown
    rate?: unknown
    first?: unknown
    sensorWidth?: unknown
    frames?: unknown
    points?: unknown
  }
  try {
    value = JSON.parse(text) as typeof value
  } catch {
    return wrong('it is no JSON')
  }
  if (value?.northmist !== 'camera track' || value.version !== 1)
    wrong('it does not say that it is a camera track of version 1')
  if (!Array.isArray(value.frames) || !value.frames.length) wrong('it has no frames')
  const list = value.frames as Record<string, unknown>[]
  const points = Array.isArray(value.points) ? (value.points as Record<string, unknown>[]) : []
  if (list.length > MOST_FRAMES || points.length > MOST_POINTS)
    wrong(`it is too long (at most ${MOST_FRAMES} frames and ${MOST_POINTS} points)`)
  return {
    rate: value.rate === undefined ? undefined : rateFrom(value.rate),
    first: value.first === undefined ? 1 : Math.round(number(value.first, '“first”')),
    sensorWidth: value.sensorWidth === undefined ? 36 : number(value.sensorWidth, '“sensorWidth”'),
    frames: list.map((entry, i) => ({
      ...(Object.fromEntries(
        FIELDS.map(field => [field, number(entry?.[field], `“${field}” of frame ${i + 1}`)]),
      ) as Omit<TrackFrame, 'focalLength'>),
      focalLength: number(entry?.focalLength, `“focalLength” of frame ${i + 1}`),
    })),
    points: points.map((entry, i) => ({
      name: String(entry?.name ?? `point ${i + 1}`).slice(0, 100),
      place: (['x', 'y', 'z'] as const).map(field => number(entry?.[field], `“${field}” of point ${i + 1}`)) as Vector3,
    })),
  }
}
function rateFrom(value: unknown): Rate {
  const found = /^(\d+)(?:\/(\d+))?$/.exec(String(value).trim())
  if (!found) return wrong(`its rate “${String(value).slice(0, 40)}” is none; it is written 25 or 24000/1001`)
  return rateOf(Number(found[1]), Number(found[2] ?? 1))
}

/**
 * CSV: a line `frame,x,y,z,heading,pitch,bank,focalLength` heads the camera's lines, a line `point,x,y,z` those of the
 * points (name first). Lines `rate,24000/1001` and `sensorWidth,36` may stand before. Lines that begin with # are left
 * out.
 */
function fromCsv(text: string): CameraTrack {
  const track: CameraTrack = { first: 1, sensorWidth: 36, frames: [], points: [] }
  let mode: 'head' | 'frames' | 'points' = 'head'
  let columns: string[] = []
  let next: number | undefined
  const lines = text.split(/\r?\n/)
  if (lines.length > MOST_FRAMES + MOST_POINTS + 1000) wrong('it has too many lines')
  lines.forEach((line, i) => {
    const bare = line.trim()
    if (!bare || bare.startsWith('#')) return
    const cells = bare.split(/[,;\t]/).map(cell => cell.trim())
    if (cells[0] === 'rate') {
      track.rate = rateFrom(cells[1])
      return
    }
    if (cells[0] === 'sensorWidth') {
      track.sensorWidth = number(cells[1], '“sensorWidth”')
      return
    }
    if (cells[0] === 'frame') {
      for (const field of [...FIELDS, 'focalLength'])
        if (!cells.includes(field)) wrong(`line ${i + 1} names no column “${field}”`)
      columns = cells
      mode = 'frames'
      return
    }
    if (cells[0] === 'point') {
      for (const field of ['x', 'y', 'z']) if (!cells.includes(field)) wrong(`line ${i + 1} names no column “${field}”`)
      columns = cells
      mode = 'points'
      return
    }
    if (mode === 'head') {
      wrong(`line ${i + 1} comes before any head line (frame,x,y,z,heading,pitch,bank,focalLength)`)
      return
    }
    const value = (field: string): number => number(cells[columns.indexOf(field)], `“${field}” in line ${i + 1}`)
    if (mode === 'points') {
      track.points.push({ name: cells[0]!.slice(0, 100), place: [value('x'), value('y'), value('z')] })
      return
    }
    const frame = value('frame')
    if (next === undefined) track.first = frame
    else if (frame !== next) wrong(`frame ${frame} in line ${i + 1} comes where frame ${next} should stand`)
    next = frame + 1
    track.frames.push({
      ...(Object.fromEntries(FIELDS.map(field => [field, value(field)])) as Omit<TrackFrame, 'focalLength'>),
      focalLength: value('focalLength'),
    })
  })
  if (!track.frames.length) wrong('it has no frames')
  if (track.frames.length > MOST_FRAMES || track.points.length > MOST_POINTS)
    wrong(`it is too long (at most ${MOST_FRAMES} frames and ${MOST_POINTS} points)`)
  return track
}

/** Throws BadInput with the line or field that is wrong. */
export function readTrack(bytes: Uint8Array): CameraTrack {
  if (bytes.length > 64 * 1048576) wrong('it is larger than 64 MiB')
  const text = new TextDecoder().decode(bytes).replace(/^\uFEFF/, '')
  const track = text.trimStart().startsWith('{') ? fromJson(text) : fromCsv(text)
  if (!(track.sensorWidth > 0.1 && track.sensorWidth < 1000)) wrong(`a sensor ${track.sensorWidth} mm wide is none`)
  const bad = track.frames.findIndex(frame => !(frame.focalLength >= 1 && frame.focalLength <= 5000))
  if (bad >= 0) wrong(`frame ${track.first + bad} has a focal length of ${track.frames[bad]!.focalLength} mm`)
  return track
}

/** Headings and banks without leaps over half a turn, so that they can be drawn through. */
export function unwound(degrees: readonly number[]): number[] {
  const out: number[] = []
  for (const value of degrees) {
    const before = out.at(-1) ?? value
    out.push(value - Math.round((value - before) / 360) * 360)
  }
  return out
}

/** Whether a file begins like one of our two text forms. */
export function isTrack(head: Uint8Array): boolean {
  const text = new TextDecoder().decode(head.subarray(0, 8192)).replace(/^\uFEFF/, '')
  return text.trimStart().startsWith('{')
    ? /"northmist"\s*:\s*"camera track"/.test(text)
    : /^frame[,;\t]/m.test(text) && !text.includes('\0')
}

/** The track in the JSON form. */
export const writeTrack = ({ rate, first, sensorWidth, frames, points }: CameraTrack): string =>
  JSON.stringify({
    northmist: 'camera track',
    version: 1,
    rate: rate && (rate.denominator === 1 ? String(rate.numerator) : `${rate.numerator}/${rate.denominator}`),
    first,
    sensorWidth,
    frames,
    points: points.map(({ name, place: [x, y, z] }) => ({ name, x, y, z })),
  })
