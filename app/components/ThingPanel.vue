<script setup lang="ts">
// One thing: its name, place, part in the shot, pins, the shadow that falls on it, and pictures laid on it.
import { mdiContentCopy, mdiTrashCanOutline } from '@mdi/js'
import type { ObjectSettings } from '../../core/shot/document'
import { bringIntoView } from '../../core/shot/fit'
import { addedCalled, copyObject, groupOf, moveTogether, removeObject, renameObject } from '../../core/shot/objects'
import type { Animatable } from '../../core/time/curve'
import type { Role } from '../../core/scene/scene'
import { ADDED, OBJECT } from '../../core/shot/schema/thing'
import { partProps, propsOf } from '~/composables/fields'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo }>()
const OWN = propsOf(OBJECT.fields)
const SHAPE = propsOf(ADDED.kinds.standin.fields)
const shot = useShot()
const view = useView()
const thing = computed(() => props.info.objects.find(object => object.name === view.picked[0])!)
const settings = computed<ObjectSettings>(() => shot.document!.scene.objects[thing.value.name] ?? {})
const object = (label: string, mutate: (settings: ObjectSettings) => void, live = false): void => {
  const { name } = thing.value
  shot.change(
    `${label} ${name}`,
    document => {
      mutate((document.scene.objects[name] ??= {}))
    },
    live,
  )
}
function setPart(field: 'position' | 'rotation', index: number, value: Animatable, live: boolean) {
  const current = thing.value[field]
  object(
    field === 'position' ? 'Move' : 'Turn',
    own => {
      const triple = own[field] ?? [...current]
      triple[index] = value
      own[field] = triple as [Animatable, Animatable, Animatable]
    },
    live,
  )
}
const ROLE_WORDS: Record<Role, string> = { object: 'object', catcher: 'shadow catcher', holdout: 'holdout' }
const ROLES = Object.entries(ROLE_WORDS).map(([value, title]) => ({ value, title }))
const placeOf = (name: string): [number, number, number] =>
  props.info.objects.find(entry => entry.name === name)?.position ?? [0, 0, 0]

/** Down (or up) onto the highest thing below its middle, or the ground. */
function drop() {
  const { low, high, name } = thing.value
  const x = (low[0] + high[0]) / 2
  const z = (low[2] + high[2]) / 2
  const group = groupOf(shot.document!, name)
  const below = props.info.objects
    .filter(
      other =>
        !group.includes(other.name) &&
        !other.absent &&
        other.low[0] <= x &&
        other.high[0] >= x &&
        other.low[2] <= z &&
        other.high[2] >= z &&
        other.high[1] <= low[1] + 0.02,
    )
    .map(other => other.high[1])
  const by = Math.max(0, ...below) - low[1]
  shot.change(`Drop ${name}`, document => {
    moveTogether(document, group, placeOf, [0, by, 0], shot.frame)
  })
}
/** Scaled about its foot until it is so tall. */
function setHeight(metres: number, live: boolean) {
  const { low, high, position } = thing.value
  const factor = metres / Math.max(1e-6, high[1] - low[1])
  object(
    'Height of',
    own => {
      const before = typeof own.scale === 'number' ? own.scale : 1
      own.scale = Math.min(1e4, Math.max(1e-4, Number((before * factor).toFixed(5))))
      // The foot stays where it stands
      own.position = [position[0], Number((low[1] + (position[1] - low[1]) * factor).toFixed(4)), position[2]]
    },
    live,
  )
}
function rename(event: Event) {
  const input = event.target as HTMLInputElement
  const { name } = thing.value
  const wanted = input.value.trim()
  try {
    const next = JSON.parse(JSON.stringify(shot.document)) as NonNullable<typeof shot.document>
    renameObject(next, props.info.fileNames, name, wanted)
    shot.change(`Rename ${name}`, document => {
      renameObject(document, props.info.fileNames, name, wanted)
    })
    view.picked = [wanted || name]
  } catch (error) {
    shot.message = (error as Error).message
    input.value = name
  }
}
function copy() {
  const { name, position, low, high } = thing.value
  let made = ''
  shot.change(`Copy ${name}`, document => {
    made = copyObject(document, props.info.fileNames, name, [
      position[0] + Math.max(0.2, (high[0] - low[0]) * 1.1),
      position[1],
      position[2],
    ])
  })
  view.picked = [made]
}
function remove() {
  const { name, added } = thing.value
  shot.change(added ? `Remove ${name}` : `Leave out ${name}`, document => {
    removeObject(document, name)
  })
  view.picked = []
}
const standIn = computed(() => {
  const entry = addedCalled(shot.document!, thing.value.name)
  return entry?.kind === 'standin' ? entry : null
})
const shapeField = (field: 'width' | 'height' | 'depth' | 'roughness', value: Animatable, live: boolean): void =>
  shot.change(
    `Size of ${thing.value.name}`,
    document => {
      const entry = addedCalled(document, thing.value.name)
      if (entry?.kind === 'standin') entry[field] = value
    },
    live,
  )
function bring() {
  const { name } = thing.value
  const group = groupOf(shot.document!, name)
  const things = props.info.objects.filter(entry => group.includes(entry.name))
  let words = ''
  shot.change(`Bring ${name} into view`, document => {
    words = bringIntoView(document, things, shot.frame)
  })
  shot.message = words
}
const takePut = (): void => {
  view.sceneTool = view.sceneTool === 'put' ? null : 'put'
  view.matchTool = null
}
</script>

<template>
  <div class="panel">
    <div class="row">
      <WordField
        class="name grow"
        :value="thing.name"
        aria-label="Name"
        data-test="thing-name"
        @change="rename"
      /><v-btn
        :icon="mdiContentCopy"
        size="x-small"
        aria-label="Copy"
        title="Copy"
        data-test="thing-copy"
        @click="copy"
      /><v-btn
        :icon="mdiTrashCanOutline"
        size="x-small"
        :aria-label="thing.added ? 'Remove' : 'Leave out'"
        :title="thing.added ? 'Remove' : 'Leave out'"
        data-test="thing-remove"
        @click="remove"
      />
    </div>
    <p v-if="!settings.locked">
      stands at
      <ValueField
        v-for="i in 3"
        :key="i"
        :model-value="settings.position?.[i - 1] ?? thing.position[i - 1]!"
        v-bind="partProps(OBJECT.fields.position, i - 1)"
        class="gap"
        @change="(value, live) => setPart('position', i - 1, value, live)"
      />
      m, turned
      <ValueField
        v-for="i in 3"
        :key="i"
        :model-value="settings.rotation?.[i - 1] ?? thing.rotation[i - 1]!"
        v-bind="partProps(OBJECT.fields.rotation, i - 1)"
        class="gap"
        @change="(value, live) => setPart('rotation', i - 1, value, live)"
      />
      deg, scaled
      <ValueField
        :model-value="settings.scale ?? 1"
        v-bind="OWN.scale"
        @change="
          (value, live) =>
            object(
              'Scale',
              own => {
                own.scale = value
              },
              live,
            )
        "
      />,
      <ValueField
        still
        :model-value="thing.high[1] - thing.low[1]"
        label="Real height"
        help="Scaled about its foot."
        :low="0.001"
        :high="10000"
        :step="0.005"
        unit="m"
        data-test="real-height"
        @change="(value, live) => !live && setHeight(value as number, live)"
      />
      tall.
      <button class="word" data-test="bring-into-view" @click="bring">Bring it into view</button>,
      <button class="word" :class="{ on: view.sceneTool === 'put' }" data-test="put-where" @click="takePut">
        {{ view.sceneTool === 'put' ? 'now click its place' : 'put it where I click' }}
      </button>
    </p>
    <p v-if="standIn" class="scale">
      <template v-if="standIn.shape !== 'profile' && standIn.shape !== 'outline'"
        ><ValueField
          :model-value="standIn.width"
          v-bind="SHAPE.width"
          @change="(value, live) => shapeField('width', value, live)"
        />
        wide</template
      ><template v-if="standIn.shape === 'box' || standIn.shape === 'cylinder' || standIn.shape === 'outline'"
        >,
        <ValueField
          :model-value="standIn.height"
          v-bind="SHAPE.height"
          data-test="standin-height"
          @change="(value, live) => shapeField('height', value, live)"
        />
        high</template
      ><template v-if="standIn.shape === 'box' || standIn.shape === 'plane'"
        >,
        <ValueField
          :model-value="standIn.depth"
          v-bind="SHAPE.depth"
          @change="(value, live) => shapeField('depth', value, live)"
        />
        deep</template
      >
    </p>
    <ThingRound :settings="settings" :triangles="thing.triangles" @change="object" />
    <div class="row">
      <v-select
        label="It is"
        :items="ROLES"
        :model-value="thing.role"
        data-test="role"
        @update:model-value="
          value =>
            object('Role of', own => {
              own.role = value
            })
        "
      /><v-btn size="small" data-test="drop" :disabled="settings.locked" @click="drop">Drop</v-btn>
    </div>
    <ThingLight :thing="thing" :settings="settings" @change="object" />
    <p v-if="thing.shines" class="soft">
      where light is told apart its own counts as
      <WordField
        class="word group"
        :value="settings.lightGroup ?? 'shining things'"
        aria-label="Group of its light"
        title="What shares a group shares a pass and a fader on the desk"
        data-test="thing-light-group"
        @change="
          object('Group of light of', own => {
            const group = ($event.target as HTMLInputElement).value.trim().slice(0, 60)
            if (group && group !== 'shining things') own.lightGroup = group
            else delete own.lightGroup
          })
        "
      />
    </p>
    <label class="row"
      ><input
        type="checkbox"
        :checked="thing.hidden"
        @change="
          object('Hide', own => {
            own.hidden = !thing.hidden
          })
        "
      />
      hidden from the camera (still casts and reflects)</label
    >
    <label class="row"
      ><input
        type="checkbox"
        :checked="thing.absent"
        @change="
          object('Leave out', own => {
            own.absent = !thing.absent
          })
        "
      />
      left out</label
    >
    <label class="row"
      ><input
        type="checkbox"
        :checked="settings.locked"
        data-test="lock"
        @change="
          object('Lock', own => {
            own.locked = !own.locked
          })
        "
      />
      locked</label
    >
    <ThingPins :name="thing.name" />
    <PrintList :thing="thing" />
    <button
      v-if="shot.document!.scene.objects[thing.name] && !thing.added"
      class="word soft self"
      @click="
        shot.change(`As in the file: ${thing.name}`, document => {
          delete document.scene.objects[thing.name]
        })
      "
    >
      as it is in the file
    </button>
  </div>
</template>

<style scoped>
.gap {
  margin-right: 7px;
}
.name {
  font: inherit;
  font-weight: 650;
  border: 0;
  border-bottom: 1.5px solid transparent;
  background: none;
  color: inherit;
  min-width: 0;
}
.name:hover,
.name:focus {
  border-color: var(--line);
}
input[type='checkbox'] {
  accent-color: var(--ink);
}
p {
  margin: 0;
}
.scale {
  line-height: 1.8;
}
.self {
  align-self: flex-start;
}
</style>
