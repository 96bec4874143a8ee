<script setup lang="ts">
// Objects as columns, passes as rows, a fader at each crossing.
import { DESK_NEUTRAL, DESK_ROWS, type DeskRow } from '../../core/shot/document'
import { nameColour } from '../../core/build/showpass'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot(), view = useView()
const onlyChanged = ref(false)
const LABELS: Record<DeskRow, string> = { diffuse_direct: 'direct light', diffuse_indirect: 'indirect light', reflection: 'reflection', refraction: 'refraction', emission: 'emission', environment: 'environment', occlusion: 'occlusion', exposure: 'exposure', saturation: 'saturation' }
const RANGE = (row: DeskRow): [number, number] => row === 'exposure' ? [-4, 4] : row === 'occlusion' ? [0, 2] : [0, 4]
const desk = computed(() => shot.document!.build.desk)
const names = computed(() => (shot.document!.passes.file?.objects ?? []).filter(name => !onlyChanged.value || Object.keys(desk.value.objects[name] ?? {}).length || view.picked.includes(name)))
const columns = computed(() => ['', ...names.value])
const valueOf = (name: string, row: DeskRow): Animatable => (name === '' ? desk.value.everything[row] : desk.value.objects[name]?.[row]) ?? DESK_NEUTRAL[row]
const changed = (name: string, row: DeskRow): boolean => valueOf(name, row) !== DESK_NEUTRAL[row]
function put(name: string, row: DeskRow, value: Animatable, live: boolean) {
  shot.change(`Desk: ${LABELS[row]} of ${name || 'everything'}`, document => {
    const column = name === '' ? document.build.desk.everything : document.build.desk.objects[name] ??= {}
    if (value === DESK_NEUTRAL[row]) delete column[row]; else column[row] = value
    if (name && !Object.keys(document.build.desk.objects[name]!).length) delete document.build.desk.objects[name]
  }, live)
}
const place = (name: string, row: DeskRow): number => { const [low, high] = RANGE(row); return (valueAt(valueOf(name, row), shot.frame) - low) / (high - low) * 100 }
function fade(event: PointerEvent, name: string, row: DeskRow) {
  const target = event.currentTarget as HTMLElement
  if (event.type === 'pointerdown') { target.setPointerCapture(event.pointerId); view.dragging = true }
  if (!target.hasPointerCapture(event.pointerId)) return
  const bounds = target.getBoundingClientRect(), [low, high] = RANGE(row)
  const value = Number((low + Math.min(1, Math.max(0, (event.clientX - bounds.left) / bounds.width)) * (high - low)).toFixed(2))
  const end = event.type === 'pointerup'
  if (end) { target.releasePointerCapture(event.pointerId); view.dragging = false }
  put(name, row, withValue(valueOf(name, row), shot.frame, value), !end)
}
const colour = (name: string): string => { const [r, g, b] = nameColour(name); return `rgb(${[r, g, b].map(value => Math.round(Math.sqrt(Math.min(1, value)) * 255)).join(',')})` }
const pick = (name: string): void => { view.picked = name && !view.picked.includes(name) ? [name] : [] }
const see = (name: string): void => { view.matte = view.matte?.names[0] === name ? null : { names: [name], of: 'objects', invert: false } }
</script>

<template>
  <section class="desk" aria-label="Desk" data-test="desk">
    <div class="scroll">
      <table v-if="shot.document!.passes.file">
        <thead><tr><th /><th v-for="name in columns" :key="name" :class="{ picked: name && view.picked.includes(name) }"><button class="head" :title="name ? 'Click to pick, double-click to see it alone' : 'All objects together'" @click="pick(name)" @dblclick="name && see(name)"><i v-if="name" :style="{ background: colour(name) }" />{{ name || 'everything' }}</button></th></tr></thead>
        <tbody><tr v-for="row in DESK_ROWS" :key="row"><th scope="row">{{ LABELS[row] }}</th>
          <td v-for="name in columns" :key="name" :class="{ picked: name && view.picked.includes(name) }">
            <div v-if="row !== 'environment' || name === ''" class="cross" :class="{ faint: !changed(name, row) }">
              <div class="fader" :data-test="`fader-${name || 'everything'}-${row}`" @pointerdown="fade($event, name, row)" @pointermove="fade($event, name, row)" @pointerup="fade($event, name, row)" @dblclick="put(name, row, DESK_NEUTRAL[row], false)"><b :style="{ width: `${place(name, row)}%` }" /><u :style="{ left: `${place(name, row)}%` }" /></div>
              <ValueField :model-value="valueOf(name, row)" :label="`${LABELS[row]} of ${name || 'everything'}`" :low="row === 'exposure' ? -10 : 0" :high="row === 'exposure' ? 10 : 100" :step="0.01" :neutral="DESK_NEUTRAL[row]" :faint="!changed(name, row)" @change="(value, live) => put(name, row, value, live)" />
            </div>
          </td></tr></tbody>
      </table>
      <p v-else class="soft panel">The desk shows every object of the render, once there are passes.</p>
    </div>
    <div class="row foot soft"><span>{{ names.length }} of {{ shot.document!.passes.file?.objects.length ?? 0 }} objects</span><label class="row"><input v-model="onlyChanged" type="checkbox">only changed</label><span class="grow" /><span>double-click a name to see it alone · <kbd>D</kbd> close</span></div>
  </section>
</template>

<style scoped>
.desk { background: var(--sheet); border-top: 1px solid var(--line); display: flex; flex-direction: column; flex: 1; min-height: 0; } .scroll { overflow: auto; flex: 1; min-height: 0; padding: 6px 12px; }
table { border-collapse: separate; border-spacing: 0; } th, td { text-align: left; padding: 1px 8px; border-bottom: 1px dashed var(--line); min-width: 112px; font-weight: 400; } tbody th { position: sticky; left: 0; background: var(--sheet); z-index: 1; min-width: 96px; } thead th:first-child { min-width: 96px; position: sticky; left: 0; background: var(--sheet); }
.picked { background: var(--card); } thead .picked { box-shadow: inset 0 2px var(--mark); } .head { background: none; border: 0; font: inherit; font-weight: 600; color: inherit; cursor: pointer; display: flex; gap: 6px; align-items: center; padding: 3px 0; white-space: nowrap; } .head i { width: 12px; height: 12px; border-radius: 3px; }
.cross { display: flex; align-items: center; gap: 8px; height: 26px; } .fader { flex: 1; min-width: 44px; height: 18px; position: relative; cursor: ew-resize; touch-action: none; } .fader::before { content: ''; position: absolute; left: 0; right: 0; top: 7.5px; height: 3px; background: var(--line); border-radius: 2px; } .fader b { position: absolute; left: 0; top: 7.5px; height: 3px; background: var(--ink); border-radius: 2px; } .fader u { position: absolute; top: 2px; width: 3px; height: 14px; margin-left: -1.5px; background: var(--ink); border-radius: 1px; } .faint .fader b, .faint .fader u { opacity: .4; }
.foot { padding: 3px 12px; border-top: 1px solid var(--line); font-size: 12px; gap: 16px; }
</style>
