// What is done to the figures of a shot: stood on the ground, measured, held against the horizon.
import { cardOf, inverted, metresTo, toCard, type Projection } from '../layer/card'
import { contactOf, FIGURE_VALUES, stanceOf } from '../layer/figureValues'
import { valuesAt } from '../declare/values'
import { perSecond } from '../time/rate'
import type { Sight } from '../layer/layer'
import type { Touching } from '../measure/contact'
import { onLevel, project } from '../match/project'
import { valueAt, type Animatable } from '../time/curve'
import { squareSize } from './bring'
import {
  identifier,
  newLayer,
  type FigureLayer,
  type PictureLayer,
  type PictureReference,
  type ShotDocument,
} from './document'
import { makeLayer } from './layers'
import { addRow, type Unplaced } from './rows'
import { sightOf } from './scene'

/** Where on the frame a new figure stands, from the left and the top. */
const BEGINS = [0.5, 0.8] as const
/** Metres before the camera where the ground is not seen there. */
const AHEAD = 8
/** Heads of people are at the height of an eye: a camera between these sees them near its horizon (common practice, no source). */
const EYE = { low: 1.2, high: 2 }
/** A head is so far off the horizon at most, as a share of its height: people are not of one size. */
const ALIKE = 0.09

const rounded = (value: number, digits = 3): number => Number(value.toFixed(digits))

/** The ground where a place of the frame shows it, 0..1; before the camera where it shows none. */
function groundAt(document: ShotDocument, frame: number, u: number, v: number): { x: number; z: number } {
  const camera = sightOf(document, frame).camera()
  const { matrix: m } = camera
  const { width, height } = document.frame
  const place = onLevel(camera, width / height, u, v, 0)
  if (place && metresTo(camera, place) > 0.1) return { x: rounded(place[0]), z: rounded(place[2]) }
  return { x: rounded(m[12]! - m[8]! * AHEAD), z: rounded(m[14]! - m[10]! * AHEAD) }
}

/** Adds a picture as a figure that stands where the lower middle of the frame shows the ground. A clip starts at `frame`. */
export function bringFigure(
  document: ShotDocument,
  picture: PictureReference,
  frame: number,
  id = identifier(),
): FigureLayer {
  const { name } = newLayer(id, picture.name.replace(/\.\w+$/, '').slice(0, 200) || 'figure')
  const own = picture.clip
    ? { ...picture, clip: { ...picture.clip, timing: { ...picture.clip.timing, start: frame } } }
    : picture
  const made = makeLayer('figure', { picture: own, name, ...groundAt(document, frame, ...BEGINS) })
  return addRow(document.build.layers, { ...made, id } as Unplaced<FigureLayer>) as FigureLayer
}

/** What stands flat stood on the ground, where its lower edge shows it; its picture, its lines, its timing stay. */
export function standUp(document: ShotDocument, id: string, frame: number): void {
  const { layers } = document.build
  const flat = layers[id] as PictureLayer
  const { width, height } = document.frame
  const at = (value: Animatable): number => valueAt(value, frame)
  const own = squareSize(flat.picture)
  const foot = [at(flat.x) / width, (at(flat.y) + (own.height * at(flat.scale)) / 2) / height] as const
  const { picture, name, on, note, within, treatments, opacity, mode, matte, order } = flat
  const kept = { id, order, name, on, treatments, opacity, mode, picture }
  layers[id] = {
    ...makeLayer('figure', { ...kept, ...groundAt(document, frame, ...foot) }),
    ...(note === undefined ? {} : { note }),
    ...(within === undefined ? {} : { within }),
    ...(matte === undefined ? {} : { matte }),
  } as FigureLayer
}

/** Takes where a picture touches the ground for where its figure does. */
export function takeTouching(layer: FigureLayer, { footAcross, footDown, headDown, second }: Touching): void {
  Object.assign(layer, {
    ...{ foot_across: rounded(footAcross, 4), foot_down: rounded(footDown, 4), head_down: rounded(headDown, 4) },
    feet: second ? 'two places' : 'one place',
    ...(second ? { other_across: rounded(second.across, 4), other_down: rounded(second.down, 4) } : {}),
  })
}

/** The figure whose picture a line of a slip is said of, by the line's id. */
export const figureOfTerm = ({ build }: ShotDocument, term: string): FigureLayer | undefined =>
  Object.values(build.layers).find(
    (layer): layer is FigureLayer => layer.kind === 'figure' && !!layer.matte && Object.hasOwn(layer.matte.terms, term),
  )

/**
 * Where a figure's own picture lies on the frame: the projection of its pixels to pixels of the frame, and the one back.
 * Undefined where its foot is behind the camera.
 */
export function onFrame(
  layer: FigureLayer,
  document: ShotDocument,
  frame: number,
): { to: Projection; from: Projection } | undefined {
  const camera = sightOf(document, frame).camera()
  const values = valuesAt(FIGURE_VALUES, layer as never, frame, valueAt)
  const { picture } = layer
  const own = { ...picture, pixelAspect: picture.clip ? perSecond(picture.clip.pixelAspect) : 1 }
  const card = cardOf(stanceOf(values), contactOf(values), own, camera)
  const from = toCard(card, camera, document.frame.width, document.frame.height)
  const to = metresTo(camera, card.foot) > 0.01 ? inverted(from) : undefined
  return to && { to, from }
}

/** As many times as tall as it is what lies about a figure is looked at, to each side, above and below. */
const ABOUT = { aside: 0.9, above: 0.3, below: 0.25 }
/** What lies about a figure, pixels of the frame; undefined where it is not in sight. */
export function aboutFigure(
  layer: FigureLayer,
  document: ShotDocument,
  frame: number,
): { left: number; top: number; right: number; bottom: number } | undefined {
  const at = (value: Animatable): number => valueAt(value, frame)
  const camera = sightOf(document, frame).camera()
  const { width, height } = document.frame
  const [x, y, z] = [at(layer.x), at(layer.level), at(layer.z)]
  const [foot, head] = [
    project(camera, width / height, [x, y, z]),
    project(camera, width / height, [x, y + at(layer.height), z]),
  ]
  if (!(foot.metres > 0.01)) return undefined
  const tall = (foot.v - head.v) * height
  const box = {
    left: Math.max(0, Math.floor(foot.u * width - tall * ABOUT.aside)),
    top: Math.max(0, Math.floor(head.v * height - tall * ABOUT.above)),
    right: Math.min(width, Math.ceil(foot.u * width + tall * ABOUT.aside)),
    bottom: Math.min(height, Math.ceil(foot.v * height + tall * ABOUT.below)),
  }
  return box.right > box.left && box.bottom > box.top ? box : undefined
}

/**
 * Whether a figure's head is off the horizon where the camera is as high as an eye: what there is to say, and the height
 * that would fit. Undefined where it fits, or nothing can be said.
 */
export function headsOff(layer: FigureLayer, { frame, camera }: Sight): { words: string; fits: number } | undefined {
  const at = (value: Animatable): number => valueAt(value, frame)
  const eye = camera().matrix[13]! - at(layer.level)
  if (eye < EYE.low || eye > EYE.high) return undefined
  // Eyes are a fifteenth of someone's height under the top of the head
  const fits = rounded(eye / (1 - 1 / 15), 2)
  const height = at(layer.height)
  if (Math.abs(height / fits - 1) <= ALIKE) return undefined
  return {
    words: `Its head is ${height > fits ? 'above' : 'below'} the horizon: the camera is ${rounded(eye, 2)} m high, at the eyes of someone ${fits} m tall.`,
    fits,
  }
}
