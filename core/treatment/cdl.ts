// ASC Color Decision List 1.2: (in slope + offset) ^ power by channel, then saturation. Nothing is held to 1
// (scene-linear), and below 0 the power is 1.
import { value } from '../declare/field'
import { readCdl, writeCc } from '../formats/cdl/cdl'
import { point } from '../formula/point'
import { shade, splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

type Values = ReturnType<typeof value>
const CHANNELS = { r: 'red', g: 'green', b: 'blue' }
const triple = <const N extends string>(
  name: N,
  help: string,
  low: number,
  high: number,
  step: number,
  neutral: number,
  digits = 2,
): Record<`${N}_${keyof typeof CHANNELS}`, Values> =>
  Object.fromEntries(
    Object.entries(CHANNELS).map(([letter, colour]) => [
      `${name}_${letter}`,
      value(low, high, { label: `${name}, ${colour}`, help, step, digits, neutral }),
    ]),
  ) as Record<`${N}_${keyof typeof CHANNELS}`, Values>

export const Cdl = point(
  'Cdl',
  { slope: shade, offset: shade, power: shade, saturation: splat },
  ({ colour, values: { slope, offset, power, saturation } }) => {
    const raised = colour
      .times(slope)
      .plus(offset)
      .map((linear, which) => linear.isAbove(0).choose(linear.power(power[which]), linear))
    const grey = raised.luminance()
    return raised.map(channel => grey.plus(channel.minus(grey).times(saturation)))
  },
)

const spread = (of: string, [r, g, b]: readonly number[]): Record<string, number> => ({
  [`${of}_r`]: r!,
  [`${of}_g`]: g!,
  [`${of}_b`]: b!,
})

export const cdl = treatment({
  id: 'cdl',
  label: 'Grade',
  help: 'ASC CDL: slope, offset and power of each channel, then saturation. Not clamped above 1.',
  group: 'Colour',
  sentence:
    'Grade slope {slope_r} {slope_g} {slope_b}, offset {offset_r} {offset_g} {offset_b}, power {power_r} {power_g} {power_b}, saturation {saturation}',
  values: {
    ...triple('slope', 'Multiplies the channel: mostly the lights.', 0, 4, 0.002, 1),
    ...triple('offset', 'Adds to the channel: mostly the blacks.', -1, 1, 0.0005, 0, 3),
    ...triple('power', 'Bends the channel: above 1 darkens the middles.', 0.1, 4, 0.002, 1),
    saturation: value(0, 4, { label: 'saturation', help: '0 is grey, 1 as it was.', step: 0.005, neutral: 1 }),
  },
  files: {
    accept: '.cc,.ccc,.cdl',
    read: bytes =>
      readCdl(bytes).map(({ id, description, slope, offset, power, saturation }, i) => ({
        label: [id || `correction ${i + 1}`, description].filter(Boolean).join(': '),
        values: { ...spread('slope', slope), ...spread('offset', offset), ...spread('power', power), saturation },
      })),
    ending: 'cc',
    write: (held, name) => {
      const v = held as Record<string, number>
      const joined = (of: string): [number, number, number] => [v[`${of}_r`]!, v[`${of}_g`]!, v[`${of}_b`]!]
      return writeCc({
        id: name,
        description: '',
        slope: joined('slope'),
        offset: joined('offset'),
        power: joined('power'),
        saturation: v.saturation!,
      })
    },
  },
  shown: { slope_r: 1.25, slope_b: 0.85, power_g: 0.92, saturation: 1.15 },
  plan: (input, v) =>
    pointNode(
      Cdl,
      input,
      {
        slope: [v.slope_r, v.slope_g, v.slope_b],
        offset: [v.offset_r, v.offset_g, v.offset_b],
        power: [v.power_r, v.power_g, v.power_b],
        saturation: v.saturation,
      },
      { straight: true },
    ),
})
