<script setup lang="ts">
// Pictures laid on a thing: thrown onto it from its front or from the camera.
import { mdiCloseCircleOutline } from '@mdi/js'
import { identifier, type PrintSettings } from '../../core/shot/document'
import { addRow, inOrder } from '../../core/shot/rows'
import { cameraAt } from '../../core/shot/scene'
import { inverseOf, multiply } from '../../core/scene/vector'
import { bringPicture } from '~/composables/bring'
import { PRINT } from '../../core/shot/schema/thing'
import { propsOf } from '~/composables/fields'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ thing: SceneInfo['objects'][number] }>()
const PRINTED = propsOf(PRINT.fields)
const shot = useShot()
const view = useView()
const busy = ref('')
const prints = computed(() => inOrder(shot.document!.scene.prints).filter(print => print.on === props.thing.name))
const edit = (label: string, id: string, mutate: (print: PrintSettings) => void, live = false): void =>
  shot.change(
    label,
    document => {
      const found = document.scene.prints?.[id]
      if (found) mutate(found)
    },
    live,
  )

/** From its front: ahead of its own face (+Z), at its middle, as wide as half of it. */
function fromFront(): Pick<PrintSettings, 'matrix' | 'size' | 'tangent' | 'from'> {
  const { low, high, matrix } = props.thing
  const back = inverseOf(matrix)
  const middle = [0, 1, 2].map(k => (low[k]! + high[k]!) / 2)
  const centre = [0, 1, 2].map(
    k => back[k]! * middle[0]! + back[4 + k]! * middle[1]! + back[8 + k]! * middle[2]! + back[12 + k]!,
  )
  const grown = Math.hypot(matrix[0]!, matrix[1]!, matrix[2]!)
  return {
    from: 'front',
    matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, ...centre, 1],
    tangent: 0,
    size: Number((Math.max(0.01, (high[0] - low[0]) * 0.5) / grown).toFixed(4)),
  }
}
function fromCamera(): Pick<PrintSettings, 'matrix' | 'size' | 'tangent' | 'from' | 'shiftX' | 'shiftY'> {
  const camera = cameraAt(shot.document!.scene.camera, shot.frame)
  const { low, high, matrix } = props.thing
  const m = camera.matrix
  const tangent = camera.sensorWidth / 2 / camera.focalLength
  const middle = [0, 1, 2].map(k => (low[k]! + high[k]!) / 2 - m[12 + k]!)
  const along = (column: number): number =>
    m[column * 4]! * middle[0]! + m[column * 4 + 1]! * middle[1]! + m[column * 4 + 2]! * middle[2]!
  const metres = Math.max(0.01, -along(2))
  const size = Math.min(1, Math.max(0.01, (high[0] - low[0]) / 2 / metres / (2 * tangent)))
  // Its middle stands on the middle of the thing
  return {
    from: 'camera',
    matrix: multiply(inverseOf(matrix), m),
    tangent,
    size: Number(size.toFixed(4)),
    shiftX: Number((along(0) / metres / (2 * tangent * size)).toFixed(4)),
    shiftY: Number((along(1) / metres / (2 * tangent * size)).toFixed(4)),
  }
}
async function bring(files: File[]) {
  busy.value = 'reading'
  try {
    const { reference } = await bringPicture(files[0]!, share => {
      busy.value = `${Math.round(share * 100)} %`
    })
    const id = identifier()
    shot.change(`Picture on ${props.thing.name}`, document => {
      addRow((document.scene.prints ??= {}), {
        id,
        name: reference.name.replace(/\.\w+$/, '').slice(0, 200),
        on: props.thing.name,
        shown: true,
        picture: reference,
        turn: 0,
        shiftX: 0,
        shiftY: 0,
        opacity: 1,
        instead: false,
        roughness: null,
        ...fromFront(),
      })
    })
    view.selectedPrint = id
    view.sceneTool = 'print'
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
}
async function swap(id: string, files: File[]) {
  try {
    const { reference } = await bringPicture(files[0]!)
    edit('Another picture', id, print => {
      print.picture = reference
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
const move = (id: string): void => {
  view.selectedPrint = id
  view.sceneTool = view.sceneTool === 'print' && view.selectedPrint === id ? null : 'print'
}
</script>

<template>
  <div class="prints">
    <div v-for="print in prints" :key="print.id" class="print" data-test="print">
      <div class="row">
        <input
          type="checkbox"
          :checked="print.shown"
          :aria-label="`${print.name} on or off`"
          @change="
            edit('Picture on or off', print.id, found => {
              found.shown = !found.shown
            })
          "
        /><b class="grow cut">{{ print.name }}</b
        ><v-btn
          :icon="mdiCloseCircleOutline"
          size="x-small"
          :aria-label="`Remove ${print.name}`"
          @click="
            shot.change('Remove a picture', document => {
              delete document.scene.prints![print.id]
            })
          "
        />
      </div>
      <p>
        laid on from
        <select
          class="word"
          :value="print.from"
          aria-label="From"
          data-test="print-from"
          @change="
            edit('Where a picture is thrown from', print.id, found =>
              Object.assign(
                found,
                { shiftX: 0, shiftY: 0 },
                ($event.target as HTMLSelectElement).value === 'front' ? fromFront() : fromCamera(),
              ),
            )
          "
        >
          <option value="front">its front</option>
          <option value="camera">the camera as it is now</option></select
        >,
        <ValueField
          :model-value="print.size"
          v-bind="PRINTED.size"
          :help="print.from === 'front' ? 'In metres of the thing.' : 'As a share of the camera’s view.'"
          :unit="print.from === 'front' ? 'm' : ''"
          data-test="print-size"
          @change="
            (value, live) =>
              edit(
                'Size of a picture',
                print.id,
                found => {
                  found.size = value
                },
                live,
              )
          "
        />
        wide, turned
        <ValueField
          :model-value="print.turn"
          v-bind="PRINTED.turn"
          data-test="print-turn"
          @change="
            (value, live) =>
              edit(
                'Turn a picture',
                print.id,
                found => {
                  found.turn = value
                },
                live,
              )
          "
        />, shifted
        <ValueField
          :model-value="print.shiftX"
          v-bind="PRINTED.shiftX"
          @change="
            (value, live) =>
              edit(
                'Shift a picture',
                print.id,
                found => {
                  found.shiftX = value
                },
                live,
              )
          "
        />
        <ValueField
          :model-value="print.shiftY"
          v-bind="PRINTED.shiftY"
          @change="
            (value, live) =>
              edit(
                'Shift a picture',
                print.id,
                found => {
                  found.shiftY = value
                },
                live,
              )
          "
        />;
        <select
          class="word"
          :value="print.instead ? 'instead' : 'over'"
          aria-label="Over or in place of the material"
          @change="
            edit('Over or in place', print.id, found => {
              found.instead = ($event.target as HTMLSelectElement).value === 'instead'
            })
          "
        >
          <option value="over">over the material</option>
          <option value="instead">in place of the material</option>
        </select>
        at
        <ValueField
          :model-value="print.opacity"
          v-bind="PRINTED.opacity"
          @change="
            (value, live) =>
              edit(
                'Opacity of a picture',
                print.id,
                found => {
                  found.opacity = value
                },
                live,
              )
          "
        />,
        <select
          class="word"
          :value="print.roughness === null ? 'material' : 'own'"
          aria-label="Roughness"
          @change="
            edit('Roughness of a picture', print.id, found => {
              found.roughness = ($event.target as HTMLSelectElement).value === 'own' ? 0.5 : null
            })
          "
        >
          <option value="material">as rough as the material</option>
          <option value="own">of its own roughness</option></select
        ><template v-if="print.roughness !== null">
          <ValueField
            :model-value="print.roughness"
            v-bind="PRINTED.roughness"
            @change="
              (value, live) =>
                edit(
                  'Roughness of a picture',
                  print.id,
                  found => {
                    found.roughness = value
                  },
                  live,
                )
            "
        /></template>
      </p>
      <div class="row">
        <v-btn
          size="small"
          :variant="view.sceneTool === 'print' && view.selectedPrint === print.id ? 'tonal' : 'text'"
          data-test="print-move"
          @click="move(print.id)"
          >Drag it on the thing</v-btn
        ><label class="word soft"
          >another picture<input
            type="file"
            hidden
            accept=".png,.jpg,.jpeg,.tif,.tiff,.exr"
            @change="swap(print.id, [...(($event.target as HTMLInputElement).files ?? [])])"
        /></label>
      </div>
    </div>
    <FileDrop
      accept=".png,.jpg,.jpeg,.tif,.tiff,.exr,.hdr"
      label="Lay a picture on it"
      data-test="print-file"
      @files="bring"
      >{{ busy || 'Lay a picture on it: a label, a drawing, a stain' }}</FileDrop
    >
  </div>
</template>

<style scoped>
.prints {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.print {
  border-top: 1px dashed var(--line);
  padding-top: 5px;
}
p {
  margin: 0;
  line-height: 1.8;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
input[type='checkbox'] {
  accent-color: var(--ink);
}
</style>
