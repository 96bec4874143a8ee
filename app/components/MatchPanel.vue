<script setup lang="ts">
// The camera from the picture: lines along parallel edges, then the scale from something known; poles as a check.
import { mdiCloseCircleOutline } from '@mdi/js'
import type { Axis } from '../../core/match/lines'
import { sensorWidth35 } from '../../core/formats/picture/exif'
import type { MatchLine, MatchSettings } from '../../core/shot/document'
import { inOrder } from '../../core/shot/rows'
import { AXIS_WORDS, matchLines, noMatch } from '../../core/shot/match'
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import { useView, type MatchTool } from '~/stores/view'

const shot = useShot()
const view = useView()
const match = computed(() => shot.document!.match ?? noMatch())
const lines = computed(() => inOrder(match.value.lines))
const poles = computed(() => Object.keys(match.value.poles).length)
const edit = (label: string, mutate: (match: MatchSettings) => void): void =>
  shot.change(label, document => {
    mutate((document.match ??= noMatch()))
  })
const AXES: Axis[] = ['x', 'z', 'y']
const take = (tool: MatchTool): void => {
  view.matchTool = view.matchTool === tool ? null : tool
}
const solved = computed(() => {
  if (!lines.value.length) return { fault: '', found: null }
  try {
    return { fault: '', found: matchLines(shot.document!, shot.frame) }
  } catch (error) {
    return { fault: (error as Error).message, found: null }
  }
})
const same = computed(() => {
  const found = solved.value.found
  const camera = shot.document!.scene.camera
  return (
    !!found &&
    (['focalLength', 'heading', 'pitch', 'bank'] as const).every(
      field => Math.abs(Number(camera[field]) - Number(found.camera[field])) < 0.01,
    )
  )
})
const lens = computed(() => shot.document!.plate?.facts)
/** The lens as the photograph's own data have it; lines then say only how the camera is held. */
function useLens() {
  const focal = lens.value?.focalLength35
  const { plate } = shot.document!
  if (focal && plate)
    shot.change('Focal length of the photograph', document => {
      Object.assign(document.scene.camera, {
        focalLength: focal,
        sensorWidth: Number(sensorWidth35(plate.width, plate.height).toFixed(3)),
      })
      ;(document.match ??= noMatch()).focal = 'keep'
    })
}
/** Lines drawn roughly are laid exactly on the edges under them. */
async function snap() {
  try {
    const rough = JSON.parse(JSON.stringify(lines.value)) as MatchLine[]
    const snapped = await engine.snap(shot.document!, shot.frame, rough)
    const round = (p: [number, number]): [number, number] => [
      Math.round(p[0] * 1000) / 1000,
      Math.round(p[1] * 1000) / 1000,
    ]
    const without = rough.flatMap((line, i) => (snapped[i] ? [] : [`${AXIS_WORDS[line.axis]} ${i + 1}`]))
    if (snapped.some(Boolean))
      edit('Lines on the edges', found => {
        rough.forEach((line, i) => {
          const own = found.lines[line.id]
          const at = snapped[i]
          if (own && at) {
            own.from = round(at.from)
            own.to = round(at.to)
          }
        })
      })
    if (without.length) shot.message = `No edge stands out within four pixels of ${without.join(', ')}: left as drawn.`
  } catch (error) {
    shot.message = (error as Error).message
  }
}
function use() {
  const found = solved.value.found
  if (found)
    shot.change('Camera from the lines', document => {
      Object.assign(document.scene.camera, found.camera)
    })
}
</script>

<template>
  <div class="panel" data-test="match">
    <h3>Match to the plate</h3>
    <p class="soft">
      Draw along edges that run parallel in the world. Two directions give the focal length and how the camera is held.
    </p>
    <p v-if="lens?.focalLength35" class="scale">
      The photograph says <b class="figures">{{ lens.focalLength35 }} mm</b> on 35 mm film:
      <button class="word" data-test="match-exif" @click="useLens">use it</button>
    </p>
    <div class="row">
      <v-btn
        v-for="axis in AXES"
        :key="axis"
        size="small"
        :variant="view.matchTool === axis ? 'tonal' : 'text'"
        :aria-pressed="view.matchTool === axis"
        :data-test="`match-${axis}`"
        @click="take(axis)"
        >{{ AXIS_WORDS[axis] }}</v-btn
      >
    </div>
    <div
      v-for="(line, index) in lines"
      :key="line.id"
      class="row line"
      :class="{ chosen: view.matchLine === line.id }"
      @pointerenter="view.matchLine = line.id"
    >
      <span class="grow">{{ AXIS_WORDS[line.axis] }} {{ index + 1 }}</span
      ><span
        v-if="solved.found"
        class="soft figures"
        :class="{ bad: solved.found.errors[index]!.pixels > Math.max(2, solved.found.rms * 2) }"
        >{{ solved.found.errors[index]!.pixels.toFixed(1) }} px&ensp;{{
          solved.found.errors[index]!.degrees.toFixed(2)
        }}°</span
      >
      <v-btn
        :icon="mdiCloseCircleOutline"
        size="x-small"
        :aria-label="`Remove line ${index + 1}`"
        @click="
          edit('Remove a line', found => {
            delete found.lines[line.id]
          })
        "
      />
    </div>
    <p v-if="lines.length" class="scale">
      <button class="word" data-test="match-snap" @click="snap">lay the lines on the edges under them</button>
    </p>
    <label v-if="lines.length" class="row"
      ><input
        type="checkbox"
        :checked="match.focal === 'keep'"
        data-test="match-keep"
        @change="
          edit('Focal length of the match', found => {
            found.focal = found.focal === 'keep' ? 'solve' : 'keep'
          })
        "
      />
      the focal length is known ({{ Number(shot.document!.scene.camera.focalLength).toFixed(1) }} mm)</label
    >
    <label v-if="new Set(lines.map(line => line.axis)).size === 3 || match.centre" class="row"
      ><input
        type="checkbox"
        :checked="match.centre"
        data-test="match-centre"
        @change="
          edit('Centre of the match', found => {
            found.centre = !found.centre
          })
        "
      />
      the three directions give the optical centre too</label
    >
    <p v-if="solved.fault" class="soft" role="status" data-test="match-fault">{{ solved.fault }}</p>
    <template v-if="solved.found">
      <p data-test="match-result">
        <b class="figures">{{ Number(solved.found.camera.focalLength).toFixed(1) }} mm</b>, pitch
        <b class="figures">{{ Number(solved.found.camera.pitch).toFixed(2) }}°</b>, bank
        <b class="figures">{{ Number(solved.found.camera.bank).toFixed(2) }}°</b>, heading
        <b class="figures">{{ Number(solved.found.camera.heading).toFixed(2) }}°</b
        ><template v-if="match.centre"
          >, centre at
          <b class="figures">{{ solved.found.centre.map(value => value.toFixed(0)).join(', ') }}</b></template
        >; lines fit to {{ solved.found.rms.toFixed(2) }} px
      </p>
      <v-btn size="small" color="primary" :disabled="same" data-test="match-use" @click="use">{{
        same ? 'The camera is held so' : 'Hold the camera so'
      }}</v-btn>
    </template>
    <p class="scale">
      Scale by
      <button
        class="word"
        :class="{ on: view.matchTool === 'upright' }"
        data-test="match-upright"
        @click="take('upright')"
      >
        something upright
      </button>
      or
      <button
        class="word"
        :class="{ on: view.matchTool === 'length' }"
        data-test="match-length"
        @click="take('length')"
      >
        a length on the ground
      </button>
      of
      <ValueField
        still
        :model-value="view.matchMetres"
        label="Known size"
        help="Drag it on the picture; the camera's height follows."
        :low="0.01"
        :high="1000"
        :step="0.01"
        unit="m"
        data-test="match-metres"
        @change="
          value => {
            view.matchMetres = value as number
          }
        "
      />;
      <button
        class="word"
        :class="{ on: view.matchTool === 'origin' }"
        data-test="match-origin"
        @click="take('origin')"
      >
        click where the scene's middle stands</button
      >.
    </p>
    <p class="scale">
      Check with
      <button class="word" :class="{ on: view.matchTool === 'pole' }" data-test="match-pole" @click="take('pole')">
        poles
      </button>
      of
      <ValueField
        still
        :model-value="view.poleMetres"
        label="Height of poles"
        help="At eye height their heads lie on the horizon."
        :low="0.01"
        :high="1000"
        :step="0.01"
        unit="m"
        :neutral="1.8"
        @change="
          value => {
            view.poleMetres = value as number
          }
        "
      /><template v-if="poles"
        >;
        <button
          class="word soft"
          @click="
            edit('No poles', found => {
              found.poles = {}
            })
          "
        >
          take {{ poles }} away
        </button></template
      >
    </p>
  </div>
</template>

<style scoped>
.line {
  font-size: 12.5px;
  min-height: 24px;
  padding-left: 4px;
  border-radius: 4px;
}
.line.chosen {
  background: var(--faint);
}
.bad {
  color: var(--mark);
  font-weight: 600;
}
.word.on {
  border-color: var(--mark);
  color: var(--mark);
}
.scale {
  margin: 0;
  line-height: 1.8;
}
input {
  accent-color: var(--ink);
}
</style>
