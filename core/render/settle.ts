// What is done to a render's planes once its samples are there, by what the pixels about each pixel show.
import { LUMINANCE, luminanceAt } from '../colour/luminance'
import { litCounts } from './noise'
import { LIGHT_PARTS } from './passes'
import type { Halves, RenderedPasses } from './planes'

/** All of it, in place. The planes must be fresh from the samples: done twice it is done too much. */
export function settle(passes: RenderedPasses): void {
  boundFireflies(passes)
  boundSpecks(passes)
  fillHiddenGround(passes)
  softenLamps(passes)
}

function luminanceOf(planes: readonly Float32Array[], pixels: number): Float32Array {
  const out = new Float32Array(pixels)
  for (let i = 0; i < pixels; i++) for (const plane of planes) out[i]! += luminanceAt(plane, i * 3)
  return out
}

/** Pixels to each side that a pixel is judged by, and how many of them may be outliers as well. */
const REACH = 2
const FELLOWS = 2
/** Times its own noise that a pixel may stand out by before it is believed. */
const BELIEVED = 2

/**
 * How far a pixel may go up (or, with sign -1, down), by those about it: beyond all of them but two by no more than that
 * one is beyond their mean, which is told too. Undefined where it does not stand out.
 */
function boundAt(
  plane: Float32Array,
  width: number,
  height: number,
  x: number,
  y: number,
  sign: 1 | -1,
): { bound: number; mean: number } | undefined {
  const own = plane[y * width + x]! * sign
  // The three that go furthest, the first foremost
  let first = -Infinity
  let second = -Infinity
  let third = -Infinity
  let sum = 0
  let count = 0
  for (let dy = -REACH; dy <= REACH; dy++) {
    const row = y + dy
    if (row < 0 || row >= height) continue
    for (let dx = -REACH; dx <= REACH; dx++) {
      const column = x + dx
      if (column < 0 || column >= width || (dx === 0 && dy === 0)) continue
      const value = plane[row * width + column]! * sign
      sum += value
      count++
      if (value > third) {
        if (value > first) {
          third = second
          second = first
          first = value
        } else if (value > second) {
          third = second
          second = value
        } else third = value
        // As many go as far: it does not stand out
        if (third >= own) return undefined
      }
    }
  }
  if (count <= FELLOWS + 1) return undefined
  const mean = (sum - first - second) / (count - FELLOWS)
  const bound = third + (third - mean)
  return own > bound ? { bound: bound * sign, mean: mean * sign } : undefined
}

/**
 * Fireflies: pixels whose light is one rare sample's. A pixel that is brighter than those about it explain comes down to
 * what they do, unless it is brighter by more than twice its own noise: a glint that most samples found is no
 * accident, and stays. Matt light, and light mirrored and let through, each by itself; what is seen of lamps and sky
 * themselves is left. The energy of what is taken is lost.
 */
function boundFireflies(passes: RenderedPasses): void {
  const { light, noise, rawDirect, rawIndirect, width, height } = passes
  if (!light || !noise) return
  const pixels = width * height
  const counts = litCounts(passes)
  const kinds: { parts: Float32Array[]; halves: Halves; raw: Float32Array[] }[] = [
    {
      parts: [light.diffuse_direct, light.diffuse_indirect],
      halves: noise.matt,
      raw: [rawDirect, rawIndirect].filter(plane => plane !== undefined),
    },
    { parts: [light.reflection, light.refraction], halves: noise.sent, raw: [] },
  ]
  for (const { parts, halves, raw } of kinds) {
    const bright = luminanceOf(parts, pixels)
    for (let i = 0; i < pixels; i++) {
      const samples = counts[i]!
      if (!(bright[i]! > 0) || samples < 2) continue
      const y = Math.floor(i / width)
      const bound = boundAt(bright, width, height, i - y * width, y, 1)?.bound
      if (bound === undefined) continue
      // Standard deviation of the mean, were the samples independent
      let own = 0
      for (let c = 0; c < 3; c++) {
        const mean = parts.reduce((sum, plane) => sum + plane[i * 3 + c]!, 0)
        own += LUMINANCE[c]! * Math.sqrt(Math.max(0, halves.squares[i * 3 + c]! - mean * mean) / (samples - 1))
      }
      if (bright[i]! - bound > BELIEVED * own) continue
      const factor = bound / bright[i]!
      for (let c = i * 3; c < i * 3 + 3; c++) {
        noise.whole.odd[c]! -= halves.odd[c]! * (1 - factor)
        noise.whole.squares[c]! = Math.max(0, noise.whole.squares[c]! - halves.squares[c]! * (1 - factor ** 2))
        halves.odd[c]! *= factor
        halves.squares[c]! *= factor ** 2
        rescaled(passes, c, parts, factor)
        for (const plane of raw) plane[c]! *= factor
      }
    }
  }
}

/** Scales parts of the light in one channel of a pixel, and the groups of light with them: their sums stay the same. */
function rescaled({ light, groups }: RenderedPasses, c: number, parts: readonly Float32Array[], factor: number): void {
  const whole = (): number => LIGHT_PARTS.reduce((sum, part) => sum + light![part][c]!, 0)
  const before = whole()
  for (const plane of parts) plane[c]! *= factor
  if (groups && before > 0) {
    const share = whole() / before
    for (const group of groups) group[c]! *= share
  }
}

/** Samples of the ground that a pixel's shadow is told by at least. */
const ENOUGH_GROUND = 8

/**
 * Specks in the shadow, bright or dark: as with fireflies, by the difference of the halves. Each colour by itself: under
 * coloured light one may stray where the others do not.
 */
function boundSpecks({ shadow, noise, width, height }: RenderedPasses): void {
  const odd = noise?.shadowOdd
  if (!shadow || !odd) return
  for (let c = 0; c < 3; c++) {
    const plane = Float32Array.from({ length: width * height }, (_, i) => shadow[i * 3 + c]!)
    for (let i = 0; i < plane.length; i++) {
      const y = Math.floor(i / width)
      for (const sign of [1, -1] as const) {
        const found = boundAt(plane, width, height, i - y * width, y, sign)
        if (!found) continue
        const { bound, mean } = found
        const at = i * 3 + c
        const apart = odd[at]! - plane[i]!
        if (Math.abs(plane[i]! - bound) > BELIEVED * Math.abs(apart)) continue
        // What it stood out by was one sample's, and of one half: that goes with it
        odd[at] = bound + (apart * (bound - mean)) / (plane[i]! - mean)
        shadow[at] = bound
        break
      }
    }
  }
}

/**
 * Ground of which only a few samples see anything, at the border of what stands on it: its shadow is that of the same
 * ground about it, the more so the fewer samples it has itself. What it shows there is hardly seen, but noise of one
 * sample is black or white.
 */
function fillHiddenGround(passes: RenderedPasses): void {
  const { shadow, groundShare, catcherId, noise, width, height } = passes
  const most = passes.limits.shadow || Infinity
  if (!shadow || !groundShare) return
  const odd = noise?.shadowOdd
  const changed: [number, Float32Array, Float32Array | undefined][] = []
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x
      const seen = groundShare[i]! * Math.min(most, passes.counts[i]!)
      if (!(seen > 0) || seen >= ENOUGH_GROUND) continue
      const mean = new Float32Array(3)
      const meanOdd = new Float32Array(3)
      let weight = 0
      // Ground right beside it, or else a little further off
      for (let reach = 1; reach <= REACH && weight === 0; reach++)
        for (let row = Math.max(0, y - reach); row <= Math.min(height - 1, y + reach); row++)
          for (let column = Math.max(0, x - reach); column <= Math.min(width - 1, x + reach); column++) {
            const k = row * width + column
            if (k === i || catcherId[k] !== catcherId[i] || !(groundShare[k]! > groundShare[i]!)) continue
            weight += groundShare[k]!
            for (let c = 0; c < 3; c++) {
              mean[c]! += groundShare[k]! * shadow[k * 3 + c]!
              if (odd) meanOdd[c]! += groundShare[k]! * odd[k * 3 + c]!
            }
          }
      if (!(weight > 0)) continue
      const own = seen / ENOUGH_GROUND
      const mixed = (plane: Float32Array, about: Float32Array): Float32Array =>
        about.map((value, c) => plane[i * 3 + c]! * own + (value / weight) * (1 - own))
      changed.push([i, mixed(shadow, mean), odd && mixed(odd, meanOdd)])
    }
  for (const [i, to, toOdd] of changed) {
    shadow.set(to, i * 3)
    if (odd && toOdd) odd.set(toOdd, i * 3)
  }
}

/** Shares of a pixel between which it is a lamp's edge. */
const EDGE = { low: 0.004, high: 0.98 }
/** Pixels to each side among which the lamp takes up what its edge gives. */
const LAMP_REACH = 8

/**
 * Edges of lamps that are seen: a pixel that is half lamp is half as bright as one, still far brighter than white, and
 * so edges look like stairs however well they are filtered. Each edge pixel becomes the mean of its samples weighted by
 * 1 / (1 + luminance) (as B. Karis, "Tone mapping", 2013, from memory: there for every pixel, where energy is lost), in closed form
 * from the lamp's share of it; and what it gives the lamp's whole pixels nearby take up, evenly, so that all of the
 * lamp's light stays. A lamp that fills no pixel keeps its own.
 */
export function softenLamps(passes: RenderedPasses): void {
  const { light, shining, objectId, noise, width, height } = passes
  if (!light || !shining) return
  const { emission } = light
  const others = LIGHT_PARTS.filter(part => part !== 'emission').map(part => light[part])
  const given: { from: number; to: number[]; light: [number, number, number] }[] = []
  for (let i = 0; i < shining.length; i++) {
    const share = shining[i]!
    if (share < EDGE.low || share > EDGE.high) continue
    const lamp = luminanceAt(emission, i * 3) / share
    if (lamp <= 1) continue
    const rest = others.reduce((sum, plane) => sum + luminanceAt(plane, i * 3), 0) / (1 - share)
    const softened =
      ((share * lamp) / (1 + lamp) + ((1 - share) * rest) / (1 + rest)) /
      (share / (1 + lamp) + (1 - share) / (1 + rest))
    const factor = Math.max(0, softened - (1 - share) * rest) / (share * lamp)
    if (factor >= 1) continue
    const to = wholePixels(shining, objectId, width, height, i)
    if (!to.length) continue
    const taken = [0, 1, 2].map(c => emission[i * 3 + c]! * (1 - factor)) as [number, number, number]
    given.push({ from: i, to, light: taken })
  }
  for (const { from, to, light: taken } of given)
    for (let c = 0; c < 3; c++) {
      if (!(taken[c]! > 0)) continue
      const at = from * 3 + c
      const factor = 1 - taken[c]! / emission[at]!
      if (noise) noise.whole.odd[at]! -= taken[c]! / 2
      rescaled(passes, at, [emission], factor)
      for (const pixel of to) {
        const there = pixel * 3 + c
        rescaled(passes, there, [emission], 1 + taken[c]! / to.length / emission[there]!)
      }
    }
}
/** Pixels near one that a lamp beside it fills. */
function wholePixels(shining: Float32Array, objectId: Uint32Array, width: number, height: number, i: number): number[] {
  const y0 = Math.floor(i / width)
  const x0 = i - y0 * width
  // The lamp is what fills a pixel beside the edge
  const out: number[] = []
  let lamp = 0
  for (let reach = 1; reach <= 2 && !lamp; reach++)
    for (let y = Math.max(0, y0 - reach); y <= Math.min(height - 1, y0 + reach) && !lamp; y++)
      for (let x = Math.max(0, x0 - reach); x <= Math.min(width - 1, x0 + reach) && !lamp; x++)
        if (shining[y * width + x]! > EDGE.high) lamp = objectId[y * width + x]!
  if (!lamp) return out
  for (let y = Math.max(0, y0 - LAMP_REACH); y <= Math.min(height - 1, y0 + LAMP_REACH); y++)
    for (let x = Math.max(0, x0 - LAMP_REACH); x <= Math.min(width - 1, x0 + LAMP_REACH); x++) {
      const k = y * width + x
      if (shining[k]! > EDGE.high && objectId[k] === lamp) out.push(k)
    }
  return out
}
