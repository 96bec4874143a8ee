<script setup lang="ts">
// A frame that is drawn on the picture: round things, to name them, or as a part of it.
import { termIn } from '../../core/shot/slip'
import { engine } from '~/composables/engine'
import { useOverPicture, type Xy } from '~/composables/overPicture'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const { shareAt: at } = useOverPicture(svg)
type Four = [number, number, number, number]
/** Of the frame. */
const LEAST = 0.004
const first = ref<Xy | null>(null)
const last = ref<Xy>([0, 0])
const part = computed(() => {
  if (!first.value) return null
  const [[ax, ay], [bx, by]] = [first.value, last.value]
  return { left: Math.min(ax, bx), top: Math.min(ay, by), right: Math.max(ax, bx), bottom: Math.max(ay, by) }
})
function press(event: PointerEvent) {
  if (event.button !== 0 || event.altKey) return
  event.stopPropagation()
  svg.value!.setPointerCapture(event.pointerId)
  first.value = last.value = at(event)
}
function move(event: PointerEvent) {
  if (first.value) last.value = at(event)
}
async function release() {
  const drawn = part.value
  const { taking } = view
  first.value = null
  if (!drawn || !taking) return
  if (taking.what === 'part') {
    const inside = (share: number): number => Math.min(1, Math.max(0, share))
    const [left, top, right, bottom] = [drawn.left, drawn.top, drawn.right, drawn.bottom].map(inside) as Four
    // A click is no frame
    if (right - left < LEAST || bottom - top < LEAST) return
    view.taken = { ...taking, value: [left, top, right, bottom] }
    view.taking = null
    return
  }
  const term = termIn(shot.document!, taking.term)
  if (term?.kind !== 'names') return
  const show = { kind: view.station === 'finish' ? ('finish' as const) : ('build' as const) }
  const order = { document: shot.document!, frame: shot.frame, shrink: 1 as const, show, stops: 0, channel: 0 }
  try {
    const names = await engine.within({ ...order, layer: view.layerAtWork }, drawn, term.of, term.seen ?? 'straight')
    if (names.length) view.taken = { ...taking, value: names }
    else shot.message = 'Nothing with a name lies wholly in that frame.'
  } catch (error) {
    shot.message = (error as Error).message
  }
  // By now another may be asked for
  if (view.taking === taking) view.taking = null
}
</script>

<template>
  <svg
    ref="svg"
    class="over-picture tool"
    viewBox="0 0 1 1"
    preserveAspectRatio="none"
    data-test="take-frame"
    @pointerdown="press"
    @pointermove="move"
    @pointerup="release"
    @pointercancel="first = null"
    @click.stop
  >
    <template v-if="part">
      <rect
        v-for="edge in ['edge-under', 'edge']"
        :key="edge"
        :class="edge"
        :x="part.left"
        :y="part.top"
        :width="part.right - part.left"
        :height="part.bottom - part.top"
        vector-effect="non-scaling-stroke"
      />
    </template>
  </svg>
</template>
