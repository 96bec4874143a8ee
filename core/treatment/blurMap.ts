import { value } from '../declare/field'
import { point } from '../formula/point'
import type { Term } from '../formula/term'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { pointNode, whole } from '../plan/pointNode'
import { around } from '../engine/box'
import { raster, splat } from '../../kernels/record'
import { treatment } from './treatment'
import { inWindow } from './weighted'

/** Bells of which two neighbours are mixed, as shares of the widest. */
const LEVELS = [0, 1 / 16, 1 / 8, 1 / 4, 1 / 2, 1] as const

/** Of two bells as much of each as gives the variance that is asked for: the square of the map. */
const Between = point(
  'BlurBetween',
  {
    map: raster('single'),
    ...{ a: raster('colour'), b: raster('colour'), c: raster('colour'), d: raster('colour'), e: raster('colour') },
    least: splat,
  },
  ({ colour, colours: { a, b, c, d, e }, singles, values }) => {
    const wide = singles.map.atLeast(values.least).atMost(1)
    const square = wide.times(wide)
    const shares = LEVELS.slice(1).map((level, i): Term => {
      const below = LEVELS[i]! ** 2
      return square
        .minus(below)
        .over(level ** 2 - below)
        .atLeast(0)
        .atMost(1)
    })
    return [a, b, c, d, e].reduce((sum, { colour: soft }, i) => sum.plus(soft.minus(sum).times(shares[i]!)), colour)
  },
)

export const blurMap = treatment({
  id: 'blur_map',
  label: 'Blur by a map',
  help: 'Softens by a bell that is as wide as its slip says: not at all where that holds nothing, in full where it holds all, and between by less, with no step and no double picture.',
  group: 'Softness',
  sentence: 'Blur by {radius} where its map is white, {least} of that where it is black',
  fed: 'by',
  beside: true,
  values: {
    radius: value(0, 500, {
      label: 'radius',
      help: 'Standard deviation of the widest bell, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 1,
      neutral: 0,
      first: 8,
    }),
    least: value(0, 1, {
      label: 'least',
      help: 'How wide it is where the slip holds nothing, as a share of the radius.',
      step: 0.004,
      first: 0,
    }),
  },
  neutral: ['radius'],
  plan: ({ colour, matte, width, height }, { radius, least }) => {
    const clean = finite(colour)
    if (!matte) return gaussian(clean, radius, { width, height })
    const soft = LEVELS.slice(1).map(level => gaussian(clean, radius * level, { width, height }))
    const window = soft.reduce((box, node) => around(box, node.window), clean.window)
    const [a, b, c, d, e] = soft.map(node => inWindow(node, window)) as [
      typeof clean,
      typeof clean,
      typeof clean,
      typeof clean,
      typeof clean,
    ]
    return pointNode(Between, whole(inWindow(clean, window)), { map: matte, a, b, c, d, e, least })
  },
})
