<script setup lang="ts">
// Values over time: which ones, their curves, and what wanders on top of them.
import { valueAt } from '../../core/time/curve'
import { useCurveKeys } from '~/composables/curveKeys'
import { useShot } from '~/stores/shot'

const shot = useShot()
const keys = useCurveKeys()
const { values, ticked, own, chosenKey, chosen, pickedCount, onlyKey, copied } = keys
const { setKey, setEase, copy, remove, paste, motion, sway, toggle } = keys
</script>

<template>
  <section class="curves" aria-label="Values over time" data-test="curves">
    <div class="list">
      <p v-if="!values.length" class="soft hint">
        No value changes over time yet. Put the pointer on any value and press <kbd>K</kbd>, or click it with the other
        mouse button, to set a key at this frame.
      </p>
      <div
        v-for="value in values"
        :key="value.key"
        class="row entry"
        :class="{ on: chosen?.key === value.key }"
        @pointerdown="chosenKey = value.key"
      >
        <input
          type="checkbox"
          :checked="ticked.has(value.key) || value.key === chosen?.key"
          :aria-label="`Show ${value.owner}, ${value.name} beside others`"
          @click.stop
          @pointerdown.stop
          @change="toggle(value.key)"
        /><span class="grow cut"
          >{{ value.owner }}, <b>{{ value.name }}</b></span
        ><span class="figures soft">{{ valueAt(value.curve, shot.frame).toFixed(2) }}</span>
      </div>
    </div>
    <div class="right">
      <div class="row bar">
        <span class="soft">{{
          pickedCount ? `${pickedCount} ${pickedCount === 1 ? 'key' : 'keys'}` : 'Drag a frame round keys'
        }}</span>
        <template v-if="onlyKey"
          >at
          <ValueField
            still
            :model-value="onlyKey.key.frame"
            label="Frame of the key"
            :low="-100000"
            :high="100000"
            :step="0.2"
            :digits="0"
            data-test="key-frame"
            @change="(value, live) => setKey('frame', value as number, live)" />
          is
          <ValueField
            still
            :model-value="onlyKey.key.value"
            label="Value of the key"
            :low="-1e6"
            :high="1e6"
            :step="0.01"
            data-test="key-value"
            @change="(value, live) => setKey('value', value as number, live)"
        /></template>
        <template v-if="pickedCount"
          ><button
            v-for="ease in ['hold', 'linear', 'smooth'] as const"
            :key="ease"
            class="word"
            :data-test="`ease-${ease}`"
            @click="setEase(ease)"
          >
            {{ ease === 'hold' ? 'held' : ease === 'linear' ? 'straight' : 'smooth' }}</button
          ><button class="word" data-test="keys-copy" @click="copy">copy</button
          ><button class="word" data-test="keys-remove" @click="remove">remove</button></template
        >
        <button v-if="copied" class="word" data-test="keys-paste" @click="paste">paste {{ copied }} here</button>
        <span class="grow" />
        <label class="row soft"><input v-model="own" type="checkbox" />each its own height</label>
      </div>
      <CurveGraph :keys="keys" />
      <p v-if="chosen" class="row bar motion">
        {{ chosen.owner }}, {{ chosen.name }} drifts
        <ValueField
          still
          :model-value="chosen.curve.drift ?? 0"
          label="Drift"
          help="Added each second."
          :low="-100000"
          :high="100000"
          :step="0.01"
          :digits="3"
          :neutral="0"
          data-test="drift"
          @change="(value, live) => motion({ drift: value as number }, live)"
        />
        a second and sways by
        <ValueField
          still
          :model-value="chosen.curve.sway?.amount ?? 0"
          label="Sway"
          help="At most so much either way."
          :low="-100000"
          :high="100000"
          :step="0.01"
          :digits="3"
          :neutral="0"
          data-test="sway"
          @change="(value, live) => sway({ amount: value as number }, live)"
        />,
        <ValueField
          still
          :model-value="chosen.curve.sway?.speed ?? 0.5"
          label="Pace of the sway"
          help="Turns a second, about."
          :low="0"
          :high="100"
          :step="0.01"
          :neutral="0.5"
          @change="(value, live) => sway({ speed: value as number }, live)"
        />
        times a second, in way
        <ValueField
          still
          :model-value="chosen.curve.sway?.seed ?? 1"
          label="Seed of the sway"
          help="Another number wanders otherwise."
          :low="0"
          :high="100000"
          :step="0.1"
          :digits="0"
          :neutral="1"
          @change="(value, live) => sway({ seed: Math.round(value as number) }, live)"
        />.
      </p>
    </div>
  </section>
</template>

<style scoped>
.curves {
  flex: 1;
  min-height: 0;
  display: flex;
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
.list {
  width: 250px;
  overflow-y: auto;
  border-right: 1px solid var(--line);
  padding: 6px 0;
  flex-shrink: 0;
}
.hint {
  padding: 4px 12px;
}
.entry {
  padding: 2px 10px;
  font-size: 12.5px;
  cursor: pointer;
}
.entry.on {
  background: var(--faint);
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.right {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.bar {
  padding: 3px 12px;
  min-height: 28px;
  font-size: 12.5px;
  gap: 9px;
}
.motion {
  margin: 0;
  border-top: 1px dashed var(--line);
  flex-wrap: wrap;
  gap: 5px;
}
input[type='checkbox'] {
  accent-color: var(--ink);
}
</style>
