// Specks as the camera sees them: each a short line with a soft border, in the picture's pixels, from far to near.
import type { Camera } from '../scene/scene'
import { SPECK, SPECK_ROWS } from '../../kernels/assembly/layout'
import { pixelsAtOne } from './card'
import { eachSpeck, SPECK_COLOUR, SPECK_FROM, SPECK_PHASE, SPECK_SIZE, SPECK_SPIN, SPECK_TO } from './specksSpace'
import type { SpecksValues } from './specksValues'

/** The shutter opens at one camera and closes at another. */
export interface Shot {
  opens: Camera
  middle: Camera
  closes: Camera
  /** Seconds of the middle of the shutter, and how long it is open. */
  seconds: readonly [now: number, open: number]
  /** Pixels of the full size, and how many of those a pixel worked at is wide. */
  width: number
  height: number
  shrink: number
}
export interface SeenSpecks {
  specks: Float32Array
  rows: Float32Array
  order: Float32Array
  count: number
}
/** Less of a speck than this is not seen. */
const UNSEEN = 1 / 2048
/** Half of the border is no narrower than this, pixels: so it goes over pixels without steps. */
const BORDER = 0.5
/** What tumbles is never thinner than this share of itself. */
const EDGE_ON = 0.2
/** Share of the way between nearest and farthest over which they come and go, and of a box. */
const COMES = { near: 0.5, far: 0.25, box: 0.15 }
const { PI } = Math

/** Area of a line of such a length with a radius and a border that goes evenly from nothing to all over twice `soft`. */
function areaOf(radius: number, soft: number, length: number): number {
  if (radius >= soft) return PI * (radius * radius + (soft * soft) / 3) + 2 * radius * length
  const out = radius + soft
  return (PI * out ** 3) / (6 * soft) + (out * out * length) / (2 * soft)
}
/** Math.hypot takes many times as long. */
const root = (a: number, b: number): number => Math.sqrt(a * a + b * b)
const smooth = (t: number): number => {
  const share = Math.min(1, Math.max(0, t))
  return share * share * (3 - 2 * share)
}

/** How much of a speck is there by where it is. */
function thereBy(values: SpecksValues): (x: number, y: number, z: number, metres: number) => number {
  const { near, far, where, x: mx, y: my, z: mz, wide, tall, deep, floor } = values
  const inside = (at: number, size: number): number => smooth((0.5 - Math.abs(at) / size) / COMES.box)
  return (x, y, z, metres) => {
    if (y < floor || metres <= near || metres >= far) return 0
    const share = smooth((metres - near) / (near * COMES.near)) * smooth((far - metres) / (far * COMES.far))
    return where === 'in a box' ? share * inside(x - mx, wide) * inside(y - my, tall) * inside(z - mz, deep) : share
  }
}

/** By what the colour of a speck is multiplied at a place: three numbers, which it sets. */
export type LightAt = (x: number, y: number, z: number, light: Float64Array) => void

/** What of specks is seen. */
export function specksSeen(values: SpecksValues, shot: Shot, lightAt: LightAt): SeenSpecks {
  const { opens, middle, closes, seconds, shrink } = shot
  const [width, height] = [shot.width / shrink, shot.height / shrink]
  const aspect = shot.width / shot.height
  const opening = onto(opens, width, height)
  const closing = onto(closes, width, height)
  const lens = blurOf(values, middle, width)
  const thereAt = thereBy(values)
  const dense = pixelsAtOne(middle, width)
  const found = new Records()
  const light = new Float64Array(3)
  const a = new Float64Array(2)
  const b = new Float64Array(2)
  const m = middle.matrix
  const { size, sizes, long, soft, turning, glitter, colour, other } = values
  eachSpeck(values, middle, aspect, seconds, speck => {
    const x = (speck[0]! + speck[3]!) / 2
    const y = (speck[1]! + speck[4]!) / 2
    const z = (speck[2]! + speck[5]!) / 2
    const metres = -((x - m[12]!) * m[8]! + (y - m[13]!) * m[9]! + (z - m[14]!) * m[10]!)
    const there = thereAt(x, y, z, metres)
    if (there <= 0 || !opening(speck, SPECK_FROM, a) || !closing(speck, SPECK_TO, b)) return
    const own = speck[SPECK_SIZE]!
    const radius = ((size / 2000) * (1 + sizes * (own * 2 - 1)) * dense) / metres
    const blur = lens(metres)
    // Far out of the picture nothing more need be known
    const most = radius * (long + soft) + blur + 2 * BORDER
    const [ax, ay] = a as unknown as [number, number]
    const [bx, by] = b as unknown as [number, number]
    if (Math.max(ax, bx) < -most || Math.max(ay, by) < -most) return
    if (Math.min(ax, bx) > width + most || Math.min(ay, by) > height + most) return
    const phase = speck[SPECK_PHASE]!
    const spin = speck[SPECK_SPIN]!
    // Tumbling it shows its face and its edge
    const turn = turning * seconds[0] * (spin < 0.5 ? -1 : 1) * (0.6 + 0.8 * own)
    const face = turning > 0 ? Math.abs(Math.cos(2 * PI * (turn + phase))) : 1
    const thick = radius * (turning > 0 ? EDGE_ON + (1 - EDGE_ON) * face : 1)
    const shapeLong = 2 * Math.max(0, radius * long - thick)
    const lies = 2 * PI * spin + (turning > 0 ? 2 * PI * turn * 0.37 : 0)
    const shapeX = shapeLong && Math.cos(lies) * shapeLong
    const shapeY = shapeLong && Math.sin(lies) * shapeLong
    const movedX = bx - ax
    const movedY = by - ay
    const wayLong = root(movedX, movedY)
    // The longer of both is the line, as thick as the other is across it
    const isMoved = wayLong > shapeLong
    const lineX = isMoved ? movedX : shapeX
    const lineY = isMoved ? movedY : shapeY
    const lineLong = isMoved ? wayLong : shapeLong
    const across = lineLong > 0 ? Math.abs(movedX * shapeY - movedY * shapeX) / lineLong / 2 : 0
    const drawn = root(thick, across)
    const wide = Math.max(drawn, blur)
    const border = Math.max(BORDER, Math.min(drawn, blur) + soft * drawn)
    const whole = areaOf(thick, Math.max(soft * thick, 1e-9), shapeLong)
    const share = Math.min(1, whole / areaOf(wide, border, lineLong)) * there
    if (share < UNSEEN) return
    const reach = wide + border
    const midX = (ax + bx) / 2
    const midY = (ay + by) / 2
    const left = Math.floor(midX - Math.abs(lineX) / 2 - reach)
    const right = Math.ceil(midX + Math.abs(lineX) / 2 + reach)
    const top = Math.floor(midY - Math.abs(lineY) / 2 - reach)
    const bottom = Math.ceil(midY + Math.abs(lineY) / 2 + reach)
    if (right <= 0 || bottom <= 0 || left >= width || top >= height) return
    lightAt(x, y, z, light)
    const gain =
      glitter > 0 ? Math.max(0, 1 + glitter * (2 * face ** 8 - 1 + 0.6 * Math.sin(seconds[0] * 9 + phase * 97))) : 1
    const mix = speck[SPECK_COLOUR]!
    const at = found.next(metres)
    const { numbers } = found
    numbers[at] = midX - lineX / 2
    numbers[at + 1] = midY - lineY / 2
    numbers[at + 2] = lineX
    numbers[at + 3] = lineY
    numbers[at + 4] = lineLong > 0 ? 1 / (lineLong * lineLong) : 0
    numbers[at + 5] = wide
    numbers[at + 6] = border
    numbers[at + 7] = share
    for (let i = 0; i < 3; i++)
      numbers[at + 8 + i] = Math.max(0, colour[i]! + (other[i]! - colour[i]!) * mix) * light[i]! * gain
    numbers[at + 11] = metres
    numbers[at + 12] = Math.max(0, left)
    numbers[at + 13] = Math.max(0, top)
    numbers[at + 14] = Math.min(Math.ceil(width), right)
    numbers[at + 15] = Math.min(Math.ceil(height), bottom)
  })
  return { ...sorted(found, Math.ceil(height)), count: found.count }
}

/** Places of the world to pixels: whether one is before the camera, and where. */
function onto(
  camera: Camera,
  width: number,
  height: number,
): (speck: Float64Array, at: number, to: Float64Array) => boolean {
  const m = camera.matrix
  const dense = pixelsAtOne(camera, width)
  const [midX, midY] = [width / 2 - (camera.shiftX * width) / 2, height / 2 + (camera.shiftY * height) / 2]
  return (speck, at, to) => {
    const dx = speck[at]! - m[12]!
    const dy = speck[at + 1]! - m[13]!
    const dz = speck[at + 2]! - m[14]!
    const metres = -(dx * m[8]! + dy * m[9]! + dz * m[10]!)
    to[0] = midX + ((dx * m[0]! + dy * m[1]! + dz * m[2]!) * dense) / metres
    to[1] = midY - ((dx * m[4]! + dy * m[5]! + dz * m[6]!) * dense) / metres
    return metres > 1e-3
  }
}

/**
 * Radius in pixels of the disc that a lens makes of a point: A f |z - s| / (z (s - f)) is its diameter on the sensor (thin
 * lens; A the width of its opening).
 */
function blurOf(
  { blurred, sharp_at: sharp, stop }: SpecksValues,
  camera: Camera,
  width: number,
): (metres: number) => number {
  if (blurred === 'not') return () => 0
  const focal = camera.focalLength / 1000
  const opening = focal / stop
  const at = Math.max(focal * 1.01, sharp)
  const scale = ((opening * focal) / (at - focal) / 2) * (width / (camera.sensorWidth / 1000))
  return metres => (scale * Math.abs(metres - at)) / metres
}

const EACH = SPECK / 4
/** A key holds a millimetre of distance and the number of a speck, of which there are less than this. */
const NUMBERS = 2 ** 22
/** Numbers of specks one after another, as many as come. */
class Records {
  numbers = new Float32Array(1024 * EACH)
  private keys = new Float64Array(1024)
  count = 0

  /** Where the numbers of one more begin. */
  next(metres: number): number {
    if (this.count === this.keys.length) {
      this.numbers = twice(this.numbers)
      this.keys = twice(this.keys)
    }
    this.keys[this.count] = Math.round(metres * 1000) * NUMBERS + this.count
    return this.count++ * EACH
  }
  /** Their numbers from far to near. */
  get farToNear(): Uint32Array {
    const keys = this.keys.slice(0, this.count).sort().reverse()
    return Uint32Array.from(keys, key => key % NUMBERS)
  }
}
function twice<T extends Float32Array | Float64Array>(array: T): T {
  const made = new (array.constructor as new (length: number) => T)(array.length * 2)
  made.set(array)
  return made
}

/** From far to near, with the lists of their rows. */
function sorted(found: Records, height: number): Omit<SeenSpecks, 'count'> {
  const { count } = found
  const bins = Math.ceil(height / SPECK_ROWS)
  const specks = new Float32Array(Math.max(1, count) * EACH)
  found.farToNear.forEach((from, i) => specks.set(found.numbers.subarray(from * EACH, (from + 1) * EACH), i * EACH))
  const counts = new Uint32Array(bins + 1)
  const first = (i: number): number => Math.floor(specks[i * EACH + 13]! / SPECK_ROWS)
  const last = (i: number): number => Math.min(bins, Math.ceil(specks[i * EACH + 15]! / SPECK_ROWS))
  for (let i = 0; i < count; i++) for (let bin = first(i); bin < last(i); bin++) counts[bin]!++
  const rows = new Float32Array(bins + 2)
  for (let bin = 0; bin < bins; bin++) rows[bin + 1] = rows[bin]! + counts[bin]!
  rows[bins + 1] = rows[bins]!
  const order = new Float32Array(Math.max(1, rows[bins]!))
  const filled = Uint32Array.from(rows)
  for (let i = 0; i < count; i++) for (let bin = first(i); bin < last(i); bin++) order[filled[bin]!++] = i
  return { specks, rows, order }
}
