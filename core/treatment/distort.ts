import { choice, value } from '../declare/field'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { BadInput } from '../formats/errors'
import { pointNode, whole } from '../plan/pointNode'
import { splat } from '../../kernels/record'
import { shape, SHAPE_VALUES } from './shape'

const TERMS = { k1: splat, k2: splat, k3: splat, p1: splat, p2: splat, x: splat, y: splat, side: splat, over: splat }
type Values = { [N in keyof typeof TERMS]: Colour['red'] }
/** D. C. Brown, "Close-range camera calibration" (1971): radial and tangential terms, as OpenCV counts them. */
function bent(x: Colour['red'], y: Colour['red'], v: Values): [Colour['red'], Colour['red']] {
  const r2 = x.times(x).plus(y.times(y))
  const radial = r2.times(v.k3).plus(v.k2).times(r2).plus(v.k1).times(r2).plus(1)
  const xy = x.times(y).times(2)
  return [
    x
      .times(radial)
      .plus(v.p1.times(xy))
      .plus(v.p2.times(r2.plus(x.times(x).times(2)))),
    y
      .times(radial)
      .plus(v.p1.times(r2.plus(y.times(y).times(2))))
      .plus(v.p2.times(xy)),
  ]
}
const Straightened = point('LensStraightened', TERMS, ({ colour: { red, green, blue }, values: v }) => {
  const [x, y] = bent(red.minus(v.x).times(v.over), green.minus(v.y).times(v.over), v)
  return new Colour(x.times(v.side).plus(v.x), y.times(v.side).plus(v.y), blue)
})
/** Goes of the way back: x - (bent(x) - wanted), which draws near by a factor each time where a lens does not bend back. */
const GOES = 12
const Bent = point('LensBent', TERMS, ({ colour: { red, green, blue }, values: v }) => {
  const [wantedX, wantedY] = [red.minus(v.x).times(v.over), green.minus(v.y).times(v.over)]
  let [x, y] = [wantedX, wantedY]
  for (let i = 0; i < GOES; i++) {
    const [bx, by] = bent(x, y, v)
    x = x.minus(bx.minus(wantedX))
    y = y.minus(by.minus(wantedY))
  }
  const [bx, by] = bent(x, y, v)
  const [missX, missY] = [bx.minus(wantedX), by.minus(wantedY)]
  // Farther out than the lens bends anything to is nothing
  const isThere = v.over.isAbove(missX.absolute().plus(missY.absolute()))
  return new Colour(x.times(v.side).plus(v.x), y.times(v.side).plus(v.y), isThere.choose(blue, 0))
})
const term = (label: string, help: string): ReturnType<typeof value> =>
  value(-5, 5, { label, help, step: 0.0005, digits: 4, neutral: 0 })

/** Of a file of a measured lens; radii over the focal length there. Throws BadInput. */
function readLens(bytes: Uint8Array): { label: string; values: Record<string, number> }[] {
  let held: unknown
  try {
    held = JSON.parse(new TextDecoder().decode(bytes.subarray(0, 100000)))
  } catch {
    throw new BadInput('This file is no JSON.')
  }
  const { lens, name } = (held ?? {}) as { lens?: Record<string, unknown>; name?: unknown }
  if (!lens || typeof lens !== 'object')
    throw new BadInput('This file says no “lens” with its terms k1, k2, k3, p1, p2.')
  const values: Record<string, number> = {}
  for (const id of ['k1', 'k2', 'k3', 'p1', 'p2', 'focal', 'centre_x', 'centre_y']) {
    const found = lens[id]
    if (found === undefined) continue
    if (typeof found !== 'number' || !Number.isFinite(found)) throw new BadInput(`The lens’s ${id} is no number.`)
    values[id] = found
  }
  if (!Object.keys(values).length) throw new BadInput('This lens has none of the terms k1, k2, k3, p1, p2.')
  return [{ label: typeof name === 'string' ? name.slice(0, 80) : 'lens', values }]
}

export const distort = shape({
  id: 'distort',
  label: 'Lens distortion',
  help: 'Bends the picture as a lens does, or straightens what one bent, by radial and tangential terms (Brown–Conrady) as cameras are measured by.',
  group: 'Lens',
  sentence:
    'Lens {way}: radial {k1} {k2} {k3}, tangential {p1} {p2}, at a focal length of {focal} about {centre_x} {centre_y}; {filter}, beyond the edge {beyond}',
  values: {
    way: choice(['bends', 'straightens'], {
      label: 'way',
      help: 'Lays the lens on a straight picture, or takes it off a bent one.',
    }),
    k1: term('k1', 'First radial term: less than nothing bulges (barrel), more draws in (pincushion).'),
    k2: term('k2', 'Second radial term.'),
    k3: term('k3', 'Third radial term.'),
    p1: term('p1', 'First tangential term: the lens sits askew, up or down.'),
    p2: term('p2', 'Second tangential term: askew to a side.'),
    focal: value(0.05, 50, {
      label: 'focal length',
      help: 'In widths of the frame: what the terms are counted by.',
      step: 0.002,
      digits: 3,
      first: 1,
    }),
    centre_x: value(-1, 2, {
      label: 'centre across',
      help: 'In widths of the frame.',
      step: 0.001,
      digits: 3,
      first: 0.5,
    }),
    centre_y: value(-1, 2, {
      label: 'centre down',
      help: 'In heights of the frame.',
      step: 0.001,
      digits: 3,
      first: 0.5,
    }),
    ...SHAPE_VALUES,
  },
  neutral: ['k1', 'k2', 'k3', 'p1', 'p2'],
  shown: { k1: -0.35 },
  files: {
    accept: '.json',
    read: readLens,
    ending: 'json',
    write: (held, name) => {
      const { k1, k2, k3, p1, p2, focal, centre_x, centre_y } = held
      return `${JSON.stringify({ name, lens: { k1, k2, k3, p1, p2, focal, centre_x, centre_y } }, null, 2)}\n`
    },
  },
  places: ({ width, height }, { way, focal, centre_x, centre_y, k1, k2, k3, p1, p2 }, places) => {
    const side = focal * width
    return pointNode(way === 'straightens' ? Straightened : Bent, whole(places), {
      ...{ k1, k2, k3, p1, p2, x: centre_x * width, y: centre_y * height, side, over: 1 / side },
    })
  },
})
