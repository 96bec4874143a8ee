// The plots of the instruments of light, on canvases.
import {
  PLANES,
  SKIN_HUE,
  STOP_STEPS,
  STOPS,
  VECTOR_STEPS,
  WAVE_ROWS,
  type LightMeasure,
  type Plane,
} from '../../core/measure/light'
import { PURE_LIGHT, uvOf } from '../../core/measure/chromaticity'
import { REC709, type Chromaticity } from '../../core/colour/matrix'
import { canvasOf } from './smallPicture'

/** Of red, green and blue; brightness is drawn in ink. */
const COLOURS = ['#c23b2c', '#2f8a4a', '#3564c4', '']
/** What things are drawn with on the sheet at hand. */
export interface Inks {
  ink: string
  soft: string
}
export type Scale = 'display' | 'stops'

const binsOf = ({ codes, stops }: LightMeasure, of: number, scale: Scale): Uint32Array =>
  scale === 'display'
    ? codes.subarray(of * 256, of * 256 + 256)
    : stops.subarray(of * STOPS * STOP_STEPS, (of + 1) * STOPS * STOP_STEPS)

/** How often each value is there; what was before lies under it. drawn: which of red, green, blue and brightness. */
export function plotBars(
  context: CanvasRenderingContext2D,
  measure: LightMeasure,
  before: LightMeasure | undefined,
  { drawn, scale, ink, soft }: Inks & { drawn: readonly number[]; scale: Scale },
) {
  const { width, height } = context.canvas
  // The ends hold what is beyond: they may stand out of the frame
  const most = Math.max(
    1,
    ...[measure, before].flatMap(one => (one ? drawn.flatMap(of => [...binsOf(one, of, scale)].slice(1, -1)) : [])),
  )
  const line = (one: LightMeasure, of: number, filled: boolean): void => {
    const bins = binsOf(one, of, scale)
    context.beginPath()
    if (filled) context.moveTo(0, height)
    bins.forEach((value, i) => {
      const x = (i / (bins.length - 1)) * width
      const y = height - Math.sqrt(value / most) * (height - 3)
      if (i || filled) context.lineTo(x, y)
      else context.moveTo(x, y)
    })
    if (filled) {
      context.lineTo(width, height)
      context.fill()
    } else context.stroke()
  }
  context.fillStyle = soft
  if (before) line(before, drawn.at(-1)!, true)
  context.lineWidth = Math.max(1, height / 90)
  for (const of of drawn) {
    context.strokeStyle = COLOURS[of] || ink
    line(measure, of, false)
  }
}

/** Counts as shades: few are seen, many do not drown all else. */
function shades(
  context: CanvasRenderingContext2D,
  columns: number,
  rows: number,
  parts: { counts: Uint32Array; colour: readonly [number, number, number] }[],
  most: number,
) {
  const codes = new Uint8ClampedArray(columns * rows * 4)
  for (let i = 0; i < columns * rows; i++) {
    const to = ((rows - 1 - Math.floor(i / columns)) * columns + (i % columns)) * 4
    let alpha = 0
    let [r, g, b] = [0, 0, 0]
    for (const { counts, colour } of parts) {
      const share = Math.min(1, Math.sqrt(counts[i]! / most))
      r += colour[0] * share
      g += colour[1] * share
      b += colour[2] * share
      alpha += share
    }
    if (!alpha) continue
    codes[to] = r / alpha
    codes[to + 1] = g / alpha
    codes[to + 2] = b / alpha
    codes[to + 3] = Math.min(255, alpha * 255)
  }
  context.imageSmoothingQuality = 'high'
  context.drawImage(
    canvasOf({ width: columns, height: rows, codes }),
    0,
    0,
    context.canvas.width,
    context.canvas.height,
  )
}
const rgbOf = (colour: string): [number, number, number] => {
  const found = /^#(..)(..)(..)$/.exec(colour)
  return found ? [parseInt(found[1]!, 16), parseInt(found[2]!, 16), parseInt(found[3]!, 16)] : [90, 90, 90]
}

/** Where across the picture each value is. */
export function plotWave(
  context: CanvasRenderingContext2D,
  measure: LightMeasure,
  { drawn, ink, soft }: Inks & { drawn: readonly number[] },
) {
  const { width, height } = context.canvas
  context.strokeStyle = soft
  for (const share of [0.25, 0.5, 0.75]) {
    context.beginPath()
    context.moveTo(0, height * share)
    context.lineTo(width, height * share)
    context.stroke()
  }
  const plane = WAVE_ROWS * measure.columns
  shades(
    context,
    measure.columns,
    WAVE_ROWS,
    drawn.map(of => ({
      counts: measure.wave.subarray(of * plane, (of + 1) * plane),
      colour: rgbOf(COLOURS[of] || ink),
    })),
    (measure.count / measure.columns) * 0.12,
  )
}

/** Which colours there are: on the plane of chroma about neutral with the hue of skin, or as chromaticities. */
export function plotColours(context: CanvasRenderingContext2D, measure: LightMeasure, on: Plane, { ink, soft }: Inks) {
  const { width, height } = context.canvas
  const side = Math.min(width, height)
  context.save()
  context.translate((width - side) / 2, (height - side) / 2)
  context.strokeStyle = soft
  if (on === 'chroma') {
    const middle = side / 2
    context.beginPath()
    context.arc(middle, middle, middle - 1, 0, 2 * Math.PI)
    context.moveTo(0, middle)
    context.lineTo(side, middle)
    context.moveTo(middle, 0)
    context.lineTo(middle, side)
    context.stroke()
    const turn = (SKIN_HUE * Math.PI) / 180
    context.setLineDash([3, 3])
    context.beginPath()
    context.moveTo(middle, middle)
    context.lineTo(middle + Math.cos(turn) * middle, middle - Math.sin(turn) * middle)
    context.stroke()
    context.setLineDash([])
  } else {
    const line = (places: readonly Chromaticity[]): void => {
      context.beginPath()
      for (const [i, place] of places.entries()) {
        const [x, y] = on === 'xy' ? place : uvOf(place)
        context[i ? 'lineTo' : 'moveTo']((x / PLANES[on]) * side, side - (y / PLANES[on]) * side)
      }
      context.closePath()
      context.stroke()
    }
    line(PURE_LIGHT.map(([, x, y]) => [x, y]))
    context.strokeStyle = ink
    line([REC709.red, REC709.green, REC709.blue])
    const [x, y] = on === 'xy' ? REC709.white : uvOf(REC709.white)
    context.beginPath()
    context.arc((x / PLANES[on]) * side, side - (y / PLANES[on]) * side, side / 40, 0, 2 * Math.PI)
    context.stroke()
  }
  context.scale(side / width, side / height)
  shades(context, VECTOR_STEPS, VECTOR_STEPS, [{ counts: measure.vector, colour: rgbOf(ink) }], measure.count / 3000)
  context.restore()
}
