// Figures that stand in the scene: each as a card with its picture, of which only what it does to others is rendered. Its
// own pixels are laid by its layer.
import { valuesAt, within } from '../declare/values'
import { cardOf, inWorld, type Card, type CardPicture } from '../layer/card'
import { contactOf, FIGURE_VALUES, stanceOf, type FigureValues } from '../layer/figureValues'
import type { Camera, Material, SceneObject } from '../scene/scene'
import { identity } from '../scene/vector'
import { valueAt } from '../time/curve'
import type { FigureLayer, ShotDocument } from './document'
import { inOrder } from './rows'
import { groupsRound } from './tree'

/** The picture of a card as it is seen, in as many pixels as a render needs. */
export interface CardLook {
  width: number
  height: number
  /** RGBA, linear Rec.709, premultiplied, rows from the top. */
  pixels: Float32Array
  /** What of the figure's own picture those pixels cover, in its pixels from the upper left. */
  covers: { width: number; height: number }
  picture: CardPicture
}

/** The figures that stand in the scene, as they are laid. */
export function cardsOf({ build: { layers } }: ShotDocument): FigureLayer[] {
  const isOn = (id: string): boolean => layers[id]!.on && groupsRound(layers, id).every(group => layers[group]!.on)
  return inOrder(layers).filter(
    (layer): layer is FigureLayer => layer.kind === 'figure' && layer.world === 'scene' && isOn(layer.id),
  )
}

const valuesOf = (layer: FigureLayer, frame: number): FigureValues =>
  valuesAt(FIGURE_VALUES, layer as never, frame, valueAt) as unknown as FigureValues

/** Where a figure stands at a frame, before that camera. */
export function cardAt(layer: FigureLayer, frame: number, picture: CardPicture, camera: Camera): Card {
  const values = valuesOf(layer, frame)
  return cardOf(stanceOf(values), contactOf(values), picture, camera)
}

/** Lines of a figure that are on its card: those that hold only somewhere do so on the frame. */
export const linesOnCard = ({ treatments }: FigureLayer): FigureLayer['treatments'] =>
  Object.fromEntries(Object.entries(treatments).filter(([, { on, matte }]) => on && !matte))

/**
 * What a card is rendered from, for it to be told from what it was; all of its values that only lay it on the picture are
 * left out.
 */
export const cardsStamp = (document: ShotDocument): unknown[] =>
  cardsOf(document).map(
    ({ x, z, level, height, facing, lean, foot_across, foot_down, head_down, picture, matte, ...layer }) => [
      [x, z, level, height, facing, lean, foot_across, foot_down, head_down, picture, matte ?? null],
      [layer.name, layer.opacity, inOrder(linesOnCard(layer as FigureLayer))],
    ],
  )

/** The cards of a scene, after its other objects; materials come after those that there are. */
export function cardObjects(
  document: ShotDocument,
  looks: ReadonlyMap<string, CardLook> | undefined,
  frame: number,
  camera: Camera,
  there: { objects: readonly SceneObject[]; materials: readonly Material[] },
): { objects: SceneObject[]; materials: Material[] } {
  const objects: SceneObject[] = []
  const materials: Material[] = []
  const taken = new Set(there.objects.map(({ name }) => name))
  for (const layer of cardsOf(document)) {
    const look = looks?.get(layer.id)
    if (!look) continue
    const { width, height, pixels, covers } = look
    const card = cardAt(layer, frame, look.picture, camera)
    const texture = { pixels, width, height, wrapS: 'clamp', wrapT: 'clamp' } as const
    const name = taken.has(layer.name) ? `${layer.name} (figure)` : layer.name
    taken.add(name)
    const corners = [
      [0, covers.height],
      [covers.width, covers.height],
      [covers.width, 0],
      [0, 0],
    ].map(([x, y]) => inWorld(card, x!, y!))
    objects.push({
      name,
      matrix: identity(),
      parts: [
        {
          positions: Float32Array.from(corners.flat()),
          uvs: Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0]),
          indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
          material: there.materials.length + materials.length,
        },
      ],
      role: 'object',
      hidden: true,
      absent: false,
      laid: true,
    })
    // A photograph has the light of its place in it: it sends that, and scatters none of its own
    materials.push({
      name,
      baseColour: [0, 0, 0, within(valueAt(layer.opacity, frame), 0, 1)],
      ...{ metallic: 0, roughness: 1, specular: { strength: 0, colour: [0, 0, 0] } },
      emission: [1, 1, 1],
      ...{ alphaMode: 'blend', alphaCutoff: 0.5, normalScale: 1, doubleSided: true },
      baseTexture: texture,
      emissionTexture: texture,
    })
  }
  return { objects, materials }
}
