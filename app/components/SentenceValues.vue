<script setup lang="ts">
// A sentence with its values in place, from what is declared of them: of a treatment, or of a matte.
import { counts, firstValues, sentenceAt, type EntryFields } from '../../core/declare/values'
import type { ChoiceField, EntryValue, ListField, NumberField, ValuesField } from '../../core/declare/field'
import type { Animatable } from '../../core/time/curve'
import { displayByte } from '../../core/colour/encoding'
import { lineProps, partProps } from '~/composables/fields'

const props = defineProps<{ sentence: string; fields: EntryFields; values: Readonly<Record<string, EntryValue>> }>()
const emit = defineEmits<{ change: [name: string, value: EntryValue, live: boolean] }>()

interface Piece {
  text?: string
  name?: string
  number?: NumberField
  row?: ValuesField
  choice?: ChoiceField
  points?: ListField
  colours?: ListField
}
const pieces = computed((): Piece[] =>
  sentenceAt(props.sentence, props.fields, props.values)
    .split(/(\{\w+\})/)
    .filter(Boolean)
    .flatMap((part): Piece[] => {
      const name = /^\{(\w+)\}$/.exec(part)?.[1]
      if (!name) return [{ text: part }]
      const field = props.fields[name]!
      if (!counts(props.fields, name, props.values)) return []
      if (field.kind === 'choice') return [{ name, choice: field }]
      if (field.kind === 'list') return [field.bend ? { name, points: field } : { name, colours: field }]
      return [field.kind === 'values' ? { name, row: field } : { name, number: field }]
    }),
)
const first = computed(() => firstValues(props.fields))
const standing = (name: string): EntryValue =>
  props.values[name] ??
  (props.fields[name] as { neutral?: number | string }).neutral ??
  (first.value[name] as EntryValue)
const label = ({ label = '' }: ChoiceField): string => label.charAt(0).toUpperCase() + label.slice(1)
/** A scene-linear colour as a display shows it. */
const seenAs = (colour: readonly number[]): string => `rgb(${colour.map(displayByte).join(' ')})`
/** What it is a colour of: what its parts are called without the channel. */
const colourLabel = ({ label, parts }: ValuesField): string => {
  const of = parts[0]!.replace(/,? ?red$/, '')
  const said = label ?? (of ? `${of} colour` : 'colour')
  return said.charAt(0).toUpperCase() + said.slice(1)
}
const row = (name: string): Animatable[] => standing(name) as Animatable[]
</script>

<template>
  <template v-for="(piece, index) in pieces" :key="index">
    <template v-if="piece.text">{{ piece.text }}</template>
    <ValueField
      v-else-if="piece.number"
      :model-value="standing(piece.name!) as Animatable"
      v-bind="lineProps(piece.number)"
      :data-test="`value-${piece.name}`"
      @change="(value, live) => emit('change', piece.name!, value, live)"
    />
    <select
      v-else-if="piece.choice"
      class="word"
      :value="standing(piece.name!)"
      :aria-label="label(piece.choice)"
      :title="`${label(piece.choice)}: ${piece.choice.help ?? ''}`"
      :data-test="`value-${piece.name}`"
      @change="emit('change', piece.name!, ($event.target as HTMLSelectElement).value, false)"
      @keydown.stop
    >
      <option v-for="word in piece.choice.choices" :key="word" :value="word">{{ word }}</option>
    </select>
    <BendField
      v-else-if="piece.points"
      :model-value="standing(piece.name!) as [number, number][]"
      :field="piece.points"
      @change="(points, live) => emit('change', piece.name!, points, live)"
    />
    <template v-else-if="piece.colours">
      <template v-if="(standing(piece.name!) as number[][]).length"
        >{{ piece.colours.label }}{{ ' '
        }}<button
          v-for="(colour, i) in standing(piece.name!) as number[][]"
          :key="i"
          class="swatch"
          :style="{ background: seenAs(colour) }"
          :aria-label="`${piece.colours.label} ${colour.map(channel => channel.toFixed(3)).join(' ')}: take it out`"
          :title="`${colour.map(channel => channel.toFixed(3)).join(' ')}: click takes it out`"
          :data-test="`swatch-${piece.name}`"
          @click="
            emit(
              'change',
              piece.name!,
              (standing(piece.name!) as number[][]).filter((_, k) => k !== i),
              false,
            )
          " /></template
    ></template>
    <template v-else-if="piece.row!.onPicture"
      >{{ piece.row!.label }} dragged on the picture
      <button
        v-if="row(piece.name!).some(value => value !== (piece.row!.neutral ?? 0))"
        class="word"
        :data-test="`straight-${piece.name}`"
        @click="
          emit(
            'change',
            piece.name!,
            piece.row!.parts.map(() => piece.row!.neutral ?? 0),
            false,
          )
        "
      >
        back to where they were
      </button></template
    >
    <template v-else>
      <ColourField
        v-if="piece.row!.colour"
        :model-value="row(piece.name!)"
        :field="piece.row!"
        :label="colourLabel(piece.row!)"
        @change="(colour, live) => emit('change', piece.name!, colour, live)"
      />
      <template v-for="(part, i) in piece.row!.parts" :key="part"
        >{{ i ? ' ' : ''
        }}<ValueField
          :model-value="row(piece.name!)[i]!"
          v-bind="partProps(piece.row!, i)"
          :data-test="`value-${piece.name}-${i}`"
          @change="
            (value, live) =>
              emit(
                'change',
                piece.name!,
                row(piece.name!).map((old, k) => (k === i ? value : old)),
                live,
              )
          "
      /></template>
    </template>
  </template>
</template>
