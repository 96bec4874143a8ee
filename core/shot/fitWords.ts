// What a fit check says: each thing that is measured in words, with its numbers as one speaks of them.
import { UNSEEN, type Beside, type MeasureId } from '../measure/beside'

const LABELS: Record<MeasureId, string> = {
  blacks: 'blacks',
  whites: 'whites',
  contrast: 'contrast',
  colourfulness: 'strength of colours',
  shadows: 'colour of shadows',
  lights: 'colour of lights',
  sharpness: 'sharpness',
  grain: 'grain',
  noise: 'noise of the render',
  fringing: 'fringes in the corners',
  side: 'side of the light',
}
export const fitLabel = (id: MeasureId): string => LABELS[id]

const number = (value: number, digits: number): string => {
  const text = Math.abs(value).toFixed(digits)
  return value < 0 && Number(text) !== 0 ? `−${text}` : text
}
const percent = (value: number): string => `${number(value * 100, 1)} %`
/** Where the light comes from in the picture, as one says it. */
const SIDES = [
  'the right',
  'the upper right',
  'above',
  'the upper left',
  'the left',
  'the lower left',
  'below',
  'the lower right',
]
/** Where a and b of OKLab lead, from 0 degrees on: the colour, and what is more of it. */
const HUES = [
  ['red', 'redder'],
  ['orange', 'more orange'],
  ['yellow', 'yellower'],
  ['lime', 'more lime'],
  ['green', 'greener'],
  ['cyan', 'more cyan'],
  ['blue', 'bluer'],
  ['purple', 'more purple'],
] as const
const eighth = (degrees: number): number => Math.round((((degrees % 360) + 360) % 360) / 45) % 8
/** Chroma and hue of a colour that is nearly grey say no hue. */
const GREY = 0.006
const hueAt = (a: number, b: number): (typeof HUES)[number] => HUES[eighth((Math.atan2(b, a) * 180) / Math.PI)]!
const hue = (a: number, b: number): string =>
  Math.hypot(a, b) < GREY ? 'grey' : `${hueAt(a, b)[0]} ${number(Math.hypot(a, b) * 100, 1)}`

/** One of the two numbers; “does not tell” where it was not measured. */
export function fitValue(id: MeasureId, value: readonly number[] | undefined): string {
  if (!value) return 'does not tell'
  const [first, second] = value as [number, number]
  switch (id) {
    case 'blacks':
    case 'whites':
      return percent(first)
    case 'contrast':
      return `${number(first, 1)} stops`
    case 'colourfulness':
      return number(first * 100, 1)
    case 'shadows':
    case 'lights':
      return hue(first, second)
    case 'sharpness':
      return `${number(first, 2)} px soft`
    case 'grain':
    case 'noise':
      return percent(first)
    case 'fringing':
      return `${number(first, 1)} px`
    case 'side':
      return `from ${SIDES[eighth(first)]}`
  }
}

/** What differs, in words; “as the plate” where nobody would see it. */
export function fitDifference({ id, plate, render, difference }: Beside): string {
  if (!plate || !render) return ''
  if (id !== 'noise' && Math.abs(difference) < UNSEEN[id]) return 'as the plate'
  const more = difference > 0
  const by = Math.abs(difference)
  switch (id) {
    case 'blacks':
      return `${percent(by)} ${more ? 'lighter' : 'deeper'}`
    case 'whites':
      return `${percent(by)} ${more ? 'brighter' : 'darker'}`
    case 'contrast':
      return `${number(by, 1)} stops ${more ? 'more' : 'less'}`
    case 'colourfulness':
      return `${number(by * 100, 1)} ${more ? 'stronger' : 'weaker'}`
    case 'shadows':
    case 'lights': {
      return `${number(by * 100, 1)} ${hueAt(render[0]! - plate[0]!, render[1]! - plate[1]!)[1]}`
    }
    case 'sharpness':
      return `${number(by, 2)} px ${more ? 'softer' : 'sharper'}`
    case 'grain':
      return `${percent(by)} ${more ? 'more' : 'less'} grain`
    case 'noise':
      return more ? `${percent(by)} more than its grain` : 'hidden by its grain'
    case 'fringing':
      return `${number(by, 1)} px ${more ? 'more red' : 'more blue'} outside`
    case 'side':
      return `turned by ${number(by, 0)}°`
  }
}
/** What the difference may be wrong by, in its own unit. */
export function fitWithin({ id, within }: Beside): string {
  switch (id) {
    case 'blacks':
    case 'whites':
    case 'grain':
    case 'noise':
      return `± ${percent(within)}`
    case 'contrast':
      return `± ${number(within, 1)} stops`
    case 'colourfulness':
    case 'shadows':
    case 'lights':
      return `± ${number(within * 100, 1)}`
    case 'sharpness':
      return `± ${number(within, 2)} px`
    case 'fringing':
      return `± ${number(within, 1)} px`
    case 'side':
      return `± ${number(within, 0)}°`
  }
}
