<script setup lang="ts">
// Fit check: what the plate measures and what a layer measures, side by side, with the mend beside each difference. It
// measures when it is opened and when it is told to; it changes nothing by itself.
import { plateAlone, type FitMeasured } from '../../core/compose/fit'
import type { Box } from '../../core/engine/box'
import type { Beside, MeasureId, Sure } from '../../core/measure/beside'
import { fitNotes, type FitNote } from '../../core/shot/fitcheck'
import { mendToFit, type FitMend } from '../../core/shot/fitMends'
import { fitDifference, fitLabel, fitValue, fitWithin } from '../../core/shot/fitWords'
import type { ShotDocument } from '../../core/shot/document'
import type { Holds } from '../../core/layer/layer'
import { layerKindOf } from '../../core/layer/registry'
import { rgbOfOklab } from '../../core/colour/oklab'
import { inOrder } from '../../core/shot/rows'
import { engine } from '~/composables/engine'
import { useFitSun } from '~/composables/fitSun'
import { canvasOf } from '~/composables/smallPicture'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null }>()
const shot = useShot()
const view = useView()

/** What may be held against the plate: what shows things of its own. */
const HELD: readonly Holds[] = ['passes', 'picture', 'cut-out', 'element']
const layers = computed(() =>
  inOrder(shot.document!.build.layers).filter(({ kind, on }) => on && HELD.includes(layerKindOf(kind).holds)),
)
const chosen = ref('')
const layer = computed(
  () =>
    layers.value.find(({ id }) => id === chosen.value) ??
    layers.value.find(({ id }) => id === view.layerAtWork) ??
    layers.value.find(({ kind }) => kind === 'render') ??
    layers.value[0],
)

const { note: sunOff, reading, ask: readShadow } = useFitSun()

const found = shallowRef<FitMeasured | null>(null)
const measuring = ref(false)
const fault = ref('')
/** The document that was measured: another one may measure otherwise. */
const measuredOf = shallowRef<ShotDocument | null>(null)
const isOld = computed(() => !!found.value && !measuring.value && measuredOf.value !== shot.document)
let asked = 0
async function measure() {
  const { document, frame } = shot
  const of = layer.value
  if (!document || !of) return
  // What was asked for before is of another layer, frame or document: its numbers are never shown as these
  const mine = ++asked
  measuring.value = true
  fault.value = ''
  try {
    const measured = await engine.fit(document, frame, of.id)
    if (mine !== asked) return
    found.value = measured
    measuredOf.value = document
    await drawPlaces(document, frame, () => mine === asked)
  } catch (error) {
    if (mine !== asked) return
    found.value = null
    fault.value = (error as Error).message
  }
  if (mine === asked) measuring.value = false
}
onBeforeUnmount(() => asked++)
onMounted(() => void measure())
watch([() => layer.value?.id, () => shot.frame], () => {
  found.value = null
  if (!view.playing) void measure()
})

// The plate and the picture where what was measured is: of a line that is pointed at, where that is best seen; else the
// middle of it, as it is, two pixels for one
const SIDE = { width: 150, height: 94 }
const plateView = ref<HTMLCanvasElement>()
const layerView = ref<HTMLCanvasElement>()
const pointed = ref<MeasureId | ''>('')
const partOf = (side: 'plate' | 'render'): Box | undefined =>
  pointed.value ? found.value?.shows[pointed.value]?.[side] : undefined
function middle({ place }: FitMeasured, { width, height }: { width: number; height: number }): Box {
  const [x, y] = [(place.left + place.right) / 2, (place.top + place.bottom) / 2]
  const left = Math.round(Math.min(Math.max(0, x - SIDE.width / 2), Math.max(0, width - SIDE.width)))
  const top = Math.round(Math.min(Math.max(0, y - SIDE.height / 2), Math.max(0, height - SIDE.height)))
  return { left, top, right: Math.min(width, left + SIDE.width), bottom: Math.min(height, top + SIDE.height) }
}
async function drawPlaces(document: ShotDocument, frame: number, isWanted: () => boolean) {
  for (const [canvas, shown, side] of [
    [plateView, plateAlone(document), 'plate'],
    [layerView, document, 'render'],
  ] as const) {
    if (!isWanted()) return
    const part = partOf(side)
    const area = part ?? middle(found.value!, document.frame)
    const order = { frame, shrink: 1, show: { kind: 'build' }, stops: 0, channel: 0, area } as const
    const picture = await engine.picture({ ...order, document: shown })
    const context = canvas.value?.getContext('2d')
    if (!context || !isWanted()) continue
    context.imageSmoothingEnabled = false
    const times = part ? (SIDE.width * 2) / (part.right - part.left) : 2
    context.drawImage(canvasOf(picture), 0, 0, picture.width * times, picture.height * times)
  }
}
/** Milliseconds for which a line is pointed at before it is shown: one passes over others on the way. */
const LINGERS = 120
let drawn = 0
watch(pointed, async () => {
  const mine = ++drawn
  const [document, frame, of] = [measuredOf.value, shot.frame, asked]
  const isWanted = (): boolean => mine === drawn && of === asked
  await new Promise(resolve => setTimeout(resolve, LINGERS))
  if (!document || !found.value || !isWanted()) return
  await drawPlaces(document, frame, isWanted).catch(() => {
    // They are looked at by the way: what is wrong is said where it is measured
  })
})
onBeforeUnmount(() => drawn++)
const point = (line: Line | null): void => {
  pointed.value = line?.measured && found.value?.shows[line.measured.id] ? line.measured.id : ''
}

interface Line {
  id: string
  label: string
  sure: Sure
  measured?: Beside
  note?: FitNote
  mend?: FitMend | undefined
}
const SURE: Record<Sure, string> = { certain: 'does not fit', likely: 'likely does not fit', fits: 'fits', unknown: '' }
const ORDER: readonly Sure[] = ['certain', 'likely', 'fits', 'unknown']
const lines = computed((): Line[] => {
  if (!found.value || !layer.value) return []
  const { id } = layer.value
  const measured = found.value.rows.map((row): Line => ({
    ...{ id: row.id, label: fitLabel(row.id), sure: row.sure, measured: row },
    mend: mendToFit(row, found.value!, id),
  }))
  const told = fitNotes(shot.document!, shot.frame, id, props.info)
  const notes = [...told, ...(sunOff.value ? [sunOff.value] : [])].map((note): Line => ({ ...note, note }))
  return [...measured, ...notes].sort((a, b) => ORDER.indexOf(a.sure) - ORDER.indexOf(b.sure))
})
const off = computed(() => lines.value.filter(({ sure }) => sure === 'certain' || sure === 'likely').length)
const summary = computed(() =>
  !found.value ? '' : off.value ? `${off.value} ${off.value === 1 ? 'does' : 'do'} not fit` : 'nothing is off',
)
function mend({ label, mend }: Line) {
  shot.change(`Fit: ${label} of ${layer.value!.name}`, document => mend!.change(document))
  void measure()
}

/** What a lightness or a colour looks like. */
function swatch({ id }: Beside, value: readonly number[] | undefined): string | undefined {
  if (!value || !found.value?.own) return undefined
  const { shadowLight, lightLight } = found.value.own
  const lab: [number, number, number] | undefined =
    id === 'blacks' || id === 'whites'
      ? [value[0]!, 0, 0]
      : id === 'shadows'
        ? [shadowLight, value[0]!, value[1]!]
        : id === 'lights'
          ? [lightLight, value[0]!, value[1]!]
          : undefined
  return (
    lab &&
    `color(srgb-linear ${rgbOfOklab(lab)
      .map(channel => Math.max(0, Math.min(1, channel)).toFixed(4))
      .join(' ')})`
  )
}
</script>

<template>
  <section class="lower-sheet" aria-label="Fit check" data-test="fit">
    <div class="row head">
      <h2>Fit check</h2>
      <label class="row"
        >of<select
          class="of"
          :value="layer?.id"
          data-test="fit-layer"
          @change="chosen = ($event.target as HTMLSelectElement).value"
        >
          <option v-for="{ id, name } in layers" :key="id" :value="id">{{ name }}</option></select
        >beside the plate</label
      ><b v-if="found" data-test="fit-summary" :class="{ off }">{{ summary }}</b>
      <span class="grow" />
      <span v-if="isOld" class="soft">The shot has changed since it was measured.</span>
      <button class="word" :disabled="measuring || !layer" data-test="fit-measure" @click="measure">
        {{ measuring ? 'measuring …' : 'measure again' }}</button><button
        class="word soft"
        data-test="fit-close"
        @click="view.fitOpen = false"
      >
        close
      </button>
    </div>
    <p v-if="fault || !layer" class="soft panel" role="status">
      {{ fault || 'There is no render, figure or picture yet that could be held against the plate.' }}
    </p>
    <div v-else class="body">
      <div class="places">
        <figure>
          <canvas ref="plateView" :width="SIDE.width * 2" :height="SIDE.height * 2" />
          <figcaption>{{ pointed ? `${fitLabel(pointed)}: the plate` : 'the plate there' }}</figcaption>
        </figure>
        <figure>
          <canvas ref="layerView" :width="SIDE.width * 2" :height="SIDE.height * 2" />
          <figcaption>{{ layer.name }} in it</figcaption>
        </figure>
      </div>
      <table v-if="found">
        <thead>
          <tr>
            <th />
            <th>plate</th>
            <th>{{ layer.name }}</th>
            <th>difference</th>
            <th />
            <th />
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="line in lines"
            :key="line.id"
            :class="[line.sure, { pointed: pointed === line.id }]"
            :data-test="`fit-${line.id}`"
            @pointerenter="point(line)"
            @pointerleave="point(null)"
            @focusin="point(line)"
            @focusout="point(null)"
          >
            <th scope="row">{{ line.label }}</th>
            <template v-if="line.measured">
              <td v-for="(value, i) in [line.measured.plate, line.measured.render]" :key="i">
                <i
                  v-if="swatch(line.measured, value)"
                  class="swatch"
                  :style="{ background: swatch(line.measured, value) }"
                />{{ fitValue(line.measured.id, value) }}
              </td>
              <td>
                {{ fitDifference(line.measured)
                }}<span
                  v-if="line.measured.plate && line.measured.render"
                  class="soft within"
                  title="As much as the plate differs from place to place"
                  >{{ fitWithin(line.measured) }}</span
                >
              </td>
            </template>
            <td v-else colspan="3">{{ line.note!.words }}</td>
            <td class="sure">{{ SURE[line.sure] }}</td>
            <td>
              <button
                v-if="line.id === 'sun'"
                class="word soft read"
                data-test="read-shadow"
                title="Foot and top of something upright in the plate, and the tip of its shadow on the ground"
                @click="readShadow"
              >
                {{ reading || 'click a shadow' }}</button><button
                v-if="line.mend"
                class="word"
                :class="{ soft: line.sure === 'fits' }"
                :data-test="`mend-${line.id}`"
                @click="mend(line)"
              >
                {{ line.mend.label }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.head {
  padding: 7px 12px;
  gap: 14px;
  border-bottom: 1px solid var(--line);
}
.head label {
  gap: 6px;
}
.head .off,
.certain .sure,
.likely .sure {
  color: var(--mark);
}
.of {
  font: inherit;
  color: inherit;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 0 4px;
  max-width: 160px;
}
.body {
  display: flex;
  flex: 1;
  min-height: 0;
}
.places {
  flex: none;
  padding: 8px 4px 8px 12px;
  display: flex;
  flex-direction: column;
  gap: 6px;
  overflow: hidden;
}
figure {
  margin: 0;
}
figure canvas {
  width: 150px;
  height: 94px;
  display: block;
  background: var(--wall);
}
figcaption {
  font-size: 11.5px;
  color: var(--soft);
}
table {
  flex: 1;
  display: block;
  overflow: auto;
  padding: 4px 12px 8px;
  border-spacing: 0;
}
th,
td {
  text-align: left;
  font-weight: 400;
  padding: 2px 14px 2px 0;
  border-bottom: 1px dashed var(--line);
  white-space: nowrap;
}
td[colspan] {
  white-space: normal;
}
thead th {
  color: var(--soft);
  position: sticky;
  top: -4px;
  background: var(--sheet);
}
tbody th {
  font-weight: 550;
}
.pointed th {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.fits .sure,
.unknown td,
.unknown th {
  color: var(--soft);
}
.within {
  margin-left: 7px;
  font-size: 12px;
}
.read {
  margin-right: 12px;
}
.swatch {
  display: inline-block;
  width: 13px;
  height: 13px;
  border-radius: 3px;
  border: 1px solid var(--line);
  margin-right: 6px;
  vertical-align: -2px;
}
</style>
