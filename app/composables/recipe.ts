// What is done to the layers of the open shot, from wherever it is asked for.
import { ownOf } from '../../core/declare/own'
import { layerKindOf } from '../../core/layer/registry'
import type { Layer, ShotDocument } from '../../core/shot/document'
import { seenObjects } from '../../core/shot/document'
import {
  addLayer,
  dissolve,
  duplicateLayer,
  groupTogether,
  makeLayer,
  moveLayer,
  removeLayer,
  type LayerPlace,
} from '../../core/shot/layers'
import { sightOf } from '../../core/shot/scene'
import { copiedText, isCopied, pasting } from '../../core/shot/paste'
import { groupOfLayer, inLaidOrder, isGroup, layersIn, renderOf, standsAt, withAllIn } from '../../core/shot/tree'
import { FAR } from '../../core/layer/layer'
import type { LayerId } from '../../core/layer/registry'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

export function useRecipe() {
  const shot = useShot()
  const view = useView()
  const layers = computed(() => shot.document!.build.layers)
  const chosen = computed(() => ownOf(layers.value, view.selectedLayer))
  /** The frame at hand, and what the camera sees then. */
  const sight = computed(() => sightOf(shot.document!, shot.frame))
  /** All that are chosen, the one that is open first. */
  const all = computed(() => [
    ...(chosen.value ? [chosen.value.id] : []),
    ...view.moreLayers.filter(id => id !== chosen.value?.id && Object.hasOwn(layers.value, id)),
  ])

  const edit = <L extends Layer>(label: string, id: string, mutate: (layer: L) => void, live = false): void =>
    shot.change(
      label,
      document => {
        const layer = document.build.layers[id]
        if (layer) mutate(layer as L)
      },
      live,
    )

  /** Opens a layer; more: beside what is chosen already. */
  function choose(id: string, more = false) {
    if (more && view.selectedLayer !== id) {
      view.moreLayers = view.moreLayers.includes(id)
        ? view.moreLayers.filter(other => other !== id)
        : [...view.moreLayers, id]
      return
    }
    view.selectedLayer = id
    view.moreLayers = []
  }
  const named = (ids: readonly string[]): string =>
    ids.length === 1 ? layers.value[ids[0]!]!.name : `${ids.length} layers`

  /** A new layer of a kind next to the open one. Returns its id. */
  function add(kind: LayerId, more: Record<string, unknown> = {}): string {
    const made = makeLayer(kind, more)
    shot.change(`Add ${layerKindOf(kind).label.toLowerCase()}`, document => {
      addLayer(document, made)
    })
    choose(made.id)
    return made.id
  }
  /** The outline of a render on the render: in a group with it, if it is in none. */
  function addInk(render: string) {
    const made = makeLayer('ink', { of: render })
    shot.change('Add ink', document => {
      const { layers } = document.build
      const own = layers[render]!
      if (own.within === undefined || !Object.hasOwn(layers, own.within)) {
        const { name } = own
        const group = groupTogether(document, [render])
        layers[group]!.name = `${name.slice(0, 190)}, inked`
      }
      const holder = layers[own.within!]!
      if (isGroup(holder)) holder.ordered = 'by hand'
      addLayer(document, made, render)
    })
    choose(made.id)
  }
  function group() {
    const ids = all.value
    if (!ids.length) return
    let made = ''
    shot.change(`Group ${named(ids)}`, document => {
      made = groupTogether(document, ids)
    })
    choose(made)
  }
  function ungroup(id: string) {
    const inside = layersIn(layers.value, id)[0]?.id
    shot.change(`Dissolve ${named([id])}`, document => dissolve(document, id))
    if (inside) choose(inside)
  }
  function duplicate(id: string) {
    let made = ''
    shot.change(`Double ${named([id])}`, document => {
      made = duplicateLayer(document, id)
    })
    choose(made)
  }
  function remove(ids: readonly string[]) {
    shot.change(`Remove ${named(ids)}`, document => {
      for (const id of ids) removeLayer(document, id)
    })
    view.moreLayers = []
  }
  function move(id: string, place: LayerPlace) {
    shot.change(`Move ${named([id])}`, document => {
      moveLayer(document, id, place, shot.frame)
    })
  }
  /** One place nearer (1) or farther (-1) among its neighbours. */
  function step(id: string, by: 1 | -1) {
    const layer = layers.value[id]!
    const list = inLaidOrder(layers.value, groupOfLayer(layers.value, layer), sight.value)
    const other = list[list.findIndex(one => one.id === id) + by]
    if (other) move(id, { beside: other.id, where: by > 0 ? 'after' : 'before' })
  }
  const solo = (id: string): void => {
    view.solo = view.solo.includes(id) ? view.solo.filter(other => other !== id) : [...view.solo, id]
  }

  /** Where a layer stands, in a word. */
  function away(layer: Layer): string {
    const group = groupOfLayer(layers.value, layer)
    const holder = group === null ? undefined : layers.value[group]
    // Where it stands says nothing of its order
    if (isGroup(holder) && holder.ordered === 'by hand') return ''
    const at = standsAt(layer, sight.value)
    return at === 'deep' ? 'by depth' : at >= FAR ? 'far' : at <= -FAR ? 'near' : `${at.toFixed(2)} m`
  }
  /** What a layer is, in a few words. */
  function about(layer: Layer): string {
    const file = layer.kind === 'render' ? (layer.file ?? shot.document!.passes.file) : undefined
    switch (layer.kind) {
      case 'plate':
        return layer.picture?.name ?? shot.document!.plate?.name ?? 'no plate yet'
      case 'picture':
      case 'figure':
      case 'element':
        return layer.picture.name
      case 'words':
        return `${layer.text.split('\n', 1)[0]!.slice(0, 40)}, in ${layer.font.name}`
      case 'wash':
        return 'one colour'
      case 'gradient':
        return `${layer.stops} colours`
      case 'clouds':
        return 'two colours in patches'
      case 'fogbank':
        return 'between two distances'
      case 'accent': {
        const render = renderOf(layers.value, layer)
        return render ? `lights ${render.name}` : 'lights the plate'
      }
      case 'specks':
        return 'in the air'
      case 'underwater':
        return 'over all of the picture'
      case 'water':
        return 'mirrors what stands over it'
      case 'render':
        return file ? `${seenObjects(file).length} objects${layer.file ? `, ${layer.file.name}` : ''}` : 'no passes yet'
      case 'stuck': {
        const count = withAllIn(layers.value, layer.id).length - 1
        return count ? `${count} drawn on ${layer.onto}` : 'nothing drawn yet'
      }
      case 'group': {
        const count = withAllIn(layers.value, layer.id).length - 1
        return count ? `${count} ${count === 1 ? 'layer' : 'layers'}, ordered ${layer.ordered}` : 'nothing in it yet'
      }
      default: {
        const render = renderOf(layers.value, layer)
        return render ? `of ${render.name}` : 'its render is gone'
      }
    }
  }

  /** The chosen layers as text, where one is about to copy and has selected nothing else. */
  function copy(event: ClipboardEvent, cut = false) {
    if (!all.value.length || isElsewhere(event)) return
    event.preventDefault()
    event.clipboardData!.setData('text/plain', copiedText(toRaw(shot.document!) as ShotDocument, shot.id, all.value))
    const said = named(all.value)
    if (cut) remove(all.value)
    shot.message = `${said} ${cut ? 'cut' : 'copied'} as text: paste it in this shot or another, or keep it in a file.`
  }
  async function paste(event: ClipboardEvent) {
    const text = event.clipboardData?.getData('text/plain') ?? ''
    if (!isCopied(text) || isElsewhere(event)) return
    event.preventDefault()
    try {
      const { into, blobs, alone } = pasting(text, toRaw(shot.document!) as ShotDocument, shot.id)
      // The checks are only fetched when there is something to be checked
      const { documentFaults } = await import('../../shared/validate')
      const faults = documentFaults(alone)
      if (faults.length) throw new Error(`What is to be pasted is not right: ${faults.slice(0, 2).join('; ')}.`)
      const there = await Promise.all(
        blobs.map(blob => fetch(`/api/blobs/${blob}`, { headers: { range: 'bytes=0-0' } })),
      )
      const missing = there.filter(({ ok }) => !ok).length
      if (missing)
        throw new Error(
          `${missing === 1 ? 'A file' : `${missing} files`} that these layers need ${missing === 1 ? 'is' : 'are'} not here. Bring the shot that they are of as a ZIP first.`,
        )
      let made: string[] = []
      shot.change('Paste layers', document => {
        made = into(document, chosen.value?.id)
      })
      if (made.length) choose(made[0]!)
      view.moreLayers = made.slice(1)
    } catch (error) {
      shot.message = (error as Error).message
    }
  }
  return {
    layers,
    sight,
    chosen,
    all,
    edit,
    choose,
    add,
    addInk,
    group,
    ungroup,
    duplicate,
    remove,
    move,
    step,
    solo,
    away,
    about,
    copy,
    paste,
  }
}

/** Whether text under the hand is meant: what is selected, or a text of several lines that is being written. */
function isElsewhere({ target }: ClipboardEvent): boolean {
  if (target instanceof HTMLTextAreaElement) return true
  if (target instanceof HTMLInputElement) return target.selectionStart !== target.selectionEnd
  return !(window.getSelection()?.isCollapsed ?? true)
}
