// What of a picture glows: what a slip holds, and of that what is brighter than a threshold; or lamps that are not seen in
// it, drawn as they would be.
import { MIDDLE_GREY } from '../colour/luminance'
import { choice, value } from '../declare/field'
import { around, boxOf, common, isEmpty, type Box } from '../engine/box'
import { point } from '../formula/point'
import type { Term } from '../formula/term'
import { finite } from '../plan/finite'
import { kernelNode, type Node } from '../plan/node'
import { cutTo, NO_DEPTH } from '../plan/picture'
import { pointNode, whole } from '../plan/pointNode'
import { raster, shade, splat } from '../../kernels/record'
import { AddLight, Clear, DepthRamp, Fill, ShiftSingle } from '../../kernels/records'
import { handlesOfPlace } from './handles'
import type { SeenLamp } from './lampsSeen'
import { frameValues } from './place'
import type { TreatmentInput } from './treatment'

/** What is above a light: all above it, none at it. */
const Above = point('Above', { threshold: splat }, ({ colour, alpha, values }) => {
  const light = colour.luminance()
  const share = light.minus(values.threshold.times(alpha)).over(light.atLeast(1e-9)).atLeast(0)
  return colour.times(share)
})
/** An even disc, a pixel of its edge by how much of it the disc covers, nearly; hidden only within the frame. */
const LampDisc = point(
  'LampDisc',
  { seen: raster('single'), light: shade, middleX: splat, middleY: splat, radius: splat, wide: splat, high: splat },
  ({ colour, x, y, singles, values: v }) => {
    const [dx, dy] = [x.minus(v.middleX), y.minus(v.middleY)]
    const distance = dx.times(dx).plus(dy.times(dy)).root()
    const { terms } = x
    const beyond = (at: Term, end: Term): Term =>
      at.isAbove(0).choose(at.isAbove(end).choose(terms.constant(1), terms.constant(0)), terms.constant(1))
    const seen = singles.seen.atLeast(beyond(x, v.wide)).atLeast(beyond(y, v.high))
    const share = v.radius.plus(0.5).minus(distance).atLeast(0).atMost(1).times(seen)
    return colour.map((channel, which) => channel.plus(v.light[which].times(share)))
  },
)

const BRIGHT = 'what is bright'
export const LAMPS = 'the shot’s lamps'
const PLACE = 'a place'
const ofPlace = { with: { name: 'feeds', is: [PLACE] } }
export const threshold = value(-12, 16, {
  label: 'threshold',
  help: 'In stops from middle grey: what is darker does not glow.',
  unit: 'stops',
  step: 0.02,
  first: 2.5,
  with: { name: 'feeds', is: [BRIGHT] },
})
export const FEEDS = {
  feeds: choice([BRIGHT, 'all light', LAMPS, PLACE], {
    label: 'what glows',
    help: 'What is brighter than the threshold; all, as dust on a lens spreads it; the lamps that light the scene, where they are and as far as nothing nearer hides them; or a lamp at a place.',
  }),
  threshold,
  ...frameValues('the lamp', { x: 0.7, y: 0.3, ...ofPlace }),
  light: value(-12, 24, {
    label: 'its light',
    help: 'Of the lamp at that place, in stops from middle grey.',
    unit: 'stops',
    step: 0.02,
    first: 8,
    ...ofPlace,
  }),
  across: value(1, 1000, {
    label: 'its size',
    help: 'Across, in pixels of the full frame.',
    unit: 'px',
    pixels: 'size',
    step: 0.1,
    digits: 1,
    first: 8,
    ...ofPlace,
  }),
}
export const FEEDS_SENTENCE = '{feeds}[ above {threshold}][ {x} {y} bright {light}, {across} across]'
export const handlesOfFeeds = handlesOfPlace('the lamp', { name: 'feeds', is: PLACE })
export const SHOWS = choice(['the picture', 'the glow', 'what feeds it'], {
  label: 'shown',
  help: 'The picture with its glow, the spread light alone, or only what it is made of.',
})

export interface Feeds {
  feeds: string
  threshold: number
  x: number
  y: number
  light: number
  across: number
}
/** Whether what glows is no part of the picture. */
export const isBeside = ({ feeds }: { feeds: string }): boolean => feeds === LAMPS || feeds === PLACE

/** What glows; of the picture only what its slip holds. */
export function fedOf(input: TreatmentInput, values: Feeds): Node {
  const { feeds } = values
  if (feeds === LAMPS) return lit(input, input.lamps?.() ?? [])
  if (feeds === PLACE) {
    const { x, y, light, across } = values
    const grey = MIDDLE_GREY * 2 ** light
    const place = { x: x * input.width, y: y * input.height, radius: across / 2 }
    return lit(input, [{ ...place, metres: 0, light: [grey, grey, grey] }])
  }
  const chosen = heldOf(input)
  return feeds === 'all light' ? chosen : above(chosen, values.threshold)
}
/** What the slip holds of the picture. */
export const heldOf = ({ colour, matte }: Pick<TreatmentInput, 'colour' | 'matte'>): Node =>
  matte ? cutTo(finite(colour), matte) : finite(colour)
/** stops: from middle grey. */
export const above = (colour: Node, stops: number): Node =>
  pointNode(Above, whole(colour), { threshold: MIDDLE_GREY * 2 ** stops })

/** Lamps that stand farther out of the frame than that many widths and heights of it are left out. */
const BEYOND = 1
/** What lies before a lamp by less than this share of its distance hides none of it: a lamp's own shade, say. */
const CLOSE = 0.004

/** Lamps on black, as much of each as nothing nearer hides. */
function lit(input: TreatmentInput, lamps: readonly SeenLamp[]): Node {
  const { width, height, matte } = input
  const frame = boxOf(width, height)
  // Of what lies outside the frame a slip says nothing
  const beyond = matte ? 0 : BEYOND
  const reach: Box = {
    ...{ left: -width * beyond, top: -height * beyond },
    ...{ right: width * (1 + beyond), bottom: height * (1 + beyond) },
  }
  const boxed = lamps.flatMap(lamp => {
    const far = lamp.radius + 1
    const box = common(reach, {
      ...{ left: Math.floor(lamp.x - far), top: Math.floor(lamp.y - far) },
      ...{ right: Math.ceil(lamp.x + far), bottom: Math.ceil(lamp.y + far) },
    })
    return isEmpty(box) ? [] : [{ lamp, box }]
  })
  const window = boxed.reduce((all, { box }) => around(all, box), frame)
  const all = boxed.reduce<Node>(
    (source, { lamp, box }) =>
      kernelNode(
        AddLight,
        { source, light: disc(input, lamp, box), amount: 1 },
        { window, only: { where: 'light', elsewhere: 'source' } },
      ),
    kernelNode(Clear, {}, { window }),
  )
  return matte ? cutTo(all, matte) : all
}

function disc(input: TreatmentInput, { x, y, radius, metres, light }: SeenLamp, window: Box): Node {
  // Of what is farther than all else, anything that stands somewhere hides
  const near = Math.min(metres, NO_DEPTH / 2) * (1 - CLOSE)
  const seen =
    metres > 0
      ? input.byDepth(depth => kernelNode(DepthRamp, { depth, near, scale: 1e5 / near }, { window: depth.window }))
      : undefined
  // The light of all its pixels is that of the disc
  const share = (radius * radius) / (radius * radius + 1 / 12)
  return pointNode(LampDisc, whole(kernelNode(Clear, {}, { window })), {
    seen: seen
      ? kernelNode(ShiftSingle, { source: seen, dx: 0, dy: 0 }, { window, needs: area => area })
      : kernelNode(Fill, { value: 1 }, { window }),
    light: [light[0] * share, light[1] * share, light[2] * share],
    ...{ middleX: x, middleY: y, radius, wide: input.width, high: input.height },
  })
}
