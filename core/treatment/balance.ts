import { lightChromaticity, lightOf, offLocus } from '../colour/kelvin'
import { adaptation, apply3, inverse3, multiply3, REC709, rgbToXyz } from '../colour/matrix'
import { choice, value } from '../declare/field'
import { Matrix } from './matrix'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const kelvin = (label: string, help: string): ReturnType<typeof value> =>
  value(1667, 25000, { label, help, unit: 'K', step: 10, digits: 0, neutral: 6504 })
const tint = (label: string): ReturnType<typeof value> =>
  value(-100, 100, {
    label,
    help: 'Thousandths of Duv off the light of that kelvin: greener above 0.',
    step: 0.1,
    digits: 1,
    neutral: 0,
  })
/** xy of a linear Rec.709 colour; of what is no colour, the white of the picture. */
const chromaticityOf = (colour: readonly [number, number, number]): readonly [number, number] => {
  const [x, y, z] = apply3(TO_XYZ, ...colour)
  return y > 1e-6 && x + y + z > 0 ? [x / (x + y + z), y / (x + y + z)] : REC709.white
}
const TO_XYZ = rgbToXyz(REC709)
const FROM_XYZ = inverse3(TO_XYZ)

export const balance = treatment({
  id: 'balance',
  label: 'White balance',
  help: 'What was taken in one light as it would be in another. 6504 K is the white of the picture.',
  group: 'Colour',
  sentence: 'Balance from {from} {from_tint} to {to} {to_tint} by {by}',
  values: {
    from: kelvin('from', 'The light it was taken in: lamps to 4000 K, daylight from 5000 K.'),
    from_tint: tint('tint of that'),
    to: kelvin('to', 'The light it is to seem taken in.'),
    to_tint: tint('tint of this'),
    by: choice(['cat16', 'bradford'], { label: 'by', help: 'How the eye is taken to adapt: CAT16 or Bradford.' }),
  },
  takes: [
    {
      label: 'click what should be grey',
      values: colour => {
        const { kelvin, duv } = lightOf(chromaticityOf(colour))
        return { from: kelvin, from_tint: Math.round(duv * 10000) / 10, to: 6504, to_tint: 0 }
      },
    },
  ],
  idle: v => v.from === v.to && v.from_tint === v.to_tint,
  shown: { from: 6504, to: 4300 },
  plan: (input, v) => {
    const [a, b, c, d, e, f, g, h, i] = multiply3(
      FROM_XYZ,
      multiply3(
        adaptation(
          offLocus(lightChromaticity, v.from, v.from_tint / 1000),
          offLocus(lightChromaticity, v.to, v.to_tint / 1000),
          v.by,
        ),
        TO_XYZ,
      ),
    )
    return pointNode(Matrix, input, { red: [a, b, c], green: [d, e, f], blue: [g, h, i] })
  },
})
