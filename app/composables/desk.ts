// The desk of the page: which columns and lines it has, and what is done at their crossings.
import { ownOf } from '../../core/declare/own'
import {
  clearNumbers,
  copiedNumbers,
  deskLines,
  deskNumber,
  fieldOfLine,
  hasNumber,
  isSet,
  layNumbers,
  setDeskNumber,
} from '../../core/shot/desk'
import type { DeskLine, DeskPlace } from '../../core/shot/desk'
import { layerKindOf } from '../../core/layer/registry'
import { seenObjects, type Layer, type RenderLayer } from '../../core/shot/document'
import { passBlobAt } from '../../core/shot/passFrames'
import type { ThingSeen } from '../../core/compose/sounded'
import { inOrder } from '../../core/shot/rows'
import { namesTerm, slipOf } from '../../core/shot/slip'
import { inLaidOrder, isGroup, ownRender, renderOf } from '../../core/shot/tree'
import { lengthText } from '../../core/text/metres'
import type { Animatable } from '../../core/time/curve'
import { engine } from '~/composables/engine'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

export interface DeskColumn {
  key: string
  place: DeskPlace
  name: string
  /** What it is, or how far away. */
  about: string
}
export interface DeskRowShown {
  key: string
  line: DeskLine
  label: string
}
export const EVERYTHING: DeskColumn = { key: '', place: { kind: 'everything' }, name: 'everything', about: '' }
export const ORDERS = ['as rendered', 'near first', 'by name'] as const
export const SHOWN = ['things and layers', 'things', 'layers'] as const

const rowOf = (line: DeskLine): DeskRowShown => ({
  key: line.kind === 'row' ? line.row : line.kind === 'light' ? `light-${line.group}` : 'opacity',
  line,
  label: fieldOfLine(line).label!,
})
/** What was copied last, of whichever shot. */
const copied = shallowRef<{ name: string; numbers: [DeskLine, Animatable][] } | null>(null)

export function useDesk() {
  const shot = useShot()
  const view = useView()
  const { sight } = useRecipe()
  const search = ref('')
  const shown = ref<(typeof SHOWN)[number]>('things and layers')
  const onlyPicked = ref(false)
  const onlyChanged = ref(false)
  const ordered = ref<(typeof ORDERS)[number]>('as rendered')
  /** Where each thing is seen, while that is known. */
  const seen = shallowRef<Record<string, ThingSeen>>({})

  /** The render at work: that of the open layer, or the shot's own. */
  const render = computed((): RenderLayer | undefined => {
    const { layers } = shot.document!.build
    const open = ownOf(layers, view.selectedLayer)
    return (
      (open && renderOf(layers, open)) ??
      ownRender(layers) ??
      inOrder(layers).find((layer): layer is RenderLayer => layer.kind === 'render')
    )
  })
  /** Layers are set without one. */
  const renderId = computed(() => render.value?.id ?? '')
  const file = computed(() => (render.value ? (render.value.file ?? shot.document!.passes.file) : null))
  const lengthOf = (name: string): string => {
    const there = ownOf(seen.value, name)
    return there ? lengthText(there.metres) : ''
  }
  const things = computed((): DeskColumn[] =>
    (file.value ? seenObjects(file.value) : []).map(name => ({
      key: `thing ${name}`,
      place: { kind: 'thing', name },
      name,
      about: lengthOf(name),
    })),
  )
  const passBlob = computed(() => (file.value ? passBlobAt(file.value, shot.frame).blob : ''))
  watch(
    passBlob,
    async blob => {
      seen.value = {}
      if (!blob || view.playing) return
      const found = await engine.thingsSeen(shot.document!, shot.frame, render.value?.id).catch(() => ({}))
      if (blob === passBlob.value) seen.value = found
    },
    { immediate: true },
  )
  const nearFirst = (a: DeskColumn, b: DeskColumn): number =>
    (ownOf(seen.value, a.name)?.metres ?? Infinity) - (ownOf(seen.value, b.name)?.metres ?? Infinity) || 0
  const byName = (a: DeskColumn, b: DeskColumn): number => a.name.localeCompare(b.name, 'en', { numeric: true })
  const layers = computed((): DeskColumn[] => {
    const all = shot.document!.build.layers
    const within = (group: string | null): Layer[] =>
      inLaidOrder(all, group, sight.value).flatMap(layer => [layer, ...(isGroup(layer) ? within(layer.id) : [])])
    return within(null).map(layer => ({
      key: `layer ${layer.id}`,
      place: { kind: 'layer', id: layer.id },
      name: layer.name,
      about: layerKindOf(layer.kind).label.toLowerCase(),
    }))
  })
  const changed = (place: DeskPlace): boolean =>
    (place.kind === 'layer' || !!render.value) && isSet(toRaw(shot.document!), renderId.value, place)
  const isPicked = ({ place }: DeskColumn): boolean =>
    place.kind === 'thing'
      ? pickedNames.value.has(place.name)
      : place.kind === 'layer' && (place.id === view.selectedLayer || view.moreLayers.includes(place.id))
  const pickedNames = computed(() => new Set(view.picked))
  const all = computed(() => [
    ...(shown.value === 'layers' ? [] : things.value),
    ...(shown.value === 'things' ? [] : layers.value),
  ])
  const columns = computed(() => {
    const asked = search.value.trim().toLowerCase()
    const found = all.value.filter(
      column =>
        (!asked || column.name.toLowerCase().includes(asked)) &&
        (!onlyPicked.value || isPicked(column)) &&
        (!onlyChanged.value || changed(column.place)),
    )
    if (ordered.value === 'by name') return found.sort(byName)
    // Layers come after things, in the order that they are laid in
    const isThing = ({ place }: DeskColumn): boolean => place.kind === 'thing'
    return ordered.value === 'near first'
      ? [...found.filter(isThing).sort(nearFirst), ...found.filter(column => !isThing(column))]
      : found
  })
  const lights = computed(() => file.value?.lights ?? [])
  /** There is nothing of a render in it. */
  const areLayers = computed(() => shown.value === 'layers' || !file.value)
  const lines = computed(() =>
    deskLines(lights.value, shown.value !== 'things')
      .filter(line => !areLayers.value || layers.value.some(({ place }) => hasNumber(shot.document!, place, line)))
      .map(rowOf),
  )
  const numberAt = ({ place }: DeskColumn, { line }: DeskRowShown): Animatable | undefined =>
    place.kind === 'layer' || file.value ? deskNumber(toRaw(shot.document!), renderId.value, place, line) : undefined

  function put({ place, name }: DeskColumn, { line, label }: DeskRowShown, number: Animatable, live: boolean) {
    const id = renderId.value
    shot.change(`Desk: ${label} of ${name}`, document => setDeskNumber(document, id, place, line, number), live)
  }
  const everyLine = computed(() => deskLines(lights.value, true))
  function copy({ place, name }: DeskColumn) {
    copied.value = { name, numbers: copiedNumbers(toRaw(shot.document!), renderId.value, place, everyLine.value) }
  }
  /** On a column; on all that are picked where that is one of them. */
  function lay(column: DeskColumn) {
    const id = renderId.value
    const { name, numbers } = copied.value!
    const on = isPicked(column) ? all.value.filter(isPicked) : [column]
    const said = on.length > 1 ? `${on.length} columns` : column.name
    shot.change(`Desk: ${name} laid on ${said}`, document => {
      for (const { place } of on) layNumbers(document, id, place, numbers, everyLine.value)
    })
  }
  function clear({ place, name }: DeskColumn) {
    const id = renderId.value
    shot.change(`Desk: ${name} set back`, document => clearNumbers(document, id, place, everyLine.value))
  }

  function pick({ place }: DeskColumn, more: boolean) {
    if (place.kind === 'layer') view.selectedLayer = place.id
    else if (place.kind === 'everything') view.picked = []
    else if (!more && view.pickedSeen === 'straight' && view.picked.length === 1 && pickedNames.value.has(place.name))
      view.picked = []
    else view.pick({ name: place.name, seen: 'straight' }, more)
  }
  /** Its matte alone, or the picture again. */
  function see({ place }: DeskColumn) {
    if (place.kind !== 'thing') return
    const { name } = place
    const isSeen = Object.values(view.matte?.terms ?? {}).some(
      term => term.kind === 'names' && term.names.length === 1 && term.names[0] === name,
    )
    view.matte = isSeen ? null : slipOf(namesTerm([name]))
    view.matteAs = 'grey'
    view.matteLine = ''
  }

  return {
    ...{
      render,
      file,
      things,
      columns,
      lines,
      areLayers,
      lights,
      search,
      shown,
      onlyPicked,
      onlyChanged,
      ordered,
      copied,
      seen,
    },
    ...{ changed, isPicked, numberAt, put, copy, lay, clear, pick, see },
  }
}
