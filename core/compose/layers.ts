// Layers made one picture: each in its turn, from far to near, what stands by its depth cut between the others.
import { within, valuesAt } from '../declare/values'
import { layerKindOf } from '../layer/registry'
import {
  FAR,
  flat,
  standsByItself,
  type Cast,
  type CastBy,
  type CastSlip,
  type LayerInput,
  type Shown,
  type Sight,
} from '../layer/layer'
import { deskAt } from '../layer/desk'
import { laidOver } from '../layer/laid'
import { kernelNode, type Node } from '../plan/node'
import type { Size } from '../plan/size'
import { PassNodes } from '../render/passnodes'
import { CLEAN_AMOUNT, NO_DEPTH } from '../render/passes'
import type { GroupLayer, Layer, PlateLayer, Slip } from '../shot/document'
import { beyondFrame } from '../shot/lens'
import { cameraAt, sightOf } from '../shot/scene'
import type { Rows } from '../shot/rows'
import { farToNear, groupsRound, inLaidOrder, isGroup, renderOf, showsDepths, standsAt, withAllIn } from '../shot/tree'
import { valueAt, type Animatable } from '../time/curve'
import { perSecond } from '../time/rate'
import { ShareOf, Wash } from '../../kernels/records'
import type { Files } from './files'
import { litBy, surroundingLight } from './lights'
import { aheadBy, namedBefore, slab, type Part } from './slab'
import { plateDepth, surfaced } from './surfaced'
import { cutOut, matteNode, type MatteBy } from './mattes'
import { black, ownPicture, plateNode, straightened, type OwnPicture } from './plates'
import { workSize, type Request } from './request'
import { passesFor, treatedBy } from './treatedBy'
import { mixedIn, treated, type TreatedBy } from './treatments'

/** Everything that the layers of a shot make. Throws StillPacked. */
export const builtPicture = (files: Files, request: Request, size: Size, look?: TreatedBy['look']): Shown =>
  new Building(files, request, size, look).group(null)

/** The picture of a layer as it is cut, in its own pixels; undefined where it shows none. Throws StillPacked. */
export function cutPicture(files: Files, request: Request, id: string): Node | undefined {
  const layer = request.document.build.layers[id]
  const size = workSize(request)
  return (
    layer &&
    new Building(files, request, size).picture(layer, request, 'matte' in layer ? layer.matte : undefined)?.node
  )
}

class Building {
  private layers: Rows<Layer>
  private only: ReadonlySet<string> | undefined
  private sight: Sight
  /** What layers cast, in the order in which they are laid. */
  private casts: Cast[] = []

  constructor(
    private files: Files,
    private request: Request,
    private size: Size,
    private look?: TreatedBy['look'],
  ) {
    const { layers } = request.document.build
    this.layers = layers
    this.sight = sightOf(request.document, request.frame)
    const only = request.only?.filter(id => Object.hasOwn(layers, id)) ?? []
    if (only.length)
      this.only = new Set(
        only.flatMap(id => [...withAllIn(layers, id).map(layer => layer.id), ...groupsRound(layers, id)]),
      )
  }

  /** What the layers of a group (null: those in none) make together. */
  group(id: string | null): Shown {
    const made = this.together(id)
    // What is cast falls on all of the picture, whatever group it comes from
    return id === null ? this.casts.reduce((picture, cast) => cast.lay(picture), made) : made
  }

  private together(id: string | null): Shown {
    const holder = id === null ? undefined : this.layers[id]
    return isGroup(holder) && holder.ordered === 'by hand'
      ? this.inside(id).reduce((below, layer) => this.laid(below, layer, this.shown(layer)), this.nothing)
      : this.byDistance(
          farToNear(
            this.inside(id).flatMap(layer => this.unbracketed(layer)),
            this.sight,
          ),
        )
  }

  /** What is seen of a group (null: of those in none), as it is laid. */
  private inside(id: string | null): Layer[] {
    const { layers, request, only } = this
    return inLaidOrder(layers, id, this.sight).filter(
      layer => layer.on && request.without?.id !== layer.id && (only?.has(layer.id) ?? true),
    )
  }

  /**
   * A group that is nothing but a bracket is what is in it: over is associative (Porter and Duff 1984), and each thing
   * keeps its own place and colour.
   */
  private unbracketed(layer: Layer): Layer[] {
    if (layer.kind !== 'group' || layer.ordered === 'by hand' || !this.isPlain(layer) || layer.distance !== undefined)
      return [layer]
    const inside = this.inside(layer.id)
    return inside.every(part => 'mode' in part && part.mode === 'over')
      ? inside.flatMap(part => this.unbracketed(part))
      : [layer]
  }
  private isPlain({ mode, opacity, treatments, matte, id }: GroupLayer): boolean {
    const isTreated = Object.values(treatments).some(({ on, id }) => on || this.look?.line === id)
    return (
      mode === 'over' && valueAt(opacity, this.request.frame) === 1 && !isTreated && !matte && this.look?.line !== id
    )
  }

  private get nothing(): Shown {
    // It has no place, so no cut has to go through it
    return { ...flat(black(this.size), NO_DEPTH, this.size), span: { near: Infinity, far: -Infinity } }
  }

  private byDistance(list: readonly Layer[]): Shown {
    const deep = list.flatMap((layer): Part[] => {
      const shown = showsDepths(layer, this.sight) ? this.shown(layer) : undefined
      const on = shown?.onRender ? renderOf(this.layers, layer)?.id : undefined
      return shown ? [{ layer, shown, on, behind: namedBefore(layer) }] : []
    })
    let picture = this.nothing
    let far = FAR
    // What is stacked is cut by what is not: that has one distance a pixel to cut by. Of what a sheet covers that is so even
    // at the borders of things, where a render has several. What lies on a render comes after it
    const rank = ({ shown, on }: Part): number => (shown.stacked ? 0 : on !== undefined ? 3 : shown.sheet ? 2 : 1)
    const layDeep = (near: number): void => {
      if (near < far) for (const { layer, shown } of slab(deep, near, far)) picture = this.laid(picture, layer, shown)
      far = near
    }
    const whole = list.filter(layer => !showsDepths(layer, this.sight))
    const isFar = (layer: Layer): boolean => (standsAt(layer, this.sight) as number) >= FAR
    const behind = whole.filter(isFar)
    for (const layer of behind) picture = this.laid(picture, layer, this.shown(layer))
    // What stands far stands where the plate's own depth says, if it has one
    const plate = behind.find((layer): layer is PlateLayer => layer.kind === 'plate' && !!layer.depth)
    if (plate?.depth) {
      const shown = surfaced(picture, plateDepth(this.files, this.request, this.size, plate.depth))
      deep.push({ layer: { ...plate, opacity: 1, mode: 'over' }, shown })
      picture = this.nothing
    }
    deep.sort((a, b) => rank(a) - rank(b))
    const said = [
      ...deep.map(({ shown, behind = [] }) => ({ from: shown.span.near, behind })),
      ...whole.map(layer => ({ from: standsAt(layer, this.sight) as number, behind: namedBefore(layer) })),
    ].filter(({ behind }) => behind.length)
    if (said.length) for (const part of deep) part.shown = aheadBy(part.shown, said)
    for (const layer of whole) {
      if (isFar(layer)) continue
      layDeep(Math.max(0, standsAt(layer, this.sight) as number))
      picture = this.laid(picture, layer, this.shown(layer))
    }
    layDeep(0)
    return picture
  }

  /** A layer laid on what is behind it. */
  private laid(below: Shown, layer: Layer, shown: Shown | undefined): Shown {
    if (!shown) return below
    if ('opacity' in layer)
      return laidOver(below, shown, layer.mode, within(valueAt(layer.opacity, this.request.frame), 0, 1))
    const { request, look, size } = this
    const values = this.values(layer, request) as never
    const after = layerKindOf(layer.kind).lay!(this.input(layer, request), below.colour, shown.colour, values)
    // Only where its slip says: of what is behind it
    const where = (slip: Slip): Node | 'everywhere' | undefined => matteNode(slip, below, this.matteBy(layer, request))
    if (look?.line === layer.id) {
      const matte = look.slip && where(look.slip)
      look.found = { comes: below.colour, matte: matte === 'everywhere' ? undefined : matte, size }
    }
    const matte = layer.matte && where(layer.matte)
    return { ...below, colour: matte && matte !== 'everywhere' ? mixedIn(below.colour, after, 1, matte) : after }
  }

  /** What a layer shows, with its lines; undefined where that is nothing. */
  private shown(layer: Layer): Shown | undefined {
    const { request, look } = this
    const own = this.own(layer, request)
    this.cast(layer)
    if (!own || (request.without?.treatments && !look)) return own
    return { ...own, colour: treated(own, layer.treatments, this.treatedBy(layer, own, look)).colour }
  }

  private treatedBy(layer: Layer, own: Shown, look?: TreatedBy['look']): TreatedBy {
    const { request, size, files } = this
    return treatedBy(
      files,
      request,
      size,
      !!layerKindOf(layer.kind).relative,
      look,
      at => (at === request ? own : (this.own(layer, at) ?? this.nothing)),
      at => this.passes(layer, at),
    )
  }

  /** What a layer casts, whether it is in sight or not. */
  private cast(layer: Layer): void {
    const { request } = this
    const { casts } = layerKindOf(layer.kind)
    const opacity = 'opacity' in layer ? within(valueAt(layer.opacity, request.frame), 0, 1) : 1
    if (!casts || opacity === 0) return
    const by: CastBy = {
      opacity,
      mode: 'mode' in layer ? layer.mode : 'over',
      lined: picture =>
        request.without?.treatments
          ? picture.colour
          : treated(picture, layer.treatments, this.treatedBy(layer, this.nothing)).colour,
      where: (which, picture) => {
        const where = (one: Slip): ReturnType<typeof matteNode> => matteNode(one, picture, this.matteBy(layer, request))
        const { look } = this
        if (look?.line === (which === 'matte' ? layer.id : `${layer.id}.${which}`)) {
          const matte = look.slip && where(look.slip)
          look.found = { comes: picture.colour, matte: matte === 'everywhere' ? undefined : matte, size: this.size }
        }
        const slip = which in layer ? (layer as Partial<Record<CastSlip, Slip>>)[which] : undefined
        return slip ? where(slip) : 'everywhere'
      },
    }
    this.casts.push(...casts(this.input(layer, request), this.values(layer, request) as never, by))
  }

  /** Without its lines: cut to what its slip holds. */
  private own(layer: Layer, at: Request): Shown | undefined {
    const shown = this.plain(layer, at)
    if (layerKindOf(layer.kind).cutFirst) return this.looked(layer, at, shown)
    const { look, size } = this
    const { first, last } = at.document.frames
    const isSeen = look?.line === layer.id
    if (!shown || !('opacity' in layer) || !(layer.matte || isSeen)) return shown
    const by = this.matteBy(layer, at)
    by.there = frame => {
      const other = { ...at, frame: within(frame, first, last) }
      return {
        picture: this.plain(layer, other) ?? this.nothing,
        by: { ...this.matteBy(layer, other), there: by.there },
      }
    }
    if (isSeen) {
      const matte = look.slip && matteNode(look.slip, shown, by)
      const cut = look.slip && cutOut(look.slip, shown, by)?.colour
      look.found = { comes: shown.colour, matte: matte === 'everywhere' ? undefined : matte, cut, size }
    }
    return layer.matte ? { ...shown, ...cutOut(layer.matte, shown, by) } : shown
  }

  /** What was cut before it was placed; where its slip is looked at, that is shown as it lies in the picture. */
  private looked(layer: Layer, at: Request, shown: Shown | undefined): Shown | undefined {
    const { look, size } = this
    if (look?.line !== layer.id || !shown) return shown
    const values = this.values(layer, at) as never
    const { plan } = layerKindOf(layer.kind)
    const input = this.input(layer, at)
    const placed = (slip: Slip | undefined, from?: (own: Node) => Node): Node | undefined =>
      plan({ ...input, picture: () => this.picture(layer, at, slip, from) }, values)?.colour
    // Where it is held is placed as a picture of one brightness
    const held =
      look.slip && placed(look.slip, own => kernelNode(Wash, { colour: [1, 1, 1, 1] }, { window: own.window }))
    look.found = {
      comes: placed(undefined)!,
      matte: held && kernelNode(ShareOf, { source: held, which: 3 }, { window: held.window }),
      cut: look.slip && placed(look.slip),
      size,
    }
    return shown
  }

  /** The picture of a layer, cut to a slip where one is given. from: what stands for it. */
  picture(layer: Layer, at: Request, slip: Slip | undefined, from?: (own: Node) => Node): OwnPicture | undefined {
    return ownPicture(this.files, layer, at, slip, this.matteBy(layer, at), from)
  }

  /** What a slip of a layer is made by. */
  private matteBy(layer: Layer, at: Request): MatteBy {
    const { size } = this
    return {
      ...{ frame: at.frame, size, mattes: at.document.mattes },
      passes: this.passes(layer, at),
      relative: layerKindOf(layer.kind).relative ?? false,
      taken: straightened(this.files, size)(at),
    }
  }
  /** As it is by itself. */
  private plain(layer: Layer, at: Request): Shown | undefined {
    const kind = layerKindOf(layer.kind)
    const shown = kind.plan(this.input(layer, at), this.values(layer, at) as never)
    const put =
      !standsByItself(kind.stands) && kind.holds !== 'pass'
        ? standsAt(layer, sightOf(at.document, at.frame))
        : undefined
    // What was put somewhere stands there as a whole
    return shown && typeof put === 'number' && put < FAR ? flat(shown.colour, put, this.size) : shown
  }

  private values(layer: Layer, { frame }: Request): Record<string, unknown> {
    return valuesAt(layerKindOf(layer.kind).values, layer as never, frame, valueAt)
  }

  /** Of the render that a layer is, or is of; of the shot for what is of none. */
  private passes(layer: Layer, at: Request): PassNodes | undefined {
    const { files, size } = this
    if ('of' in layer && layer.of !== undefined && !renderOf(this.layers, layer)) return undefined
    return passesFor(files, at, size, renderOf(this.layers, layer)?.file)
  }

  private input(layer: Layer, at: Request): LayerInput {
    const { files, size } = this
    const { frame, document, without } = at
    const kind = layerKindOf(layer.kind)
    const render = renderOf(this.layers, layer)
    const now = (value: Animatable): number => valueAt(value, frame)
    const picture = 'picture' in layer ? layer.picture : undefined
    return {
      frame,
      rate: perSecond(document.rate),
      size,
      camera: (other = frame) =>
        beyondFrame(cameraAt(document.scene.camera, other), document.frame, [size.left, size.top]),
      lights: () => {
        const { lights, emitters } = litBy(files, document, frame)
        return [...lights, ...emitters]
      },
      surroundings: () => surroundingLight(files, document, frame),
      light: 'light' in layer ? layer.light : undefined,
      valuesAt: other => this.values(layer, { ...at, frame: other }),
      passes: render ? this.passes(layer, at) : undefined,
      passesAt: other => (render ? this.passes(layer, { ...at, frame: other }) : undefined),
      clean: without?.clean || !render ? 0 : within(now(render.clean ?? CLEAN_AMOUNT), 0, 1),
      desk: deskAt(render?.desk, now),
      catcher: name => {
        const own = document.scene.objects[name]
        const [red, green, blue] = (own?.shadowColour ?? [0, 0, 0]).map(value => Math.max(0, now(value)))
        return { density: Math.max(0, now(own?.shadowDensity ?? 1)), colour: [red!, green!, blue!] }
      },
      picture: (other = frame) =>
        this.picture(
          layer,
          other === frame ? at : { ...at, frame: other },
          kind.cutFirst && 'matte' in layer ? layer.matte : undefined,
        ),
      begins: picture?.clip?.timing.start ?? 1,
      words: () => {
        if (!('font' in layer)) return undefined
        const { text, font } = layer
        const blobs = font.files.map(({ blob }) => blob)
        return { text, fonts: blobs.map(blob => files.font(blob)), key: JSON.stringify([text, blobs]) }
      },
      plate: () => plateNode(files, at, size, picture ?? document.plate),
      members: () => (at === this.request ? this : new Building(files, at, size)).group(layer.id),
    }
  }
}
