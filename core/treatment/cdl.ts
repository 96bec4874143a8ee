// ASC Color Decision List 1.2: slope, offset, power by channel, then saturation.
import { Cdl } from '../../kernels/records'
import { pointWork, type Parameter, type Treatment } from './treatment'

const channels = [
  ['r', 'red'],
  ['g', 'green'],
  ['b', 'blue'],
] as const
const triple = (
  id: string,
  label: string,
  help: string,
  low: number,
  high: number,
  step: number,
  neutral: number,
  digits: number,
): Parameter[] =>
  channels.map(([letter, name]) => ({
    id: `${id}_${letter}`,
    label: `${label}, ${name}`,
    help,
    unit: '',
    low,
    high,
    step,
    neutral,
    digits,
  }))

export const cdl: Treatment = {
  id: 'cdl',
  label: 'Grade',
  help: 'ASC CDL: slope, offset and power of each channel, then saturation. Not clamped above 1.',
  sentence:
    'Grade slope {slope_r} {slope_g} {slope_b}, offset {offset_r} {offset_g} {offset_b}, power {power_r} {power_g} {power_b}, saturation {saturation}',
  parameters: [
    ...triple('slope', 'slope', 'Multiplies the channel: mostly the lights.', 0, 4, 0.002, 1, 2),
    ...triple('offset', 'offset', 'Adds to the channel: mostly the blacks.', -1, 1, 0.0005, 0, 3),
    ...triple('power', 'power', 'Bends the channel: above 1 darkens the middles.', 0.1, 4, 0.002, 1, 2),
    {
      id: 'saturation',
      label: 'saturation',
      help: '0 is grey, 1 as it was.',
      unit: '',
      low: 0,
      high: 4,
      step: 0.005,
      neutral: 1,
      digits: 2,
    },
  ],
  point: pointWork(Cdl, {
    straight: true,
    given: values => {
      const three = (id: string, last: number): [number, number, number, number] => [
        values[`${id}_r`]!,
        values[`${id}_g`]!,
        values[`${id}_b`]!,
        last,
      ]
      return {
        slope: three('slope', 1),
        offset: three('offset', 0),
        power: three('power', 1),
        saturation: values.saturation!,
      }
    },
  }),
}
