<script setup lang="ts">
// How a clip stands in the shot, as lines with their values in place.
import type { ClipUse } from '../../core/shot/document'
import { perSecond, parseRate, rateText } from '../../core/time/rate'
import type { ClipTiming } from '../../core/shot/schema/picture'
import { isCurve, valueAt, type Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'

const props = defineProps<{ clip: ClipUse }>()
const emit = defineEmits<{ change: [label: string, mutate: (clip: ClipUse) => void, live: boolean] }>()
const shot = useShot()
const timing = computed(() => props.clip.timing)
const put = (label: string, mutate: (clip: ClipUse) => void, live = false): void => emit('change', label, mutate, live)
const whole = (value: unknown): number => Math.round(typeof value === 'number' ? value : 0)
const rateWrong = ref('')
function setRate(event: Event) {
  try {
    const rate = parseRate((event.target as HTMLInputElement).value)
    rateWrong.value = ''
    put('Rate of a clip', clip => {
      clip.rate = rate
    })
  } catch (error) {
    rateWrong.value = (error as Error).message
  }
}
const aspect = computed(() => perSecond(props.clip.pixelAspect))
const setAspect = (value: unknown): void =>
  put('Pixel aspect', clip => {
    clip.pixelAspect = { numerator: Math.round((value as number) * 1000), denominator: 1000 }
  })
const retime = computed(() => timing.value.retime)
function byCurve(on: boolean) {
  put(on ? 'Retime by a curve' : 'No retiming', clip => {
    const { start, from, to } = clip.timing
    if (on)
      clip.timing.retime = {
        keys: [
          { frame: start, value: from, ease: 'linear' },
          { frame: start + Math.max(1, to - from), value: to, ease: 'linear' },
        ],
      }
    else delete clip.timing.retime
  })
}
const freeze = (): void =>
  put(timing.value.frozen === undefined ? 'Freeze' : 'Let run', clip => {
    if (clip.timing.frozen === undefined)
      clip.timing.frozen = Math.min(clip.count - 1, Math.max(0, shot.frame - clip.timing.start + clip.timing.from))
    else delete clip.timing.frozen
  })
</script>

<template>
  <div class="clip">
    <p class="soft">
      {{ clip.count }} frames<template v-if="clip.made || clip.first">, counted from {{ clip.first }}</template
      ><template v-if="clip.timecode">, timecode {{ clip.timecode }}</template
      >; {{ (clip.count / perSecond(clip.rate)).toFixed(2) }} s
    </p>
    <p>
      Read at
      <WordField
        class="rate figures"
        :value="rateText(clip.rate)"
        aria-label="Rate of the clip"
        data-test="clip-rate"
        @change="setRate"
      />
      a second, pixels
      <ValueField
        still
        :model-value="aspect"
        label="Pixel aspect"
        help="Width of a pixel to its height."
        :low="0.1"
        :high="10"
        :step="0.002"
        :digits="3"
        :neutral="1"
        @change="(value, live) => !live && setAspect(value)"
      />
      wide
    </p>
    <p v-if="rateWrong" class="warn" role="alert">{{ rateWrong }}</p>
    <p>
      Frames
      <ValueField
        still
        :model-value="timing.from"
        label="First frame used"
        help="Counted from 0."
        :low="0"
        :high="clip.count - 1"
        :step="0.2"
        :digits="0"
        :neutral="0"
        data-test="clip-from"
        @change="
          (value, live) =>
            put(
              'Trim',
              found => {
                found.timing.from = Math.min(whole(value), found.timing.to)
              },
              live,
            )
        "
      />
      to
      <ValueField
        still
        :model-value="timing.to"
        label="Last frame used"
        :low="0"
        :high="clip.count - 1"
        :step="0.2"
        :digits="0"
        :neutral="clip.count - 1"
        data-test="clip-to"
        @change="
          (value, live) =>
            put(
              'Trim',
              found => {
                found.timing.to = Math.max(whole(value), found.timing.from)
              },
              live,
            )
        "
      />
      stand from frame
      <ValueField
        still
        :model-value="timing.start"
        label="Starts at"
        help="Frame of the shot."
        :low="-100000"
        :high="100000"
        :step="0.2"
        :digits="0"
        :neutral="1"
        data-test="clip-start"
        @change="
          (value, live) =>
            put(
              'Start of a clip',
              found => {
                found.timing.start = whole(value)
              },
              live,
            )
        "
      />
      on,
      <template v-if="retime !== undefined"
        >by a curve: now frame
        <ValueField
          :model-value="retime"
          label="Frame of the clip"
          help="K sets a key."
          :low="0"
          :high="clip.count - 1"
          :step="0.05"
          :digits="2"
          data-test="clip-retime"
          @change="
            (value, live) =>
              put(
                'Retime',
                found => {
                  found.timing.retime = value
                },
                live,
              )
          "
      /></template>
      <template v-else
        >at
        <ValueField
          still
          :model-value="timing.speed"
          label="Speed"
          help="1 as it is, 0.5 half as fast."
          :low="0.01"
          :high="100"
          :step="0.005"
          :neutral="1"
          data-test="clip-speed"
          @change="
            (value, live) =>
              put(
                'Speed',
                found => {
                  found.timing.speed = isCurve(value as Animatable)
                    ? valueAt(value as Animatable, shot.frame)
                    : (value as number)
                },
                live,
              )
          "
        />
        of its speed,
        <select
          class="word"
          :value="timing.reverse ? 'back' : 'on'"
          aria-label="Direction"
          @change="
            put('Direction', found => {
              found.timing.reverse = ($event.target as HTMLSelectElement).value === 'back'
            })
          "
        >
          <option value="on">forward</option>
          <option value="back">backwards</option></select
        >,
        <select
          class="word"
          :value="timing.conform"
          aria-label="Counted"
          data-test="clip-conform"
          @change="
            put('How a clip is counted', found => {
              found.timing.conform = ($event.target as HTMLSelectElement).value as 'frames'
            })
          "
        >
          <option value="frames">frame for frame</option>
          <option value="time">by the clock</option>
        </select></template
      >, beyond its ends
      <select
        class="word"
        :value="timing.ends"
        aria-label="Beyond its ends"
        data-test="clip-ends"
        @change="
          put('Ends of a clip', found => {
            found.timing.ends = ($event.target as HTMLSelectElement).value as ClipTiming['ends']
          })
        "
      >
        <option value="hold">held</option>
        <option value="nothing">nothing</option>
        <option value="loop">again</option>
        <option value="mirror">to and fro</option></select
      >, between frames
      <select
        class="word"
        :value="timing.blend ? 'mix' : 'hold'"
        aria-label="Between frames"
        data-test="clip-blend"
        @change="
          put('Between frames', found => {
            found.timing.blend = ($event.target as HTMLSelectElement).value === 'mix'
          })
        "
      >
        <option value="hold">the earlier one</option>
        <option value="mix">a mix of both</option></select
      >.
    </p>
    <div class="row">
      <button class="word soft" @click="byCurve(retime === undefined)">
        {{ retime === undefined ? 'retime by a curve' : 'without the curve' }}</button><button
        class="word soft"
        data-test="clip-freeze"
        @click="freeze"
      >
        {{ timing.frozen === undefined ? 'freeze this frame' : `frozen at ${timing.frozen}: let run` }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.clip {
  display: flex;
  flex-direction: column;
  gap: 6px;
  line-height: 1.8;
}
p {
  margin: 0;
}
.rate {
  width: 96px;
  font-size: 12.5px;
  border: 0;
  border-bottom: 1.5px solid #b4b5b3;
  background: none;
  color: inherit;
  padding: 0 1px;
}
</style>
