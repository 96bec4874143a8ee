import { luminance } from '../colour/luminance'
import { choice, colourValues, value } from '../declare/field'
import { point, type Pixel } from '../formula/point'
import { Colour, type Term } from '../formula/term'
import { pointNode } from '../plan/pointNode'
import { raster, shade, splat } from '../../kernels/record'
import { treatment } from './treatment'

/**
 * base: the thing's colour of luminance 1; next: the new one, as bright as it is to be against that; light and its share
 * of white (1, 1, 1): what falls on it and what its gloss gives back (the dichromatic model of S. Shafer 1985).
 */
const COLOURS = { base: shade, next: shade, perBase: shade, perGloss: shade, slip: splat }
type Values = Pixel<typeof COLOURS>['values']
const dot = (a: Colour, b: Colour): Term => a.red.times(b.red).plus(a.green.times(b.green)).plus(a.blue.times(b.blue))

/** Of how much of the thing's colour, and how much white gloss, a colour is made: by least squares, gloss never below 0. */
function parts(colour: Colour, v: Values): { thing: Term; gloss: Term } {
  const gloss = dot(colour, v.perGloss).atLeast(0)
  const thing = dot(
    colour.map(channel => channel.minus(gloss)),
    v.perBase,
  )
  return { thing, gloss }
}
/** What is neither (texture of another hue) stays, as much brighter or darker as the thing becomes. */
const changed = (matt: Colour, thing: Term, v: Values): Colour =>
  matt.map((channel, name) =>
    thing
      .times(v.next[name])
      .plus(channel.minus(thing.times(v.base[name])).times(v.slip))
      .atLeast(channel.atMost(0)),
  )
const ByLight = point('RecolourByLight', COLOURS, ({ colour, values: v }) => {
  const { thing, gloss } = parts(colour, v)
  const matt = colour.map(channel => channel.minus(gloss))
  return changed(matt, thing, v).map(channel => channel.plus(gloss))
})
const PASSES = {
  albedo: raster('colour'),
  direct: raster('colour'),
  indirect: raster('colour'),
  beauty: raster('colour'),
}
/** Least surface colour and light that are divided by. */
const LEAST = 0.002
const ByAlbedo = point('RecolourByAlbedo', { ...COLOURS, ...PASSES }, ({ colour, values: v, colours }) => {
  const surface = colours.albedo.colour
  const next = changed(surface, dot(surface, v.perBase), v)
  return colour.map((channel, name) => {
    const light = colours.beauty.colour[name]
    // How much of the light here comes from the surface's own colour: the rest is mirrored, let through or shines
    const share = colours.direct.colour[name]
      .plus(colours.indirect.colour[name])
      .over(light.atLeast(LEAST))
      .atLeast(0)
      .atMost(1)
    const times = next[name].plus(LEAST).over(surface[name].plus(LEAST))
    return channel.times(times.minus(1).times(share).plus(1))
  })
})

type Rgb = readonly [number, number, number]
const toLuminance1 = ([r, g, b]: Rgb): Rgb => {
  const light = luminance(r, g, b)
  return light > 1e-6 ? [r / light, g / light, b / light] : [1, 1, 1]
}
const product = ([a, b, c]: Rgb, [d, e, f]: Rgb): number => a * d + b * e + c * f
const WHITE: Rgb = [1, 1, 1]

export const recolour = treatment({
  id: 'recolour',
  label: 'Recolour',
  help: 'One thing’s colour becomes another; its light, its texture and its highlights stay.',
  group: 'Colour',
  sentence: 'Recolour {from} to {to}, {brightness} as bright, by {by}, gloss kept {gloss}',
  values: {
    from: colourValues('from ', {
      label: 'the thing’s colour',
      help: 'As it is in plain light, without gloss: take it from the picture.',
      first: [0.4, 0.06, 0.04],
    }),
    to: colourValues('to ', { label: 'the new colour', help: 'What it is to become.', first: [0.05, 0.15, 0.4] }),
    brightness: value(0, 1, {
      label: 'as bright',
      help: '0 keeps how bright the thing was, 1 makes it as bright as the new colour is.',
      step: 0.004,
      first: 0,
    }),
    by: choice(['light', 'surface colour'], {
      label: 'by',
      help: 'Its colour told from its gloss in the picture’s own light, or by the passes surface colour and diffuse light.',
    }),
    gloss: value(0, 1, {
      label: 'gloss kept',
      help: 'How much of what is whiter than the thing’s colour counts as gloss and stays white.',
      step: 0.004,
      first: 1,
    }),
  },
  takes: [
    { label: 'take its colour', values: from => ({ from: [...from] }) },
    { label: 'take the new colour', values: to => ({ to: [...to] }) },
  ],
  needs: ({ by }) => (by === 'surface colour' ? ['albedo', 'diffuse_direct', 'diffuse_indirect', 'beauty'] : []),
  without: 'by its light',
  idle: ({ from, to }) => from.every((channel, c) => channel === to[c]),
  plan: (input, { from, to, brightness, by, gloss }) => {
    const base = toLuminance1(from)
    const ratio = luminance(...to) / Math.max(1e-6, luminance(...from))
    const times = 1 + (ratio - 1) * brightness
    const next = toLuminance1(to).map(channel => channel * times) as unknown as Rgb
    const square = product(base, base)
    const white = product(base, WHITE)
    const apart = square * 3 - white * white
    const given = {
      base,
      next,
      perBase: base.map(channel => channel / square) as unknown as Rgb,
      // A grey thing cannot be told from its gloss: all of it is the thing then
      perGloss: base.map(channel =>
        apart > 0.02 ? (gloss * (square - white * channel)) / apart : 0,
      ) as unknown as Rgb,
      slip: times,
    }
    const [albedo, direct, indirect, beauty] =
      by === 'light' ? [] : ['albedo', 'diffuse_direct', 'diffuse_indirect', 'beauty'].map(id => input.pass?.(id))
    return albedo && direct && indirect && beauty
      ? pointNode(ByAlbedo, input, { ...given, albedo, direct, indirect, beauty }, { straight: true })
      : pointNode(ByLight, input, given, { straight: true })
  },
})
