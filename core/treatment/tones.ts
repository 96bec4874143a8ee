import { MIDDLE_GREY } from '../colour/luminance'
import { colourValues, value } from '../declare/field'
import { smooth } from '../formula/colours'
import { point } from '../formula/point'
import { shade, splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const Tones = point(
  'Tones',
  {
    dark: splat,
    darkSlope: splat,
    bright: splat,
    brightSlope: splat,
    stops: shade,
    shadows: shade,
    middles: shade,
    lights: shade,
  },
  ({ colour, values: v }) => {
    const stops = colour.luminance().over(MIDDLE_GREY).logarithm()
    const shadow = smooth(v.dark.minus(stops).times(v.darkSlope))
    const light = smooth(stops.minus(v.bright).times(v.brightSlope))
    const middle = shadow.terms.constant(1).minus(shadow).minus(light).atLeast(0)
    const exposure = shadow.times(v.stops.red).plus(middle.times(v.stops.green)).plus(light.times(v.stops.blue))
    const gain = shadow.terms.constant(2).power(exposure)
    return colour.map((channel, which) =>
      channel
        .times(gain)
        .times(shadow.times(v.shadows[which]).plus(middle.times(v.middles[which])).plus(light.times(v.lights[which]))),
    )
  },
)
const stops = (label: string): ReturnType<typeof value> =>
  value(-10, 10, { label, help: 'Each stop doubles the light there.', unit: 'stops', neutral: 0 })
const colour = (of: string): ReturnType<typeof colourValues> =>
  colourValues(`${of}, `, { help: 'Each channel is multiplied by that there.', hand: [0, 4], neutral: 1 })
const border = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-20, 20, { label, help, unit: 'stops', step: 0.02, hand: [-12, 12], first })

export const tones = treatment({
  id: 'tones',
  label: 'Tones',
  help: 'Shadows, middles and highlights, each with its own light and colour; all of it together where they meet.',
  group: 'Light',
  sentence:
    'Shadows below {dark}: {shadow_stops} {shadow_colour}; middles {middle_stops} {middle_colour}; lights above {bright}: {light_stops} {light_colour}; soft over {soft}',
  values: {
    dark: border('shadows below', 'Where shadows end: stops from middle grey, 0.18.', -2),
    shadow_stops: stops('shadows'),
    shadow_colour: colour('shadows'),
    middle_stops: stops('middles'),
    middle_colour: colour('middles'),
    bright: border('lights above', 'Where lights begin: stops from middle grey.', 1.5),
    light_stops: stops('lights'),
    light_colour: colour('lights'),
    soft: value(0.05, 10, { label: 'soft over', help: 'How many stops each border takes.', unit: 'stops', first: 2 }),
  },
  borders: { low: 'dark', high: 'bright', soft: 'soft' },
  shown: { shadow_stops: 1.5, light_stops: -1, light_colour: [1.2, 1, 0.7] },
  plan: (input, v) => {
    // The borders' middles lie where they are said; lights begin no lower than shadows end
    const bright = Math.max(v.bright, v.dark)
    return pointNode(
      Tones,
      input,
      {
        dark: v.dark + v.soft / 2,
        darkSlope: 1 / v.soft,
        bright: bright - v.soft / 2,
        brightSlope: 1 / v.soft,
        stops: [v.shadow_stops, v.middle_stops, v.light_stops],
        shadows: v.shadow_colour,
        middles: v.middle_colour,
        lights: v.light_colour,
      },
      { straight: true },
    )
  },
})
