// What is done to the elements of a shot: brought in, made of what stands flat, parted into layers of their own.
import { valuesAt } from '../declare/values'
import { pixelsAtOne } from '../layer/card'
import { copiesOf, standsOnGround } from '../layer/elementCopies'
import { ELEMENT_VALUES } from '../layer/elementValues'
import { placeAt } from '../match/project'
import { valueAt, type Animatable } from '../time/curve'
import { squareSize } from './bring'
import {
  identifier,
  newLayer,
  type ElementLayer,
  type PictureLayer,
  type PictureReference,
  type ShotDocument,
} from './document'
import { addLayer, groupTogether, makeLayer } from './layers'
import { addRow, type Unplaced } from './rows'
import { sightOf } from './scene'

/** A new one stands in the middle of the frame, so many metres away, over such a share of its height. */
const BEGINS = { metres: 8, share: 0.5 }
const rounded = (value: number): number => Number(value.toPrecision(6))

/** Whether a picture says itself where there is nothing. */
const hasAlpha = ({ alpha }: PictureReference): boolean => alpha === 'straight' || alpha === 'premultiplied'
/** A clip that goes on from its beginning when it ends: copies are ahead and behind. */
const looped = (picture: PictureReference, start?: number): PictureReference =>
  picture.clip
    ? {
        ...picture,
        clip: {
          ...picture.clip,
          timing: { ...picture.clip.timing, ends: 'loop', ...(start === undefined ? {} : { start }) },
        },
      }
    : picture
/** What goes on what is behind it as light does, where it stands on black. */
const modeOf = (picture: PictureReference): string => (hasAlpha(picture) ? 'over' : 'screen')

/** Metres and metres a pixel at a place of the frame that is so many metres away. */
export function standing(document: ShotDocument, frame: number, [u, v]: readonly [number, number], metres: number) {
  const camera = sightOf(document, frame).camera()
  const { width, height } = document.frame
  const [x, y, z] = placeAt(camera, width / height, u, v, metres)
  return { place: { x: rounded(x), y: rounded(y), z: rounded(z) }, pixel: metres / pixelsAtOne(camera, width) }
}

/** Adds a picture or clip as an element in the middle of the frame. A clip starts at `frame`, and goes on when it ends. */
export function bringElement(
  document: ShotDocument,
  picture: PictureReference,
  frame: number,
  id = identifier(),
): ElementLayer {
  const { name } = newLayer(id, picture.name.replace(/\.\w+$/, '').slice(0, 200) || 'element')
  const { place, pixel } = standing(document, frame, [0.5, 0.5], BEGINS.metres)
  const made = makeLayer('element', {
    ...place,
    picture: looped(picture, frame),
    name,
    mode: modeOf(picture),
    taken: hasAlpha(picture) ? 'with alpha' : 'on black',
    size: rounded(pixel * document.frame.height * BEGINS.share),
  })
  return addRow(document.build.layers, { ...made, id } as Unplaced<ElementLayer>) as ElementLayer
}

/** What stands flat made an element, seen where it was and as large; its picture, its lines, its timing stay. */
export function makeElement(document: ShotDocument, id: string, frame: number): void {
  const { layers } = document.build
  const flat = layers[id] as PictureLayer
  const at = (value: Animatable): number => valueAt(value, frame)
  const { width, height } = document.frame
  const metres = at(flat.distance)
  const { place, pixel } = standing(document, frame, [at(flat.x) / width, at(flat.y) / height], metres)
  const { picture, name, on, note, within, treatments, opacity, mode, matte, order } = flat
  layers[id] = {
    ...makeLayer('element', {
      ...{ id, order, name, on, treatments, opacity, picture, ...place },
      mode: mode === 'over' ? modeOf(picture) : mode,
      taken: hasAlpha(picture) ? 'with alpha' : 'on black',
      turn: at(flat.rotation),
      size: rounded(squareSize(picture).height * at(flat.scale) * pixel),
    }),
    ...(note === undefined ? {} : { note }),
    ...(within === undefined ? {} : { within }),
    ...(matte === undefined ? {} : { matte }),
  } as ElementLayer
}

/**
 * The copies of an element as layers of their own in a group where it was, as they are at a frame: each may then be moved
 * and treated by itself. Returns the id of the group.
 */
export function partElement(document: ShotDocument, id: string, frame: number): string {
  const { layers } = document.build
  const whole = layers[id] as ElementLayer
  const values = valuesAt(ELEMENT_VALUES, whole as never, frame, valueAt)
  const begins = whole.picture.clip?.timing.start ?? 1
  const now = copiesOf(values, frame, begins)
  const next = copiesOf(values, frame + 1, begins)
  const ids = now.map((copy, i) => {
    const [x, y, z] = copy.at.map(rounded)
    // Of the same ground each stands on it by itself
    const stands = standsOnGround(values) ? { spread: 'on the ground', wide: 0, deep: 0 } : { spread: 'in one place' }
    const speed = next[i]!.plays - copy.plays
    return addLayer(
      document,
      {
        ...(JSON.parse(JSON.stringify(whole)) as ElementLayer),
        ...{ id: identifier(), name: `${whole.name.slice(0, 190)} ${i + 1}` },
        ...{ x: x!, y: y!, z: z!, size: rounded(copy.size), turn: rounded(copy.turn) },
        facing: copy.mirrored ? 'mirrored' : 'as taken',
        ...{ copies: 1, turns: 0, sizes: 0, mirrored: 0, offsets: 0, speeds: 0, ...stands },
        ...{ speed: rounded(speed), offset: rounded(copy.plays - (frame - begins) * speed), seed: copy.seed },
      } as Unplaced<ElementLayer>,
      id,
    )
  })
  const group = groupTogether(document, ids)
  layers[group]!.name = whole.name
  delete layers[id]
  return group
}
