import { anyValue, optional, value } from '../declare/field'
import { boxOf, common, heightOf, widthOf } from '../engine/box'
import { mappedBox } from '../plan/fitted'
import { kernelNode, type Node } from '../plan/node'
import { boxOfSize } from '../plan/size'
import { MotionOfMove, MultiplyRatio, Place } from '../../kernels/records'
import { DISTANCE, flat, layerKind, share, type LayerInput } from './layer'
import { shadowRatio } from './shadow'

interface Placed {
  x: number
  y: number
  scale: number
  rotation: number
}

export const picture = layerKind({
  id: 'picture',
  label: 'Picture',
  help: 'A picture or clip that stands flat at a distance.',
  sentence: 'stands {distance} away, its middle at {x}, {y}, scaled {scale}, turned {rotation}',
  values: {
    distance: DISTANCE,
    /** Pixels of the frame: middle of the picture. */
    x: anyValue({ label: 'across', step: 1, digits: 0, pixels: 'across' }),
    y: anyValue({ label: 'down', step: 1, digits: 0, unit: 'px', pixels: 'down' }),
    /** Frame pixels to a picture pixel. */
    scale: value(1e-3, 1e3, { label: 'scale', step: 0.002, digits: 3, neutral: 1, pixels: 'size' }),
    rotation: anyValue({ label: 'turn', step: 0.2, digits: 1, unit: 'deg', neutral: 0 }),
    shadow: optional(share('shadow caught', 'How much of the render’s shadow falls on it.', 0, 2)),
    occlusion: optional(share('occlusion', 'How much of the render’s occlusion is multiplied in.', 0)),
  },
  stands: 'at',
  behindNames: true,
  holds: 'picture',
  plan(input, values) {
    const own = input.picture()
    return (
      own && {
        ...flat(caught(placed(own, input, values), input, values), values.distance, input.size),
        motion: motionOf(own, input, values),
      }
    )
  },
})

/** In the shadow and the occlusion of a render. */
function caught(own: Node, input: LayerInput, { shadow, occlusion }: { shadow: number; occlusion: number }): Node {
  const { passes } = input
  const multiplied = (source: Node, ratio: Node | undefined, strength: number): Node =>
    ratio && strength > 0 ? kernelNode(MultiplyRatio, { source, ratio, strength }, { window: source.window }) : source
  const open = occlusion > 0 && passes?.file.planes.has('occlusion.Y') ? passes.colour(['occlusion.Y'], 1) : undefined
  return multiplied(multiplied(own, shadow > 0 ? shadowRatio(input) : undefined, shadow), open, occlusion)
}

type Own = NonNullable<ReturnType<LayerInput['picture']>>
/** x' = a x + b y + c, y' = d x + e y + f. */
type Move = readonly [a: number, b: number, c: number, d: number, e: number, f: number]

/** A picture where its layer puts it. */
function placed(own: Own, { size }: LayerInput, at: Placed): Node {
  const { node: source } = own
  const map = mapOf(own, size, at)
  const [a, b, c, d, e, f] = map
  return kernelNode(
    Place,
    { source, a, b, c, d, e, f, edge: 0 },
    {
      window: common(boxOfSize(size), mappedBox(boxOf(widthOf(source.window), heightOf(source.window)), inverse(map))),
      needs: area => mappedBox(area, map),
    },
  )
}

/** Places of the result to places of the picture. */
function mapOf({ node: source, width: fullWidth, pixelAspect }: Own, size: LayerInput['size'], at: Placed): Move {
  const width = widthOf(source.window)
  const height = heightOf(source.window)
  const angle = (at.rotation * Math.PI) / 180
  const x = at.x + size.left
  const y = at.y + size.top
  // Result pixel -> frame pixel -> about the middle, turned back, unscaled -> source pixel
  // A small picture has fewer pixels than the one for which the scale was said
  const fewer = width / fullWidth
  const cos = (Math.cos(angle) / at.scale) * fewer
  const sin = (Math.sin(angle) / at.scale) * fewer
  const k = size.shrink
  // Pixels that are not square are as wide as they say
  return [
    (cos * k) / pixelAspect,
    (sin * k) / pixelAspect,
    width / 2 - (cos * x + sin * y) / pixelAspect,
    -sin * k,
    cos * k,
    height / 2 + sin * x - cos * y,
  ]
}

/** Where its pixels go by the keys of its layer; undefined where they stay. */
function motionOf(own: Own, { size, frame, valuesAt }: LayerInput, now: Placed): (() => Node) | undefined {
  const map = mapOf(own, size, now)
  const [next, before] = [1, -1].map(by => mapOf(own, size, valuesAt(frame + by) as unknown as Placed))
  if ([next!, before!].every(other => other.every((value, i) => value === map[i]))) return undefined
  return () => {
    const [[a, b, c, d, e, f], [backA, backB, backC, backD, backE, backF]] = [
      after(map, inverse(next!)),
      after(map, inverse(before!)),
    ]
    const moves = { a, b, c, d, e, f, backA, backB, backC, backD, backE, backF }
    return kernelNode(MotionOfMove, moves, { window: boxOfSize(size) })
  }
}

/** One move, then another. */
const after = ([a, b, c, d, e, f]: Move, [g, h, i, j, k, l]: Move): Move => [
  g * a + h * d,
  g * b + h * e,
  g * c + h * f + i,
  j * a + k * d,
  j * b + k * e,
  j * c + k * f + l,
]

/** The map back. */
function inverse([a, b, c, d, e, f]: Move): Move {
  const det = a * e - b * d
  return [e / det, -b / det, (b * f - c * e) / det, -d / det, a / det, (c * d - a * f) / det]
}
