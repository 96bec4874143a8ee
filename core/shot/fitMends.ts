// What would make a layer measure as the plate does: an ordinary line of its recipe for each thing that is measured.
import { rgbOfOklab } from '../colour/oklab'
import { firstValues } from '../declare/values'
import type { Beside, BesideDetail, BesideTones, MeasureId } from '../measure/beside'
import { treatmentOf } from '../treatment/registry'
import { newTreatment, type RenderLayer, type ShotDocument } from './document'
import { addRow } from './rows'

/** A line that is laid on a layer. */
export interface FitLine {
  kind: string
  values: Record<string, number | number[] | number[][] | string>
}
/** Lays it on a layer as its last line, where it is changed as any other. */
export function layLine(document: ShotDocument, layer: string, { kind, values }: FitLine): void {
  const whole = { ...firstValues(treatmentOf(kind).values), ...values }
  addRow(document.build.layers[layer]!.treatments, newTreatment(kind, whole))
}

/** What a button says, and what it does; undefined where nothing of a recipe would help. */
export interface FitMend {
  label: string
  change: (document: ShotDocument) => void
}
export function mendToFit(row: Beside, measured: Measured, layer: string): FitMend | undefined {
  if (row.id === 'noise')
    return row.render?.[0]
      ? {
          label: 'take all of it out',
          change: document => {
            ;(document.build.layers[layer] as RenderLayer).clean = 1
          },
        }
      : undefined
  const line = lineToFit(row, measured)
  return line && { label: `lay ${treatmentOf(line.kind).label}`, change: document => layLine(document, layer, line) }
}

type Measured = BesideTones & Pick<BesideDetail, 'grain'>

const rounded = (value: number, digits = 4): number => Number(value.toFixed(digits))
/** A channel is brightened or darkened no more than so many times. */
const MOST_TINT = 4
/** Stops over which a line goes from what it changes to what it leaves. */
const SOFT = 1

/** Undefined where nothing is to be mended, or no line can. */
export function lineToFit({ id, plate, render, ends }: Beside, { own, grain }: Measured): FitLine | undefined {
  // Of what does not tell of its grain it is taken that it has none
  if (id === 'grain' && plate && !render) return grained(grain.plate ? { plate: grain.plate } : {})
  if (!plate || !render) return undefined
  const [there, here] = [plate[0]!, render[0]!]
  // Blacks and whites are as deep and as bright as anywhere in the plate, where they were beyond that
  const end = ends && (here < ends[0] ? ends[0] : here > ends[1] ? ends[1] : there)
  switch (id satisfies MeasureId) {
    case 'blacks':
      return own && toned([own.blacks, end ?? there], [own.whites, own.whites])
    case 'whites':
      return own && toned([own.blacks, own.blacks], [own.whites, end ?? there])
    case 'contrast':
      return own && here > 0
        ? {
            kind: 'contrast',
            values: { amount: rounded(there / here), pivot: rounded(0.18 * 2 ** own.middle), of: 'brightness' },
          }
        : undefined
    case 'colourfulness':
      return here > 0 ? { kind: 'saturation', values: { amount: rounded(Math.min(4, there / here)) } } : undefined
    case 'shadows':
      return own && tinted('shadow', own.shadowLight, render, plate, { dark: rounded(own.dark + SOFT, 2), bright: 20 })
    case 'lights':
      return own && tinted('light', own.lightLight, render, plate, { dark: -20, bright: rounded(own.bright - SOFT, 2) })
    case 'sharpness': {
      const radius = rounded(Math.sqrt(Math.abs(there * there - here * here)), 2)
      return there > here
        ? { kind: 'blur', values: { radius } }
        : { kind: 'deconvolve', values: { radius: Math.min(8, radius) } }
    }
    case 'grain':
      return grained(grain)
    case 'fringing':
      return { kind: 'fringe', values: { amount: rounded(there - here, 2) } }
    // What there is no line for: see mendToFit
    case 'noise':
    case 'side':
      return undefined
  }
}

function toned(black: [number, number], white: [number, number]): FitLine | undefined {
  return white[0] - black[0] > 0.01
    ? { kind: 'match', values: { tones: [black.map(value => rounded(value)), white.map(value => rounded(value))] } }
    : undefined
}

/** Light multiplied so that it has another a and b at that lightness. */
function tinted(
  which: 'shadow' | 'light',
  lightness: number,
  [a, b]: readonly number[],
  [toA, toB]: readonly number[],
  borders: { dark: number; bright: number },
): FitLine {
  const from = rgbOfOklab([lightness, a!, b!])
  const to = rgbOfOklab([lightness, toA!, toB!])
  // Near black a channel may be nothing, or less: no colour is multiplied so that it becomes another
  const least = Math.max(...from) / MOST_TINT
  const colour = to.map((value, i) => rounded(Math.max(least, value) / Math.max(least, from[i]!)))
  return { kind: 'tones', values: { ...borders, [`${which}_colour`]: colour, soft: 2 * SOFT } }
}

/** Grain adds up by its squares: what is missing is laid on, what is too much is taken out. */
function grained({ plate, render }: BesideDetail['grain']): FitLine | undefined {
  const [there, has] = [plate?.amount ?? 0, render?.amount ?? 0]
  const of = has < there ? plate : render
  if (!of || there === has) return undefined
  const amount = rounded(Math.min(2, has < there ? Math.sqrt(there ** 2 - has ** 2) : has))
  const values = {
    amount,
    channels: of.channels.map(value => rounded(value, 3)),
    ...{ growth: rounded(of.growth, 3), size: rounded(of.size, 3) },
  }
  return has < there
    ? { kind: 'grain', values: { ...values, together: rounded(of.together, 3) } }
    : { kind: 'degrain', values }
}
