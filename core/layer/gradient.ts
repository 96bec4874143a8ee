import { choice, colourValues, value, type About } from '../declare/field'
import type { EntryFields } from '../declare/values'
import { point } from '../formula/point'
import type { Term } from '../formula/term'
import { ring, type FramePlace, type Numbers } from '../matte/handles'
import { kernelNode, type Node } from '../plan/node'
import { cutTo } from '../plan/picture'
import { pointNode, whole } from '../plan/pointNode'
import { boxOfSize } from '../plan/size'
import { shade, splat } from '../../kernels/record'
import { ShareOf, Wash } from '../../kernels/records'
import { DISTANCE, flat, layerKind, share, type LayerHandles } from './layer'

const PLACES = { fromX: splat, fromY: splat, alongX: splat, alongY: splat, at: splat, over: splat, next: shade }
/** From what it is before a stop, at `at` of the way, to that stop's colour one over `over` further on; t: where a pixel is on the way. */
const toNext = (name: string, way: (dx: Term, dy: Term, alongX: Term, alongY: Term) => Term) =>
  point(name, PLACES, ({ colour, x, y, values: v }) => {
    const t = way(x.minus(v.fromX), y.minus(v.fromY), v.alongX, v.alongY)
    const part = t.minus(v.at).times(v.over).atLeast(0).atMost(1)
    return colour.map((channel, i) => channel.plus(v.next[i].minus(channel).times(part)))
  })
const Straight = toNext('GradientStop', (dx, dy, alongX, alongY) => dx.times(alongX).plus(dy.times(alongY)))
const Round = toNext('GradientRing', (dx, dy, alongX, alongY) =>
  dx
    .times(dx)
    .plus(dy.times(dy))
    .times(alongX.times(alongX).plus(alongY.times(alongY)))
    .root(),
)

/** Stops at most. */
const MOST = 8
const COUNTS = Array.from({ length: MOST - 1 }, (_, i) => String(i + 2)) as ['2', ...string[]]
/** Counts where there are at least so many stops. */
const from = (least: number): Pick<About, 'with'> =>
  least <= 2 ? {} : { with: { name: 'stops', is: COUNTS.filter(count => Number(count) >= least) } }
const place = (pixels: 'across' | 'down', label: string, first: number): ReturnType<typeof value> =>
  value(-1e6, 1e6, { label, unit: 'px', pixels, step: 1, digits: 0, hand: [-20000, 20000], first })
/** As a new one begins: from a bright sky to a dark ground. */
const FIRST = [
  [0.5, 0.6, 0.75],
  [0.75, 0.55, 0.4],
  [0.2, 0.2, 0.25],
] as const

type StopNames = 'colour' | 'cover' | 'at'
const stopValues = Object.fromEntries(
  Array.from({ length: MOST }, (_, k) => k + 1).flatMap(i => [
    [`colour${i}`, { ...colourValues(`stop ${i} `, { first: FIRST[Math.min(i - 1, FIRST.length - 1)]! }), ...from(i) }],
    [`cover${i}`, { ...share(`cover ${i}`, 'How much it covers there.', 1), ...from(i) }],
    // The first and the last stand at the ends
    ...(i > 1 && i < MOST
      ? [
          [
            `at${i}`,
            {
              ...value(0, 1, {
                label: `at ${i}`,
                help: 'How far on the way.',
                step: 0.002,
                digits: 3,
                first: i / MOST,
              }),
              ...from(i + 1),
            },
          ],
        ]
      : []),
  ]),
) as unknown as Record<`${StopNames}${number}`, EntryFields[string]>
const sentenceOf = (i: number): string =>
  i <= 2
    ? `; {colour${i}} covering {cover${i}}${i === 2 ? '[ at {at2}]' : ''}`
    : `[; {colour${i}} covering {cover${i}}]${i < MOST ? `[ at {at${i}}]` : ''}`

interface Stop {
  at: number
  colour: readonly [number, number, number]
  cover: number
}
/** In their order along the way: one dragged past another is where it is. */
function stopsOf(values: Readonly<Record<string, unknown>>): Stop[] {
  const count = Number(values.stops)
  return Array.from({ length: count }, (_, k): Stop => {
    const i = k + 1
    const at = i === 1 ? 0 : i === count ? 1 : (values[`at${i}`] as number)
    return { at, colour: values[`colour${i}`] as Stop['colour'], cover: values[`cover${i}`] as number }
  }).sort((a, b) => a.at - b.at)
}

const handles: LayerHandles = all => {
  const values = all as Record<string, number> & { shape: string; stops: string }
  const { from_x: x0, from_y: y0, to_x: x1, to_y: y1, shape } = values as Record<string, number> & { shape: string }
  const [dx, dy] = [x1! - x0!, y1! - y0!]
  const count = Number(values.stops)
  const on = (t: number): FramePlace => [x0! + dx * t, y0! + dy * t]
  const between = Array.from({ length: Math.max(0, count - 2) }, (_, k) => k + 2)
  return {
    of: 'frame',
    grips: [
      { id: 'from', label: 'first stop', at: on(0) },
      { id: 'to', label: 'last stop', at: on(1) },
      ...between.map(i => ({ id: `at${i}`, label: `stop ${i}`, at: on(values[`at${i}`] as number) })),
    ],
    lines: [
      [on(0), on(1)],
      ...(shape === 'round' ? [ring((c, s): FramePlace => [x0! + dx * c - dy * s, y0! + dy * c + dx * s])] : []),
    ],
    moved: (grip, [x, y]): Numbers => {
      if (grip === 'to') return { to_x: x, to_y: y }
      if (grip === 'from')
        return shape === 'round' ? { from_x: x, from_y: y, to_x: x + dx, to_y: y + dy } : { from_x: x, from_y: y }
      const t = ((x - x0!) * dx + (y - y0!) * dy) / Math.max(1e-6, dx * dx + dy * dy)
      return { [grip]: Math.min(1, Math.max(0, t)) }
    },
  }
}

export const gradient = layerKind({
  id: 'gradient',
  label: 'Gradient',
  help: 'Colours that go over into each other along a line or round a place, each stop moved on the picture, over all that is farther away.',
  sentence: `{shape}, from {from_x} {from_y} to {to_x} {to_y}, over all that is farther away than {distance}\n{stops} stops${Array.from({ length: MOST }, (_, k) => sentenceOf(k + 1)).join('')}`,
  values: {
    shape: choice(['straight', 'round'], { label: 'shape', help: 'Along a line, or round its beginning.' }),
    from_x: place('across', 'from, across', 640),
    from_y: place('down', 'from, down', 60),
    to_x: place('across', 'to, across', 640),
    to_y: place('down', 'to, down', 660),
    distance: { ...DISTANCE, first: 10 },
    stops: choice(COUNTS, { label: 'stops', first: '2' }),
    ...stopValues,
  },
  stands: 'at',
  behindNames: true,
  holds: 'nothing',
  handles,
  plan({ size }, values) {
    const { shrink } = size
    const window = boxOfSize(size)
    const [dx, dy] = [values.to_x - values.from_x, values.to_y - values.from_y]
    const long = Math.max(1e-3, Math.hypot(dx, dy))
    const round = values.shape === 'round'
    // Its length is one: along the way, or as how far it is
    const scale = shrink / (round ? long : long * long)
    const along = round ? { alongX: scale, alongY: 0 } : { alongX: dx * scale, alongY: dy * scale }
    const ways = { fromX: (values.from_x + size.left) / shrink, fromY: (values.from_y + size.top) / shrink, ...along }
    const stops = stopsOf(values)
    /** What the stops say, from one to the next. */
    const made = (of: (stop: Stop) => readonly [number, number, number]): Node => {
      const [red, green, blue] = of(stops[0]!)
      return stops.slice(1).reduce<Node>(
        (before, stop, i) => {
          const { at } = stops[i]!
          // Two at one place are a step
          const over = 1 / Math.max(1e-6, stop.at - at)
          return pointNode(round ? Round : Straight, whole(before), { ...ways, at, over, next: [...of(stop)] })
        },
        kernelNode(Wash, { colour: [red, green, blue, 1] }, { window }),
      )
    }
    const colour = made(stop => stop.colour.map(part => Math.max(0, part)) as [number, number, number])
    const isWhole = stops.every(({ cover }) => cover === 1)
    const cover = (): Node =>
      kernelNode(ShareOf, { source: made(stop => [stop.cover, stop.cover, stop.cover]), which: 0 }, { window })
    return flat(isWhole ? colour : cutTo(colour, cover()), values.distance, size)
  },
})
