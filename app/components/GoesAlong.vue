<script setup lang="ts">
// What is drawn goes along with the thing that is under it at this frame.
import { alongThings, type Standing } from '../../core/shot/along'
import { contourAt, movedBy, strokeContour, strokeMovedBy } from '../../core/shot/drawn'
import { termIn } from '../../core/shot/slip'
import { passFileOf } from '../../core/shot/tree'
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

/** Shapes or strokes of a line of a slip. */
const props = defineProps<{ term: string; ids: readonly string[] }>()
const shot = useShot()
const view = useView()
const busy = ref(false)
const isClip = computed(() => shot.document!.frames.last > shot.document!.frames.first)
/** Why it cannot be; empty where it can. */
const lacking = computed(() => {
  const file = passFileOf(shot.document!, view.layerAtWork)
  const knows = ['motion_forward', 'motion_back'].every(id => file?.passes.includes(id))
  if (!file?.frames || !knows)
    return 'Render the passes “motion forward” and “motion back” of a range of frames first: they say how things move.'
  return ''
})
async function go() {
  const document = shot.document!
  const { frame } = shot
  const found = termIn(document, props.term)
  const drawn = new Map<string, Standing>()
  for (const id of props.ids) {
    const shape = found?.kind === 'shape' && found.shapes[id]
    const stroke = found?.kind === 'brush' && found.strokes[id]
    if (shape) drawn.set(id, { contour: contourAt(shape, frame), by: movedBy(shape, frame) })
    if (stroke) drawn.set(id, { contour: strokeContour(stroke, frame), by: strokeMovedBy(stroke, frame) })
  }
  busy.value = true
  try {
    const moves = await alongThings([...drawn.values()], frame, document.frames, (at, places) =>
      engine.going(document, at, places, view.layerAtWork),
    )
    shot.change('Goes along with a thing', changed => {
      const now = termIn(changed, props.term)
      const rows = now?.kind === 'shape' ? now.shapes : now?.kind === 'brush' ? now.strokes : {}
      ;[...drawn.keys()].forEach((id, i) => {
        if (rows[id] && moves[i]) Object.assign(rows[id], moves[i])
      })
    })
    const left = moves.filter(move => !move).length
    if (left)
      shot.message = `${left} of ${moves.length} stay where they are: nothing is under them that the passes know.`
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = false
}
</script>

<template>
  <button
    v-if="isClip"
    class="word"
    :disabled="!!lacking || busy"
    :title="lacking || 'It moves, turns and grows with the thing that is under it at this frame, by the motion passes'"
    @click="go"
  >
    {{ busy ? 'following …' : ids.length > 1 ? 'all go along' : 'goes along' }}
  </button>
</template>
