// A picture measured beside the one that it is to sit in: what each measures, by how much they differ, and whether
// that is more than the one that it is to sit in differs from place to place. Things are light and dark and of many
// colours anywhere: only what no part of the plate shows says that something does not fit.
import { boxOf, type Box } from '../engine/box'
import { edgesOf, lightPlane, sharpnessOf } from './edgeSpread'
import { fringingOf } from './fringing'
import { grainOf, type GrainMeasured } from './grain'
import { lightSideOf } from './lightSide'
import { lookOf, tonedOf, type Look } from './look'

export const MEASURES = [
  'blacks',
  'whites',
  'contrast',
  'colourfulness',
  'shadows',
  'lights',
  'sharpness',
  'grain',
  'noise',
  'fringing',
  'side',
] as const
export type MeasureId = (typeof MEASURES)[number]
/** How sure it is that they differ; unknown: one of them does not tell. */
export type Sure = 'fits' | 'likely' | 'certain' | 'unknown'
/**
 * Of each: lightness 0..1 (blacks, whites), stops (contrast), chroma (colourfulness), a and b of OKLab (shadows,
 * lights), pixels of the full frame (sharpness, fringing), share of middle grey (grain, noise), degrees in the picture
 * (side).
 */
export interface Beside {
  id: MeasureId
  plate?: number[]
  render?: number[]
  /** Render less plate; of colours how far they lie apart. */
  difference: number
  /** What the difference may be wrong by: as much as the plate differs from place to place. */
  within: number
  sure: Sure
  /** Of one number: the least and the most that a window of the plate measures. */
  ends?: [number, number]
}
/** The two pictures: scene-linear premultiplied RGBA of the same size, and what of the second is looked at. */
export interface Pair {
  plate: Float32Array
  render: Float32Array
  mask: Uint8Array
  width: number
}
/** In tone: own, what the render is like. */
export interface BesideTones {
  rows: Beside[]
  own?: Look | undefined
}
export interface BesideDetail {
  rows: Beside[]
  /** Grain of both, as the treatment lays it. */
  grain: { plate?: GrainMeasured; render?: GrainMeasured | undefined }
}

/** Differences that nobody sees: in the units of each. */
export const UNSEEN: Record<MeasureId, number> = {
  blacks: 0.015,
  whites: 0.03,
  contrast: 0.35,
  colourfulness: 0.008,
  shadows: 0.008,
  lights: 0.01,
  sharpness: 0.12,
  grain: 0.006,
  noise: 0.006,
  fringing: 0.6,
  side: 35,
}
/** Windows of the plate across and down. */
const ACROSS = 5
const DOWN = 4
/** A window is as large as what is looked at of the render, between these shares of the frame. */
const LEAST_WINDOW = 0.22
const MOST_WINDOW = 0.6
/**
 * How many times what the plate varies by a render must lie below and above all of it to be another picture. Deeper
 * blacks and brighter whites than anywhere are one soon; a thing may well have no black, and no white, of its own, or
 * lie out of focus. (Of 24 photographs each of six parts was held against the rest: what parts of a photograph do not
 * reach.)
 */
const BEYOND: Partial<Record<MeasureId, [below: number, above: number]>> = {
  blacks: [0.1, 1],
  whites: [5, 0.15],
  contrast: [1, 1],
  sharpness: [1, 5],
}
const USUAL = [1.25, 1.25] as const
/** In fewer windows than that nothing tells how much the plate varies. */
const LEAST_WINDOWS = 5

export const boundsOfMask = (mask: Uint8Array, width: number): Box | undefined => {
  const height = mask.length / width
  const box = { left: width, top: height, right: 0, bottom: 0 }
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (!mask[y * width + x]) continue
      box.left = Math.min(box.left, x)
      box.right = Math.max(box.right, x + 1)
      box.top = Math.min(box.top, y)
      box.bottom = y + 1
    }
  return box.right > box.left ? box : undefined
}

/** Windows over a picture, as large as another box as far as that is neither small nor most of it. */
function windowsOver(width: number, height: number, like: Box): Box[] {
  const part = (side: number, whole: number): number =>
    Math.round(Math.min(MOST_WINDOW, Math.max(LEAST_WINDOW, side / whole)) * whole)
  const [wide, high] = [part(like.right - like.left, width), part(like.bottom - like.top, height)]
  return Array.from({ length: ACROSS * DOWN }, (_, i) => {
    const left = Math.round(((i % ACROSS) / (ACROSS - 1)) * (width - wide))
    const top = Math.round((Math.floor(i / ACROSS) / (DOWN - 1)) * (height - high))
    return { left, top, right: left + wide, bottom: top + high }
  })
}

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!
const rounded = (value: number): number => Number(value.toPrecision(4))

/** What is measured as one number, beside what the windows of the plate measure. */
function judged(id: MeasureId, windows: readonly (number | undefined)[], render: number | undefined): Beside {
  const known = windows.filter(value => value !== undefined)
  if (known.length < LEAST_WINDOWS || render === undefined)
    return untold(id, known.length ? [median(known)] : undefined, render === undefined ? undefined : [render])
  const [low, high, middle] = [Math.min(...known), Math.max(...known), median(known)]
  const [below, above] = BEYOND[id] ?? USUAL
  return {
    id,
    plate: [rounded(middle)],
    render: [rounded(render)],
    difference: rounded(render - middle),
    within: rounded(Math.max(high - middle, middle - low, UNSEEN[id])),
    ends: [rounded(low), rounded(high)],
    sure:
      render < low
        ? sureOf(low - render, below * (high - low), UNSEEN[id])
        : sureOf(render - high, above * (high - low), UNSEEN[id]),
  }
}
/** By what lies beyond all that the plate shows, what it must lie beyond by, and what is not seen. */
function sureOf(beyond: number, least: number, unseen: number): Sure {
  if (beyond > 2 * least + 2 * unseen) return 'certain'
  return beyond > least + unseen ? 'likely' : 'fits'
}
const untold = (id: MeasureId, plate: number[] | undefined, render: number[] | undefined): Beside => ({
  id,
  ...(plate ? { plate: plate.map(rounded) } : {}),
  ...(render ? { render: render.map(rounded) } : {}),
  difference: 0,
  within: 0,
  sure: 'unknown',
})

type Pairing = [number, number]
/** The same of colours, as a and b. */
function judgedColour(id: MeasureId, windows: readonly (Pairing | undefined)[], render: Pairing | undefined): Beside {
  const known = windows.filter(value => value !== undefined)
  const plate: Pairing | undefined = known.length
    ? [median(known.map(([a]) => a)), median(known.map(([, b]) => b))]
    : undefined
  if (!plate || !render) return untold(id, plate, render)
  const apart = ([a, b]: Pairing): number => Math.hypot(a - plate[0], b - plate[1])
  const varies = Math.max(...known.map(apart))
  const difference = apart(render)
  return {
    id,
    plate: plate.map(rounded),
    render: render.map(rounded),
    difference: rounded(difference),
    within: rounded(Math.max(varies, UNSEEN[id])),
    sure: sureOf(difference - varies, USUAL[1] * varies, UNSEEN[id]),
  }
}

const LOOKS = ['blacks', 'whites', 'contrast', 'colourfulness'] as const
/**
 * Tones and colours, the side of the light and the fringes of the corners. scale: pixels of the full frame to one of
 * these.
 */
export function besideInTone({ plate, render, mask, width }: Pair, scale = 1): BesideTones {
  const height = mask.length / width
  const bounds = boundsOfMask(mask, width)
  const tones = tonedOf(plate, width)
  const windows = windowsOver(width, height, bounds ?? boxOf(width, height))
  const looks = windows.map(window => lookOf(tones, window))
  const own = bounds && lookOf(tonedOf(render, width, mask), bounds)
  const of = <T>(take: (look: Look) => T): (T | undefined)[] => looks.map(look => look && take(look))
  const rows = LOOKS.map(id =>
    judged(
      id,
      of(look => look[id]),
      own?.[id],
    ),
  )
  for (const id of ['shadows', 'lights'] as const)
    rows.push(
      judgedColour(
        id,
        of(look => look[id]),
        own?.[id],
      ),
    )
  rows.push(fringes({ plate, render, mask, width }, scale))
  rows.push(sides({ plate, render, mask, width }, windows, bounds))
  return { rows, own }
}

function fringes({ plate, render, mask, width }: Pair, scale: number): Beside {
  const [there, here] = [fringingOf(plate, width), fringingOf(render, width, mask)]
  if (!there || !here) return untold('fringing', there && [there.apart * scale], here && [here.apart * scale])
  const difference = (here.apart - there.apart) * scale
  const within = 4 * Math.hypot(there.error, here.error) * scale
  return {
    id: 'fringing',
    plate: [rounded(there.apart * scale)],
    render: [rounded(here.apart * scale)],
    difference: rounded(difference),
    within: rounded(Math.max(within, UNSEEN.fringing)),
    sure: sureOf(Math.abs(difference), within, UNSEEN.fringing),
  }
}

/** Less agreed than that a picture does not say where its light comes from. */
const AGREED = 0.22
const OWN_AGREED = 0.4
/** So many windows of the plate must tell of the same side: mean length of their directions. */
const TOGETHER = 0.85
const LEAST_TELLING = 6
function sides({ plate, render, mask, width }: Pair, windows: readonly Box[], bounds: Box | undefined): Beside {
  const light = lightPlane(plate)
  const found = windows
    .map(window => lightSideOf(light, width, window))
    .filter(side => side !== undefined && side.agreed > AGREED) as { degrees: number }[]
  const mean = found.reduce(
    (sum, { degrees }) => {
      const angle = (degrees * Math.PI) / 180
      return [sum[0]! + Math.cos(angle) / found.length, sum[1]! + Math.sin(angle) / found.length]
    },
    [0, 0],
  ) as Pairing
  const together = Math.hypot(...mean)
  const there =
    found.length >= LEAST_TELLING && together > TOGETHER ? (Math.atan2(mean[1], mean[0]) * 180) / Math.PI : undefined
  const own = bounds && lightSideOf(lightPlane(render, mask), width, bounds)
  const here = own && own.agreed > OWN_AGREED ? own.degrees : undefined
  const turned = there === undefined ? undefined : (there + 360) % 360
  if (turned === undefined || here === undefined)
    return untold('side', turned === undefined ? undefined : [turned], here === undefined ? undefined : [here])
  const difference = ((here - turned + 540) % 360) - 180
  // The circular standard deviation of what the windows tell
  const within = (Math.sqrt(-2 * Math.log(together)) * 180) / Math.PI
  return {
    id: 'side',
    plate: [rounded(turned)],
    render: [rounded(here)],
    difference: rounded(difference),
    within: rounded(Math.max(within, UNSEEN.side)),
    sure: sureOf(Math.abs(difference), 2 * within, UNSEEN.side),
  }
}

/** A mask with what lies so near it, too. */
function widened(mask: Uint8Array, width: number, by: number): Uint8Array {
  const out = mask.slice()
  for (let y = 0; y < mask.length / width; y++)
    for (let x = 0; x < width; x++) {
      if (!mask[y * width + x]) continue
      for (let k = 1; k <= by; k++) {
        if (x >= k) out[y * width + x - k] = 1
        if (x + k < width) out[y * width + x + k] = 1
        if (y >= k) out[(y - k) * width + x] = 1
        if ((y + k + 1) * width <= mask.length) out[(y + k) * width + x] = 1
      }
    }
  return out
}

/** What must be seen pixel by pixel: sharpness and grain. */
export function besideInDetail({ plate, render, mask, width }: Pair): BesideDetail {
  const height = mask.length / width
  const bounds = boundsOfMask(mask, width)
  const windows = windowsOver(width, height, bounds ?? boxOf(width, height))
  const edges = edgesOf(lightPlane(plate), width)
  // Where it meets the plate it has edges, too
  const ownEdges = edgesOf(lightPlane(render, widened(mask, width, 2)), width)
  const sharp = judged(
    'sharpness',
    windows.map(window => sharpnessOf(edges, window)),
    sharpnessOf(ownEdges),
  )
  // Where nothing is covered nothing is looked at
  const held = render.slice()
  for (let i = 0; i < mask.length; i++) if (!mask[i]) held[i * 4 + 3] = 0
  const quarters = [0, 1, 2, 3].map(i => {
    const [left, top] = [i & 1 ? width >> 1 : 0, i & 2 ? height >> 1 : 0]
    return cut(plate, width, { left, top, right: left + (width >> 1), bottom: top + (height >> 1) })
  })
  const whole = likelyGrain(plate, width)
  const grain = whole && { plate: whole, render: likelyGrain(held, width) }
  const parts = quarters.map(quarter => likelyGrain(quarter, width >> 1)?.amount)
  const { render: own } = grain ?? {}
  const isTexture =
    !!own && !!whole && own.amount > whole.amount && own.together > OF_TEXTURE && whole.together < OF_GRAIN
  return { rows: [sharp, grains(whole?.amount, parts, isTexture ? undefined : own?.amount)], grain: { ...grain } }
}
/** More than that of middle grey no camera has: that is grass, or a wall. */
const MOST_GRAIN = 0.3
function likelyGrain(pixels: Float32Array, width: number): GrainMeasured | undefined {
  const found = grainOf(pixels, width, true)
  return found && found.amount <= MOST_GRAIN ? found : undefined
}
function cut(pixels: Float32Array, width: number, { left, top, right, bottom }: Box): Float32Array {
  const out = new Float32Array((right - left) * (bottom - top) * 4)
  for (let y = top; y < bottom; y++)
    out.set(pixels.subarray((y * width + left) * 4, (y * width + right) * 4), (y - top) * (right - left) * 4)
  return out
}
/** What is not grain but fine texture is taken for it: so many times as much, or as little, is no sign. */
const GRAIN_BELOW = 3.2
const GRAIN_ABOVE = 1.6
/** Less is none. */
const LEAST_GRAIN = 0.003
/**
 * What varies alike in all channels, where the grain of the plate does not, is texture: nothing tells of grain there.
 */
const OF_TEXTURE = 0.93
const OF_GRAIN = 0.85

/** Noise of a render beside the grain of the plate: as much as that is not seen. */
export function besideNoise(plate: GrainMeasured | undefined, noise: number | undefined): Beside {
  if (!plate || noise === undefined)
    return untold('noise', plate && [plate.amount], noise === undefined ? undefined : [noise])
  const { amount } = plate
  return {
    ...{ id: 'noise', plate: [rounded(amount)], render: [rounded(noise)], difference: rounded(noise - amount) },
    within: rounded(Math.max(amount / 3, UNSEEN.noise)),
    sure: sureOf(noise - amount, amount / 3, UNSEEN.noise),
  }
}
function grains(plate: number | undefined, parts: readonly (number | undefined)[], render: number | undefined): Beside {
  if (plate === undefined || render === undefined)
    return untold('grain', plate === undefined ? undefined : [plate], render === undefined ? undefined : [render])
  const all = parts.filter(amount => amount !== undefined)
  // In a plate without grain what quarters have is texture: the least of it
  const known = (plate > 0 ? [plate, ...all] : [plate, Math.min(...all, Infinity)].filter(Number.isFinite)).map(
    amount => Math.max(LEAST_GRAIN, amount),
  )
  const [low, high] = [Math.min(...known), Math.max(...known)]
  const varies = high / low
  const own = Math.max(LEAST_GRAIN, render)
  const times = own < low ? low / own / GRAIN_BELOW : own / high / GRAIN_ABOVE
  const seen = Math.abs(own - plate) > UNSEEN.grain
  return {
    id: 'grain',
    plate: [rounded(plate)],
    render: [rounded(render)],
    difference: rounded(render - plate),
    within: rounded(Math.max(high - plate, plate - low, UNSEEN.grain)),
    sure: !seen || times <= varies ? 'fits' : times > 2 * varies ? 'certain' : 'likely',
  }
}
