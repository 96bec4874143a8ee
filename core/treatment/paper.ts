import { choice, value } from '../declare/field'
import { boxOf } from '../engine/box'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { kernelNode } from '../plan/node'
import { pointNode } from '../plan/pointNode'
import { raster, splat } from '../../kernels/record'
import { NoiseInSpace, NoisePair, OwnPlaces } from '../../kernels/records'
import { treatment } from './treatment'
import { inWindow } from './weighted'

/** A rough sheet lit from a side: its slopes (two numbers without order) make it brighter and darker. */
const Paper = point(
  'Paper',
  { slopes: raster('colour'), across: splat, down: splat },
  ({ colour, colours: { slopes }, values: v }) => {
    const light = slopes.colour.red.times(v.across).plus(slopes.colour.green.times(v.down)).plus(1).atLeast(0)
    return colour.times(light)
  },
)

export const paper = treatment({
  id: 'paper',
  label: 'Paper',
  help: 'The tooth of a sheet under the picture, lit from a side. It stands still in the frame, or lies on the things of the scene and goes with the view of them.',
  group: 'Drawn look',
  sentence:
    'Paper {amount} rough, {where}[, its tooth {size} wide][, its tooth {grain} wide], lit from {angle}, seed {seed}',
  beside: true,
  values: {
    amount: value(0, 1, { label: 'amount', help: 'How rough it is.', step: 0.002, digits: 3, neutral: 0, first: 0.12 }),
    where: choice(['in the frame', 'on the things'], {
      label: 'where',
      help: 'A sheet before everything, or the ground of what stands there, by its places in the world.',
    }),
    size: value(0.5, 200, {
      label: 'size',
      help: 'Of its tooth, in pixels of the full frame; half of it is finer.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      first: 4,
      with: { name: 'where', is: ['in the frame'] },
    }),
    grain: value(0.0005, 1000, {
      label: 'tooth',
      help: 'Of its tooth in the world; half and a quarter of it are finer.',
      unit: 'm',
      step: 0.002,
      digits: 3,
      first: 0.05,
      with: { name: 'where', is: ['on the things'] },
    }),
    angle: value(-3600, 3600, {
      label: 'angle',
      help: 'Where its light comes from, counter-clockwise from the right.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 120,
    }),
    seed: value(0, 9999, { label: 'seed', help: 'Another number, another sheet.', step: 1, digits: 0, first: 1 }),
  },
  neutral: ['amount'],
  shown: { amount: 0.5, size: 7 },
  needs: ({ where }) => (where === 'on the things' ? ['position'] : []),
  without: 'in the frame',
  plan: (input, { amount, where, size, grain, angle, seed }) => {
    const turn = (angle * Math.PI) / 180
    const places = where === 'on the things' ? input.pass?.('position') : undefined
    if (places) {
      const slopes = kernelNode(
        NoiseInSpace,
        { places: finite(places), scale: 1 / Math.max(1e-4, grain), octaves: 3, seed: Math.round(seed) },
        { window: places.window, reach: 1 },
      )
      return pointNode(Paper, input, {
        slopes: inWindow(slopes, input.colour.window),
        across: Math.cos(turn) * amount,
        down: -Math.sin(turn) * amount,
      })
    }
    const window = boxOf(input.width, input.height)
    const map = kernelNode(OwnPlaces, {}, { window })
    // Of a smaller copy what is finer than its pixels is gone
    const octaves = size < 1 ? 1 : size < 2 ? 2 : 3
    const slopes = kernelNode(
      NoisePair,
      { map, scale: 1 / Math.max(0.6, size), boil: 0, octaves, seed: Math.round(seed) },
      { window },
    )
    const strength = amount * Math.min(1, size / 0.6)
    return pointNode(Paper, input, { slopes, across: Math.cos(turn) * strength, down: -Math.sin(turn) * strength })
  },
})
