<script setup lang="ts">
// A kind of matte is chosen by what it would hold of this very picture: where a colour or a distance is taken by a
// click, of what stands in the middle; of what is drawn, something drawn there.
import { firstNumbers, ellipsePoints, shapeOf, strokeOf } from '../../core/shot/drawn'
import { MATTE_GROUPS } from '../../core/matte/matte'
import { MATTES, matteKindOf } from '../../core/matte/registry'
import { passOf, tellsOf } from '../../core/render/passes'
import type { MatteTerm, Slip } from '../../core/shot/document'
import { addRow } from '../../core/shot/rows'
import { TIP_VALUES } from '../../core/shot/schema/drawn'
import { keptTerm, namesTerm, newTerm, slipOf, usesSaid } from '../../core/shot/slip'
import { engine } from '~/composables/engine'
import { canvasOf } from '~/composables/smallPicture'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{
  /** The line of the recipe whose slip it is. */
  line: string
  /** A kept matte that cannot be in itself. */
  kept?: string | undefined
}>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ choose: [label: string, term: MatteTerm] }>()
const shot = useShot()
const view = useView()
const MIDDLE = 0.5

/** Those that are kept by a name stand beside the kinds. */
const KEPT = 'Kept'
const entries = computed(() => [
  ...MATTES,
  ...Object.values(shot.document!.mattes)
    .filter(({ id }) => id !== props.kept)
    .map(({ id, name }) => ({ id, label: name, help: usesSaid(shot.document!, id), group: KEPT })),
])
const isKept = (id: string): boolean => Object.hasOwn(shot.document!.mattes, id)

/** As a picture of it is made. */
function shownTerm(id: string, middle: { colour: number[]; metres: number }): MatteTerm {
  const { frame } = shot.document!
  if (isKept(id)) return keptTerm(id)
  const term = newTerm(id, frame)
  if (term.kind === 'names') return view.picked.length ? namesTerm(view.picked, view.pickedSeen) : namesTerm(['*'])
  const at = (u: number, v: number): [number, number] => [frame.width * u, frame.height * v]
  if (term.kind === 'shape') addRow(term.shapes, shapeOf('shape', ellipsePoints(at(0.2, 0.2), at(0.8, 0.8)), true))
  else if (term.kind === 'brush') {
    const places = Array.from({ length: 40 }, (_, i) => [...at(0.15 + 0.0175 * i, 0.5 + 0.22 * Math.sin(i / 6)), 1])
    addRow(
      term.strokes,
      strokeOf(places as [number, number, number][], {
        ...firstNumbers(TIP_VALUES),
        takes: false,
        size: frame.height / 5,
      }),
    )
  } else if ('values' in term) {
    const kind = matteKindOf(id)
    if (kind.sample) term.values[kind.sample] = middle.colour
    const [near, far] = kind.metres ?? []
    if (near && far && middle.metres)
      Object.assign(term.values, { [near]: middle.metres * 0.7, [far]: middle.metres * 1.5 })
  }
  return term
}
/** What it cannot be made without, and is not there yet. */
function lacking(id: string): string {
  if (isKept(id)) return ''
  const term = newTerm(id, shot.document!.frame)
  const kind = matteKindOf(id)
  if (!('values' in term)) return ''
  if (kind.pictured?.(term.values)) return 'needs a picture'
  const pass = kind.needs?.(term.values)
  return pass && !tellsOf(shot.document!.passes.file?.passes ?? [], pass) ? `needs ${passOf(pass)?.label ?? pass}` : ''
}
async function draw() {
  const document = shot.document!
  const order = { document, frame: shot.frame, stops: 0, channel: 0, layer: view.layerAtWork }
  const { rgba, metres } = await engine.read(
    { ...order, shrink: 1, show: { kind: 'comes', line: props.line } },
    MIDDLE,
    MIDDLE,
  )
  const [r, g, b, a] = rgba
  const middle = { colour: [r, g, b].map(channel => (a > 0 ? channel / a : channel)), metres: metres ?? 0 }
  return async (id: string, canvas: HTMLCanvasElement): Promise<void> => {
    const matte: Slip = slipOf(shownTerm(id, middle))
    const show = { kind: 'matte' as const, matte, line: props.line, of: view.layerAtWork }
    const picture = await engine.picture({ ...order, shrink: 4, show, view: 'plain' }).catch(() => undefined)
    const context = canvas.getContext('2d')!
    const lacks = lacking(id)
    if (!picture || lacks) {
      context.font = '22px sans-serif'
      context.textAlign = 'center'
      context.fillStyle = getComputedStyle(canvas).getPropertyValue('--soft')
      return context.fillText(lacks || 'cannot be made here', canvas.width / 2, canvas.height / 2 + 7)
    }
    const scale = Math.max(canvas.width / picture.width, canvas.height / picture.height)
    const [width, height] = [picture.width * scale, picture.height * scale]
    context.imageSmoothingQuality = 'high'
    context.drawImage(canvasOf(picture), (canvas.width - width) / 2, (canvas.height - height) / 2, width, height)
  }
}
function choose(id: string) {
  if (isKept(id)) emit('choose', `Matte ${shot.document!.mattes[id]!.name}`, keptTerm(id))
  else emit('choose', `Matte by ${matteKindOf(id).label.toLowerCase()}`, newTerm(id, shot.document!.frame))
}
</script>

<template>
  <ChooseSheet
    v-model="open"
    what="matte"
    mark="term-add"
    :entries="entries"
    :groups="entries.length > MATTES.length ? [...MATTE_GROUPS, KEPT] : MATTE_GROUPS"
    placeholder="sky, far things, a soft oval …"
    :draw="draw"
    @choose="choose"
  />
</template>
