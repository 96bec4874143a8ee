// What a small lamp adds to a picture: to the surfaces of a render by their place, normal and colour, to all else as much
// as it adds to the light that falls there.
import { point } from '../formula/point'
import { Colour, type Term } from '../formula/term'
import { raster, shade, splat } from '../../kernels/record'

const LAMP = {
  /** Rays of the pixels: X x + Y y + C in the world, one metre along the view axis; whence. */
  across: shade,
  down: shade,
  first: shade,
  eye: shade,
  lamp: shade,
  /** W/sr. */
  power: shade,
  /** Nearer than this (squared) it grows no brighter. */
  least: splat,
  /** One over the light of the scene, W/m²; 0 where all but the render stays. */
  over: shade,
  level: splat,
  depth: raster('single'),
} as const
const OF_RENDER = {
  own: raster('single'),
  place: raster('colour'),
  normal: raster('colour'),
  albedo: raster('colour'),
} as const

const dot = (a: Colour, b: Colour): Term => a.red.times(b.red).plus(a.green.times(b.green)).plus(a.blue.times(b.blue))
const LEAST = 1e-12
const unit = (way: Colour): Colour => way.times(way.red.terms.constant(1).over(dot(way, way).atLeast(LEAST).root()))
/** Depths of the plate, and what is nearer. */
const NOTHING = 1e9
/** What is as far away as the render within this share is the render. */
const SAME = 0.02
const INVERSE_PI = 1 / Math.PI

/** What falls on a surface there for each watt into a steradian, W/m². */
function falling(lamp: Colour, least: Term, place: Colour, normal: Colour): Term {
  const way = lamp.minus(place)
  const squared = dot(way, way)
  return dot(way, normal).over(squared.atLeast(LEAST).root()).atLeast(0).over(squared.atLeast(least))
}
/**
 * What a dielectric surface (F0 0.04) of middling roughness leaves to its matt part, by the cosine to the eye: within 0.01
 * of what the renderer's tables say at a roughness of 0.75, 0.015 from 0.6 to 1 unless seen askew.
 */
function matt(facing: Term): Term {
  const rest = facing.terms.constant(1).minus(facing.atMost(1))
  return rest.times(rest).times(rest).times(-0.09).plus(0.976)
}

type Given = Parameters<Parameters<typeof point<typeof LAMP & typeof OF_RENDER>>[2]>[0]
/** What is added to all that is not the render: `rest` of the pixel. */
function onRest(
  {
    colour,
    x,
    y,
    values: v,
    singles,
  }: Pick<Given, 'colour' | 'x' | 'y' | 'values'> & { singles: Pick<Given['singles'], 'depth'> },
  rest: Term,
): Colour {
  const { constant } = { constant: (number: number) => x.terms.constant(number) }
  const ray = v.across.times(x).plus(v.down.times(y)).plus(v.first)
  const isThing = constant(NOTHING).isAbove(singles.depth)
  // A thing is taken to face the eye; all else that sees the ground is that
  const toLevel = v.level.minus(v.eye.green).over(ray.green.isEqual(0).choose(LEAST, ray.green))
  const metres = isThing.choose(singles.depth, toLevel.atLeast(0))
  const place = v.eye.plus(ray.times(metres))
  const facing = unit(new Colour(ray.red.times(-1), constant(0), ray.blue.times(-1)))
  const up = v.eye.green.isAtLeast(v.level).choose(1, -1)
  const normal = new Colour(isThing.choose(facing.red, 0), isThing.choose(0, up), isThing.choose(facing.blue, 0))
  const light = falling(v.lamp, v.least, place, normal).times(isThing.choose(1, toLevel.isAbove(0).choose(1, 0)))
  return colour.times(v.power.times(v.over)).times(light.times(rest))
}

/** On what has no passes. */
export const AccentOnPlate = point('AccentOnPlate', LAMP, pixel =>
  pixel.colour.plus(onRest(pixel, pixel.x.terms.constant(1))),
)
/** On a render and all else. */
export const AccentOnRender = point('AccentOnRender', { ...LAMP, ...OF_RENDER }, pixel => {
  const { colour, x, values: v, singles, colours } = pixel
  const one = x.terms.constant(1)
  const { depth, own } = singles
  const isSame = own.times(SAME).isAbove(depth.minus(own).absolute()).choose(1, depth.isAbove(NOTHING).choose(1, 0))
  const place = colours.place.colour
  const normal = unit(colours.normal.colour)
  const facing = dot(normal, unit(v.eye.minus(place))).absolute()
  const onIt = falling(v.lamp, v.least, place, normal).times(matt(facing)).times(isSame.times(INVERSE_PI))
  const rest = one.minus(isSame.times(colours.place.alpha))
  return colour.plus(colours.albedo.colour.times(v.power).times(onIt)).plus(onRest(pixel, rest))
})

/** Light round a middle that fades as air round a lamp does: less than a third at one size, with the cube far off. */
export const Halo = point(
  'Halo',
  { middleX: splat, middleY: splat, over: splat, radiance: shade },
  ({ x, y, values: { middleX, middleY, over, radiance } }) => {
    const [dx, dy] = [x.minus(middleX).times(over), y.minus(middleY).times(over)]
    const t = dx.times(dx).plus(dy.times(dy)).plus(1)
    return radiance.times(t.terms.constant(1).over(t.times(t.root())))
  },
)
