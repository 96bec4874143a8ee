import { choice, value } from '../declare/field'
import { sineOfTurns } from '../formula/angle'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { NoisePair } from '../../kernels/records'
import { raster, splat } from '../../kernels/record'
import { handlesOfPlace } from './handles'
import { frameValues } from './place'
import { shape, SHAPE_VALUES } from './shape'
import type { TreatmentInput } from './treatment'

/** Waves along one direction, or in rings about a point; as large as `amount` says, or as far as something is near. */
const Straight = point(
  'RippleStraight',
  { amount: splat, across: splat, down: splat, turns: splat, phase: splat, side: splat },
  ({ colour: { red: x, green: y, blue }, values: v }) => {
    const along = x.times(v.across).plus(y.times(v.down))
    const height = sineOfTurns(along.times(v.turns).plus(v.phase)).times(v.amount)
    // Along the way of the wave, or across it (to the right of what goes up)
    const press = v.side.terms.constant(1).minus(v.side)
    const dx = height.times(v.across.times(press).minus(v.down.times(v.side)))
    const dy = height.times(v.down.times(press).plus(v.across.times(v.side)))
    return new Colour(x.plus(dx), y.plus(dy), blue)
  },
)
const Rings = point(
  'RippleRings',
  { amount: splat, x: splat, y: splat, turns: splat, phase: splat },
  ({ colour: { red, green, blue }, values: v }) => {
    const [dx, dy] = [red.minus(v.x), green.minus(v.y)]
    const distance = dx.times(dx).plus(dy.times(dy)).root().atLeast(1e-3)
    const height = sineOfTurns(distance.times(v.turns).minus(v.phase)).times(v.amount).over(distance)
    return new Colour(red.plus(dx.times(height)), green.plus(dy.times(height)), blue)
  },
)
const Moved = point(
  'RippleMoved',
  { by: raster('colour'), amount: splat },
  ({ colour, colours, values: v }) =>
    new Colour(
      colour.red.plus(colours.by.colour.red.times(v.amount)),
      colour.green.plus(colours.by.colour.green.times(v.amount)),
      colour.blue,
    ),
)

/** What is nearer is moved more. Where nothing stands it is far. */
const Nearer = point(
  'RippleNearer',
  { own: raster('colour'), depth: raster('single'), near: splat, most: splat },
  ({ colour, colours: { own }, singles, values: v }) => {
    const factor = v.near.over(singles.depth.atLeast(1e-3)).atMost(v.most)
    return new Colour(
      own.colour.red.plus(colour.red.minus(own.colour.red).times(factor)),
      own.colour.green.plus(colour.green.minus(own.colour.green).times(factor)),
      colour.blue,
    )
  },
)
/** So many times as much at most: what touches the lens is not torn. */
const MOST_NEARER = 8

export const ripple = shape({
  id: 'ripple',
  label: 'Ripple',
  help: 'Bends the picture in waves along a direction, in rings about a point, or without order, as hot air does. Give the phase keys and it runs.',
  sentence:
    'Rippled {form} by {amount}, {nearer}[ than at {near}], {length} long[, along {angle} {sway}][ about {x} {y}], phase {phase}[, seed {seed}]; {filter}, beyond the edge {beyond}',
  values: {
    form: choice(['in waves', 'in rings', 'without order'], {
      label: 'form',
      help: 'Straight waves, rings, or turbulence.',
    }),
    amount: value(0, 1000, {
      label: 'amount',
      help: 'How far a place is moved at most, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 1,
      neutral: 0,
      first: 6,
    }),
    nearer: choice(['everywhere alike', 'more where it is nearer'], {
      label: 'by distance',
      help: 'As if it stood before the lens, or lay in the scene: what is twice as near is bent twice as much.',
    }),
    near: value(0.05, 1e5, {
      label: 'distance',
      help: 'At which it is as much as is said.',
      unit: 'm',
      step: 0.02,
      hand: [0.05, 1000],
      first: 8,
      with: { name: 'nearer', is: ['more where it is nearer'] },
    }),
    length: value(1, 10000, {
      label: 'length',
      help: 'From one crest to the next, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 80,
    }),
    angle: value(-3600, 3600, {
      label: 'angle',
      help: 'The way a wave goes, counter-clockwise from the right.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 90,
      with: { name: 'form', is: ['in waves'] },
    }),
    ...frameValues('the middle of the rings', { with: { name: 'form', is: ['in rings'] } }),
    sway: choice(['swaying', 'pressing'], {
      label: 'way',
      help: 'Moved across the way of the wave, or along it.',
      with: { name: 'form', is: ['in waves'] },
    }),
    phase: value(-1e5, 1e5, { label: 'phase', help: 'In lengths of a wave: give it keys.', step: 0.004, first: 0 }),
    seed: value(0, 9999, {
      label: 'seed',
      help: 'Another number, other turbulence.',
      step: 1,
      digits: 0,
      first: 1,
      with: { name: 'form', is: ['without order'] },
    }),
    ...SHAPE_VALUES,
    beyond: { ...SHAPE_VALUES.beyond, first: 'a mirror' },
  },
  neutral: ['amount'],
  reads: ['depth'],
  impure: ({ nearer }) => nearer !== 'everywhere alike',
  handles: handlesOfPlace('the middle', { name: 'form', is: 'in rings' }),
  shown: { amount: 10 },
  places: (input, v, places) => {
    const moved = rippled(input, v, places)
    if (v.nearer === 'everywhere alike') return moved
    return pointNode(Nearer, whole(moved), { own: places, depth: input.depth(), near: v.near, most: MOST_NEARER })
  },
})

interface Rippled {
  form: string
  amount: number
  length: number
  angle: number
  sway: string
  phase: number
  seed: number
  x: number
  y: number
}
function rippled({ width, height }: TreatmentInput, v: Rippled, places: Node): Node {
  const angle = (v.angle * Math.PI) / 180
  const turns = 1 / Math.max(1e-3, v.length)
  if (v.form === 'in rings')
    return pointNode(Rings, whole(places), { amount: v.amount, x: v.x * width, y: v.y * height, turns, phase: v.phase })
  if (v.form === 'without order') {
    const by = kernelNode(
      NoisePair,
      { map: places, scale: turns, boil: v.phase, octaves: 3, seed: Math.round(v.seed) },
      { window: places.window },
    )
    return pointNode(Moved, whole(places), { by, amount: v.amount })
  }
  const sway = v.sway === 'swaying' ? 1 : 0
  return pointNode(Straight, whole(places), {
    ...{ amount: v.amount, across: Math.cos(angle), down: -Math.sin(angle), turns, phase: v.phase, side: sway },
  })
}
