import { lightChromaticity, offLocus } from '../colour/kelvin'
import { MIDDLE_GREY } from '../colour/luminance'
import { apply3, inverse3, REC709, rgbToXyz } from '../colour/matrix'
import { value } from '../declare/field'
import { signedPower } from '../formula/colours'
import { point } from '../formula/point'
import { shade, splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** What may be said of one thing's picture at once: the lines of this treatment, and the rows of the desk. */
export const GRADE = {
  exposure: value(-10, 10, { label: 'exposure', help: 'Each stop doubles the light.', unit: 'stops', neutral: 0 }),
  contrast: value(0, 4, {
    label: 'contrast',
    help: 'Stops for each stop about middle grey (0.18): 1 as it was.',
    step: 0.002,
    neutral: 1,
  }),
  warmth: value(-100, 300, {
    label: 'warmth',
    help: 'As in light of another colour, in mireds from the white of the picture: warmer above 0.',
    unit: 'mired',
    step: 0.2,
    digits: 0,
    neutral: 0,
  }),
  tint: value(-100, 100, {
    label: 'tint',
    help: 'Thousandths of Duv off the light of that warmth: greener above 0.',
    step: 0.1,
    digits: 1,
    neutral: 0,
  }),
  saturation: value(0, 100, {
    label: 'saturation',
    help: 'Distance from grey of the same luminance: 0 is grey.',
    hand: [0, 4],
    step: 0.005,
    neutral: 1,
  }),
}

const FROM_XYZ = inverse3(rgbToXyz(REC709))
/** Kelvin of the picture's white, by which warmth is counted. */
const WHITE_KELVIN = 6504
const lightAt = (kelvin: number, tint: number): readonly [number, number, number] => {
  const [x, y] = offLocus(lightChromaticity, kelvin, tint / 1000)
  return apply3(FROM_XYZ, x / y, 1, (1 - x - y) / y)
}
const WHITE = lightAt(WHITE_KELVIN, 0)

/**
 * What each channel is multiplied by: exposure in stops; light of another colour and the same luminance, by its distance from
 * 6504 K in mireds (a million over kelvin) and its Duv in thousandths, as the ratio of both lights in linear Rec.709.
 */
export function gradeGain(exposure: number, warmth: number, tint: number): [number, number, number] {
  const gain = 2 ** exposure
  if (warmth === 0 && tint === 0) return [gain, gain, gain]
  const light = lightAt(1e6 / (1e6 / WHITE_KELVIN + warmth), tint)
  return light.map((channel, i) => gain * Math.max(0, channel / WHITE[i]!)) as [number, number, number]
}

const DeskGrade = point(
  'DeskGrade',
  { gain: shade, contrast: splat, saturation: splat },
  ({ colour, values: { gain, contrast, saturation } }) => {
    const spread = colour
      .times(gain)
      .map(channel => signedPower(channel.over(MIDDLE_GREY), contrast).times(MIDDLE_GREY))
    const grey = spread.luminance()
    return spread.map(channel => grey.plus(channel.minus(grey).times(saturation)))
  },
)

export const deskGrade = treatment({
  id: 'desk_grade',
  label: 'Desk grade',
  help: 'Exposure, contrast, warmth, tint and saturation in one line, as the desk gives them to each thing.',
  group: 'Light',
  sentence:
    'As on the desk: exposure {exposure}, contrast {contrast}, warmth {warmth}, tint {tint}, saturation {saturation}',
  values: GRADE,
  shown: { exposure: 0.3, contrast: 1.3, warmth: 60, saturation: 1.2 },
  plan: (input, { exposure, contrast, warmth, tint, saturation }) =>
    pointNode(DeskGrade, input, { gain: gradeGain(exposure, warmth, tint), contrast, saturation }, { straight: true }),
})
