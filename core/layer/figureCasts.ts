// What a figure casts: its shadow on the ground and on a wall, and what both mirror of it.
import { boxOf, type Box } from '../engine/box'
import { point } from '../formula/point'
import { raster, shade, splat } from '../../kernels/record'
import { Blend, CardMirror, CardShadow, CardSky, GroundDepth, MultiplyRatio } from '../../kernels/records'
import {
  CARD_FACETS,
  CARD_FOOT,
  CARD_LEVELS,
  CARD_LIGHT_MIDDLE,
  CARD_LIGHTS,
  CARD_SKY_HEADINGS,
  CARD_SKY_ROWS,
} from '../../kernels/assembly/layout'
import { joined, turnedOver } from '../matte/join'
import { finite } from '../plan/finite'
import { blendKernel } from '../plan/modes'
import { kernelNode, type Node } from '../plan/node'
import { atDistance, WHERE_IT_IS } from '../plan/picture'
import { pointNode, whole } from '../plan/pointNode'
import { boxOfSize } from '../plan/size'
import { metresTo } from './card'
import { aboutOf, castWindow, fours, fromFoot, inPixel, shiningOn, tableOf } from './figureLight'
import { mirrorWindow, ofLevels, placeOf, standingOf, type Standing } from './figureStanding'
import type { FigureValues } from './figureValues'
import type { Cast, CastBy, CastSlip, LayerInput, Shown } from './layer'

/** Of water; glass has 1.5. */
const INDEX = { ground: 1.333, wall: 1.5 }
/** Ways that a rough ground mirrors to. */
const FACETS = 24
/** A roughness of 1 is so steep a slope, as a standard deviation. */
const ROUGHEST = 0.3

export function figureCasts(input: LayerInput, values: FigureValues, by: CastBy): Cast[] {
  // What one in the scene casts is rendered
  if (values.world === 'scene') return []
  const own = input.picture()
  const camera = input.camera()
  if (!own || metresTo(camera, [values.x, values.level, values.z]) <= 0) return []
  const standing = standingOf({ node: finite(own.node), picture: own }, camera, input.size, values)
  const isWall = values.wall !== 'none'
  return [
    ...(values.shadow > 0 ? shadowCast(standing, input, by) : []),
    ...(values.mirror > 0 ? mirrorCast(standing, by, values.mirror, false) : []),
    ...(isWall && values.mirror_wall > 0 ? mirrorCast(standing, by, values.mirror_wall, true) : []),
  ]
}

/** What is nearer than this share of the way to the ground stands before it: no ground is quite level. */
const BEFORE = 0.95
/** How much of what is laid is ground or wall, where the layer says; undefined where that cannot be made. */
function receiving(standing: Standing, picture: Shown, by: CastBy, which: CastSlip): Node | undefined {
  // Of the camera and the ground alone: it stays as it is while a figure moves
  const place = placeOf(standing)
  place.fill(0, CARD_FOOT / 4)
  const metres = kernelNode(GroundDepth, { place, times: BEFORE }, { window: picture.colour.window })
  const ground = turnedOver(picture.nearer(metres))
  const where = by.where(which, picture)
  return where === 'everywhere' || !where ? where && ground : joined(ground, where, 'only')
}

/** What is left of light of which such a share of each channel is taken. tint: of what is taken that is left. */
const Left = point(
  'CastLeft',
  { ground: raster('single'), tint: shade, amount: splat },
  ({ colour, singles, values }) =>
    colour.map((taken, i) => {
      const one = taken.terms.constant(1)
      const gone = taken.atMost(1).times(one.minus(values.tint[i])).times(values.amount).times(singles.ground)
      return one.minus(gone).atLeast(0)
    }),
)

function shadowCast(standing: Standing, input: LayerInput, by: CastBy): Cast[] {
  const { values, levels } = standing
  const shining = shiningOn(input, standing)
  const window = castWindow(standing, shining)
  if (!window) return []
  const place = placeOf(standing, shining)
  const needs = (_: Box, which: number): Box => ofLevels(levels, which)
  const counted = fours(shining.counted)
  const ofLamps = shining.lamps.filter(({ length }) => length).map(fours)
  const casting = ofLamps.flat()
  const sky = shining.sky.length
    ? kernelNode(
        CardSky,
        { ...levels, place: fromFoot(place), ...tableOf(standing, fours(shining.sky)) },
        { window: boxOf(CARD_SKY_HEADINGS + 1, CARD_SKY_ROWS), needs },
      )
    : undefined
  const { lights } = tableOf(standing, [...counted, ...casting])
  // What a whole lamp shines past need not be looked at four by four
  let at = counted.length
  for (const lamp of ofLamps) {
    lights.set([...aboutOf(lamp.flat()), lamp.length], (at * CARD_LIGHTS + CARD_LIGHT_MIDDLE) / 4)
    at += lamp.length
  }
  const taken = kernelNode(
    CardShadow,
    { ...levels, place, lights, counted: counted.length, groups: casting.length, sky },
    { window, needs: (area, which) => (which < CARD_LEVELS ? needs(area, which) : sky!.window) },
  )
  return [
    {
      lay: picture => {
        const ground = receiving(standing, picture, by, 'ground')
        if (!ground) return picture
        const { colour: source } = picture
        const ratio = pointNode(Left, whole(taken), { ground, tint: values.shade, amount: values.shadow * by.opacity })
        const { window: all } = source
        const only = { where: 'ratio', elsewhere: 'source' } as const
        return { ...picture, colour: kernelNode(MultiplyRatio, { source, ratio, strength: 1 }, { window: all, only }) }
      },
    },
  ]
}

function mirrorCast(standing: Standing, by: CastBy, amount: number, wall: boolean): Cast[] {
  const { card, size, values, levels } = standing
  const window = mirrorWindow(standing, wall)
  if (!window) return []
  const facets = facetTable(values.mirror_rough * ROUGHEST)
  const own = kernelNode(
    CardMirror,
    {
      ...levels,
      ...{
        place: placeOf(standing),
        facets,
        count: FACETS,
        wall: wall ? 1 : 0,
        amount,
        fade: values.mirror_fade,
        hides: Math.min(1, values.mirror_hides * Math.min(1, amount)),
      },
      spread: values.mirror_rough * ROUGHEST * (3.2 / Math.sqrt(FACETS)),
      index: wall ? INDEX.wall : INDEX.ground,
    },
    { window, needs: (_, which) => ofLevels(levels, which) },
  )
  const colour = by.lined({
    colour: own,
    ...atDistance(Math.max(0.01, metresTo(standing.camera, card.foot)), boxOfSize(size)),
  })
  return [
    {
      lay: picture => {
        const matte = receiving(standing, picture, by, 'wet')
        if (!matte) return picture
        const { window: all } = picture.colour
        const laid = kernelNode(
          Blend,
          { backdrop: picture.colour, source: colour, mode: blendKernel('over'), opacity: by.opacity, matte },
          { window: all, only: WHERE_IT_IS },
        )
        return { ...picture, colour: laid }
      },
    },
  ]
}

/** Ways that ground of such slopes mirrors to, spread evenly by how often they are. */
function facetTable(slope: number): Float32Array {
  const table = new Float32Array((FACETS / 4) * (CARD_FACETS / 4))
  for (let i = 0; i < FACETS; i++) {
    // Slopes of a rough surface are normal, so their squares are exponential (C. Cox, W. Munk 1954)
    const far = slope * Math.sqrt(-2 * Math.log(1 - (i + 0.5) / FACETS))
    const angle = i * Math.PI * (3 - Math.sqrt(5))
    ;[far * Math.cos(angle), far * Math.sin(angle), ...inPixel(i)].forEach((value, k) => {
      table[(Math.floor(i / 4) * CARD_FACETS) / 4 + k * 4 + (i % 4)] = value
    })
  }
  return table
}
