import { choice, colourValues, value } from '../../declare/field'
import type { ValuesAt } from '../../declare/values'
import { kernelNode, type Node } from '../../plan/node'
import { gaussian } from '../../plan/gaussian'
import { grownMatte } from '../../plan/grown'
import { point } from '../../formula/point'
import type { Colour } from '../../formula/term'
import { smooth } from '../../formula/colours'
import { raster, splat } from '../../../kernels/record'
import { Shift, TurnOver } from '../../../kernels/records'
import { cutTo } from '../../plan/picture'
import { pointNode, whole } from '../../plan/pointNode'
import { matteKind, type MatteInput } from '../matte'
import { fittedNode } from './fit'
import { despilled, spillOf, Unmixed } from './unmix'
import { share, shareNode } from '../share'
import {
  byKind,
  dotOf,
  goneOn,
  largeOf,
  leftOf,
  reductionFor,
  screenNode,
  smallOf,
  strongest,
  type ScreenKind,
} from './screen'

const part = (label: string, help: string, rest: Parameters<typeof value>[2]): ReturnType<typeof value> =>
  value(0, 1, { label, help, step: 0.002, digits: 3, ...rest })
const VALUES = {
  screen: colourValues('', {
    help: 'A colour of the screen, or of the sky, taken from the picture.',
    first: [0.05, 0.4, 0.08],
  }),
  by: choice(['its colour', 'its light'], {
    label: 'told by',
    help: 'By its colour, as a studio’s screen; by its light, as the sky behind branches.',
  }),
  balance: value(-1, 1, {
    label: 'balance',
    help: 'Which of the two other channels holds a colour back from counting as screen: 0 the stronger one, -1 and 1 one alone.',
    step: 0.004,
    neutral: 0,
  }),
  gain: value(0.1, 10, {
    label: 'gain',
    help: 'Above 1 more goes of what has a little of the screen.',
    step: 0.004,
    neutral: 1,
  }),
  black: part('black below', 'What stands in less than that is gone.', { neutral: 0, first: 0.03 }),
  white: part('white above', 'What stands in more than that is there wholly.', { neutral: 1, first: 0.985 }),
  core: part(
    'core above',
    'What stands in more than that, drawn in, is there wholly: it closes holes inside. 1: none.',
    { neutral: 1 },
  ),
  drawn_in: value(0, 30, {
    label: 'drawn in by',
    help: 'So far the core stays inside the edge.',
    unit: 'px',
    pixels: 'size',
    step: 0.05,
    digits: 1,
    first: 4,
  }),
  spill: part('spill taken', 'Light of the screen on what stands before it is taken away, and its brightness kept.', {
    neutral: 0,
    first: 1,
  }),
  behind: part('from behind', 'So much of that light comes from what stands behind instead.', {
    neutral: 0,
    first: 0.5,
  }),
  outward: part('colour carried outward', 'The edge takes its colour from inside, so that no rim stays.', {
    neutral: 0,
    first: 0.9,
  }),
} as const

/** How much of a pixel stands before the screen, by the share of the screen that is left in it. */
const AROUND = { balance: splat, gain: splat, screen: raster('colour') } as const
const SURELY_IN = 0.9
const before = byKind(kind =>
  share(`KeyBefore${kind}`, AROUND, ({ colour, values: { balance, gain }, colours: { screen } }) =>
    balance.terms.constant(1).minus(leftOf(colour, screen.colour, kind, balance).times(gain)),
  ),
)
const SurelyIn = share('KeySurelyIn', {}, ({ colour }) =>
  smooth(colour.red.minus(SURELY_IN).times(1 / (1 - SURELY_IN))),
)
const Core = share('KeyCore', { level: splat }, ({ colour, values: { level } }) =>
  smooth(
    colour.red
      .minus(level)
      .times(1 / 0.04)
      .plus(0.5),
  ),
)
const Greater = share('KeyGreater', { core: raster('single') }, ({ colour, singles: { core } }) =>
  colour.red.atLeast(core),
)

type Values = ValuesAt<typeof VALUES>
/** What is no number counts as black, what is endless as very bright: neither spreads over its neighbourhood. */
const Held = point('Held', {}, ({ colour }) =>
  colour.map(channel => channel.terms.constant(0).atLeast(channel).atMost(MOST_LIGHT)),
)
const MOST_LIGHT = 65504
function partsOf({ colour, size }: Pick<MatteInput, 'colour' | 'size'>, v: Values) {
  const picture = pointNode(Held, whole(colour), {})
  const channel = strongest(v.screen)
  const kind: ScreenKind = v.by === 'its light' ? 'bright' : channel
  const by = reductionFor(size, picture.window)
  const small = screenNode(picture, { sample: v.screen, kind, balance: v.balance }, by)
  const screen = largeOf(small, by)
  const first = shareNode(before[kind], picture, { screen, balance: v.balance, gain: v.gain }, false)
  const sure = shareNode(SurelyIn, first, {}, false)
  // The colour of what surely stands before it, gone on outward over the edge; where there is some that does not change
  // from pixel to pixel it is that, since what is seen at a soft edge is mixed
  const parts = smallOf(cutTo(picture, sure), by)
  const anywhere = goneOn(parts, smallOf(picture, by), [64], by, 1e-4)
  const plain = goneOn(parts, anywhere, [16, 4, 1], by)
  const side = Math.max(1, Math.round((3 * size.width) / 320))
  const steady = shareNode(
    Steady,
    picture,
    { screen, sure, ...beside(gaussian(picture, size.width / 320, size), side) },
    false,
  )
  const near = largeOf(gaussian(parts, by.unit * 8, by.size), by)
  const known = shareNode(Known, near, {}, false)
  const fitted = (core: Node): Node =>
    fittedNode(picture, { black: v.black, white: v.white, screen, small, first, known, core }, by)
  // Fitted once more to what is all there by the first fit: before that some of the screen is left in it
  const core = shareNode(AllThere, fitted(steady), { steady }, false)
  const inside = largeOf(goneOn(smallOf(cutTo(picture, core), by), plain, [24, 12, 6], by, 0.03), by)
  return { picture, channel, kind, screen, first, inside, plain: largeOf(plain, by), known, edge: fitted(core) }
}
/** What is seen so many pixels to each side. */
function beside(source: Node, pixels: number): Record<'left' | 'right' | 'above' | 'below', Node> {
  const moved = (dx: number, dy: number): Node =>
    kernelNode(Shift, { source, dx, dy }, { window: source.window, reach: pixels })
  return { left: moved(-pixels, 0), right: moved(pixels, 0), above: moved(0, -pixels), below: moved(0, pixels) }
}
/** What is surely in, and alike on all sides: by the change across it as a share of how far it is from the screen. */
const Steady = share(
  'KeySteady',
  {
    sure: raster('single'),
    screen: raster('colour'),
    left: raster('colour'),
    right: raster('colour'),
    above: raster('colour'),
    below: raster('colour'),
  },
  ({ colour, singles: { sure }, colours: { screen, left, right, above, below } }) => {
    const change = (a: Colour, b: Colour): ReturnType<typeof dotOf> => {
      const way = a.map((channel, which) => channel.minus(b[which]))
      return dotOf(way, way)
    }
    const across = change(left.colour, right.colour).plus(change(above.colour, below.colour))
    const whole = change(colour, screen.colour).atLeast(1e-9)
    const relative = across.over(whole).root()
    return sure.times(
      smooth(
        sure.terms.constant(1).minus(
          relative
            .minus(0.06)
            .atLeast(0)
            .times(1 / 0.12),
        ),
      ),
    )
  },
)
const ALL_THERE = 0.98
const AllThere = share('KeyAllThere', { steady: raster('single') }, ({ colour, singles: { steady } }) =>
  smooth(colour.red.minus(ALL_THERE).times(1 / (1 - ALL_THERE))).times(steady),
)
/** What is near what is surely in, and not deep within it: there all that one sees is the thing. */
const Known = share('KeyKnown', {}, ({ alpha }) =>
  smooth(alpha.times(1 / 0.03)).times(
    smooth(
      alpha.terms
        .constant(1)
        .minus(alpha)
        .times(1 / 0.08),
    ),
  ),
)

function alphaOf({ first, edge }: ReturnType<typeof partsOf>, v: Values): Node {
  if (v.core >= 1) return edge
  const inner = shareNode(Core, first, { level: v.core }, false)
  const core = grownMatte(inner, -v.drawn_in)
  return shareNode(Greater, edge, { core }, false)
}

export const key = matteKind({
  id: 'key',
  group: 'Colours',
  label: 'Key',
  help: 'What stands before a screen, or before the sky: click the screen. A layer that is cut to it loses the light of the screen too.',
  sentence:
    'what stands before {screen}, told by {by}, balance {balance}, gain {gain}, black below {black}, white above {white}, core above {core} drawn in by {drawn_in}; spill taken {spill}, {behind} of it from behind, colour carried outward {outward}',
  values: VALUES,
  sample: 'screen',
  plan: (input, values) => {
    const alpha = alphaOf(partsOf(input, values), values)
    return input.invert ? kernelNode(TurnOver, { source: alpha }, { window: alpha.window }) : alpha
  },
  unmix: (input, v) => {
    const parts = partsOf(input, v)
    const { screen, inside, known, kind, channel } = parts
    const alpha = alphaOf(parts, v)
    const own = pointNode(Unmixed, whole(parts.picture), {
      outward: v.outward,
      most: kind === 'bright' ? 1.25 : 1e9,
      alpha,
      known,
      screen,
      inside,
    })
    if (kind === 'bright' || v.spill === 0) return { colour: own }
    const on = { balance: v.balance, known, inside, near: parts.plain }
    return {
      colour: pointNode(despilled[channel], whole(own), { spill: v.spill, keep: 1 - v.behind, ...on }),
      spill:
        v.behind > 0 ? shareNode(spillOf[channel], own, { much: v.spill * v.behind, screen, ...on }, false) : undefined,
    }
  },
})
