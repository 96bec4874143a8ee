<script setup lang="ts">
import { CRYPTO_RANKS, isDepth, MOST_CRYPTO_RANKS, passOf, PASS_GROUPS, PASSES } from '../../core/render/passes'
import { touchedPasses } from '../../core/shot/stamp'
import { hasObjects } from '../../core/shot/scene'
import { timeLeft, unended, useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot()
const jobs = useJobs()
const view = useView()
const settings = computed(() => shot.document!.passes)
const job = computed(() => jobs.ofShot(shot.id).find(job => job.kind === 'render' && unended(job)))
const failed = computed(() => {
  const last = jobs.ofShot(shot.id).find(job => job.kind === 'render')
  return last?.state === 'failed' ? last.message : ''
})
const toggle = (id: string): void =>
  shot.change('Choice of passes', document => {
    const list = document.passes.selected
    document.passes.selected = list.includes(id)
      ? list.filter(entry => entry !== id)
      : PASSES.map(pass => pass.id).filter(entry => entry === id || list.includes(entry))
  })
const moving = computed(() => shot.document!.frames.last > shot.document!.frames.first)
const range = ref(false)
const touched = computed(() => touchedPasses(shot.document!, shot.frame))
const partly = computed(
  () => !range.value && touched.value.length > 0 && touched.value.length < settings.value.selected.length,
)
async function render(all = false) {
  await shot.save()
  const { first, last } = shot.document!.frames
  try {
    await jobs.start(
      shot.id,
      'render',
      range.value && moving.value ? { frame: first, last } : { frame: shot.frame, all },
    )
  } catch (error) {
    shot.message = (error as Error).message
  }
}
const put = (
  field: 'samples' | 'seed' | 'bounces' | 'reach' | 'clamp' | 'ranks' | 'cone' | 'falloff',
  value: unknown,
  live: boolean,
): void =>
  shot.change(
    'What to render',
    document => {
      document.passes[field] = ['reach', 'clamp', 'cone', 'falloff'].includes(field)
        ? (value as number)
        : Math.round(value as number)
    },
    live,
  )
const size = computed(
  () =>
    `${Math.round(shot.document!.frame.width * settings.value.scale)} x ${Math.round(shot.document!.frame.height * settings.value.scale)}`,
)
</script>

<template>
  <div class="column">
    <div class="panel">
      <h2>What to render</h2>
      <p>
        <select
          class="word figures"
          :value="settings.scale"
          aria-label="Size"
          data-test="pass-size"
          @change="
            shot.change('Size of the passes', document => {
              document.passes.scale = Number(($event.target as HTMLSelectElement).value) as 1 | 0.5 | 0.25
            })
          "
        >
          <option :value="1">full size</option>
          <option :value="0.5">half size</option>
          <option :value="0.25">quarter size</option>
        </select>
        ({{ size }}),
        <ValueField
          still
          :model-value="settings.samples"
          label="Samples"
          help="Rays a pixel; four times as many halve the noise."
          :low="1"
          :high="4096"
          :step="0.5"
          :digits="0"
          :neutral="64"
          data-test="samples"
          @change="(value, live) => put('samples', value, live)"
        />
        samples a pixel at most; where the noise is below
        <ValueField
          still
          :model-value="(settings.noiseLevel ?? 0) * 100"
          label="Noise that is enough"
          help="Of a pixel’s brightness. Quiet pixels get no more samples; 0: all get all."
          :low="0"
          :high="100"
          :step="0.02"
          unit="%"
          :neutral="0"
          data-test="noise-level"
          @change="
            (value, live) =>
              shot.change(
                'Noise that is enough',
                document => {
                  if ((value as number) > 0) document.passes.noiseLevel = Math.max(1e-4, (value as number) / 100)
                  else delete document.passes.noiseLevel
                },
                live,
              )
          "
        />
        it rests, and after
        <ValueField
          still
          :model-value="settings.minutes ?? 0"
          label="Time at most"
          help="As good as that time allows; 0: no end."
          :low="0"
          :high="100000"
          :step="0.05"
          unit="min"
          :neutral="0"
          data-test="minutes"
          @change="
            (value, live) =>
              shot.change(
                'Time at most',
                document => {
                  if ((value as number) > 0) document.passes.minutes = Math.max(0.01, value as number)
                  else delete document.passes.minutes
                },
                live,
              )
          "
        />
        it ends (0: never).
      </p>
      <p>
        Light is followed
        <ValueField
          still
          :model-value="settings.bounces"
          label="Bounces"
          :low="0"
          :high="32"
          :step="0.05"
          :digits="0"
          :neutral="6"
          @change="(value, live) => put('bounces', value, live)"
        />
        bounces, occlusion reaching
        <ValueField
          still
          :model-value="settings.reach"
          label="Reach of occlusion"
          :low="0.01"
          :high="1000"
          :step="0.01"
          unit="m"
          :neutral="1"
          @change="(value, live) => put('reach', value, live)"
        /><template v-if="settings.selected.includes('occlusion')">
          in a cone of
          <ValueField
            still
            :model-value="settings.cone ?? 90"
            label="Cone of occlusion"
            help="Degrees to each side of the surface’s normal; 90 looks all round."
            :low="1"
            :high="90"
            :step="0.2"
            :digits="0"
            unit="deg"
            :neutral="90"
            data-test="cone"
            @change="(value, live) => put('cone', value, live)" />, falling off by
          <ValueField
            still
            :model-value="settings.falloff ?? 0"
            label="Falloff of occlusion"
            help="0: all within reach darkens alike; 1: evenly less with distance; more: only what is close."
            :low="0"
            :high="16"
            :step="0.01"
            :neutral="0"
            data-test="falloff"
            @change="(value, live) => put('falloff', value, live)" /></template
        >.
      </p>
      <p>
        <label class="whole"
          ><input
            type="checkbox"
            :checked="settings.denoise !== false"
            data-test="denoise"
            @change="
              shot.change('Noise taken out', document => {
                if (($event.target as HTMLInputElement).checked) delete document.passes.denoise
                else document.passes.denoise = false
              })
            "
          />
          The light is kept with its noise taken out, too</label
        >; how much of that is used is said at the station Build.
      </p>
      <details>
        <summary class="soft">bounds of samples, bright specks, names, lens, shutter, seed</summary>
        <p>
          Of all samples at most <PassLimits />
          (0: all). One bounce of light held below
          <ValueField
            still
            :model-value="settings.clamp ?? 0"
            label="Bound of bounced light"
            help="Against bright specks; 0 holds nothing back and is exact."
            :low="0"
            :high="1000"
            :step="0.1"
            :digits="0"
            :neutral="20"
            @change="(value, live) => put('clamp', value, live)"
          /><template v-if="settings.selected.some(id => id.includes('crypto_'))"
            >, names to
            <ValueField
              still
              :model-value="settings.ranks ?? CRYPTO_RANKS"
              label="Ranks of Cryptomatte"
              help="So many names share a pixel at most."
              :low="1"
              :high="MOST_CRYPTO_RANKS"
              :step="0.05"
              :digits="0"
              :neutral="CRYPTO_RANKS"
              data-test="ranks"
              @change="(value, live) => put('ranks', value, live)"
            />
            ranks</template
          >. Taken <PassOption of="lens" />, <PassOption of="shutter" />. Seed
          <ValueField
            still
            :model-value="settings.seed"
            label="Seed"
            :low="0"
            :high="100000"
            :step="0.1"
            :digits="0"
            @change="(value, live) => put('seed', value, live)"
          />.
        </p>
      </details>
    </div>
    <PassOutline v-if="settings.selected.includes('outline')" />
    <PassMist v-if="settings.selected.includes('mist')" />
    <div v-for="group in PASS_GROUPS" :key="group" class="panel tight">
      <h3>{{ group }}</h3>
      <label
        v-for="pass in PASSES.filter(pass => pass.group === group)"
        :key="pass.id"
        class="row pick"
        :title="pass.help"
        ><input
          type="checkbox"
          :checked="settings.selected.includes(pass.id)"
          :data-test="`pass-${pass.id}`"
          @change="toggle(pass.id)"
        /><span class="grow">{{ pass.label }}</span
        ><span class="soft small">{{ pass.kind }}</span></label
      >
    </div>
    <div v-if="isDepth(view.pass)" class="panel">
      <p class="soft">
        Depth is shown white at
        <ValueField
          still
          :model-value="view.near"
          label="White at"
          :low="0.01"
          :high="10000"
          :step="0.02"
          unit="m"
          @change="
            value => {
              view.near = value as number
            }
          "
        />, black at
        <ValueField
          still
          :model-value="view.far"
          label="Black at"
          :low="0.02"
          :high="10000"
          :step="0.1"
          unit="m"
          @change="
            value => {
              view.far = value as number
            }
          "
        />. Nothing is rendered again for it.
      </p>
    </div>
    <span class="grow" />
    <div class="panel">
      <p v-if="shot.stalePasses" class="warn">The scene changed since these passes were rendered.</p>
      <p v-if="failed" class="warn" role="alert">{{ failed }}</p>
      <template v-if="job"
        ><v-progress-linear :model-value="job.progress * 100" color="secondary" height="6" rounded />
        <div class="row">
          <span class="grow soft" data-test="render-progress"
            >{{ job.message ?? 'waiting' }} {{ timeLeft(job.secondsLeft) }}</span
          ><v-btn size="small" data-test="cancel-render" @click="jobs.cancel(job.id)">Cancel</v-btn>
        </div></template
      >
      <label v-if="moving && !job" class="row"
        ><input v-model="range" type="checkbox" data-test="render-range" /> all frames,
        {{ shot.document!.frames.first }} to {{ shot.document!.frames.last }}: each is kept when it is done</label
      >
      <v-btn
        v-if="!job"
        color="primary"
        variant="flat"
        block
        :disabled="!hasObjects(shot.document!) || !settings.selected.length"
        data-test="render"
        @click="render()"
        >Render {{ partly ? touched.length : settings.selected.length }} passes</v-btn
      >
      <p v-if="!job && partly" class="soft" data-test="partly">
        {{ touched.map(id => passOf(id)?.label).join(', ') }}: the
        {{ settings.selected.length - touched.length }} others still stand.
        <button class="word" data-test="render-all" @click="render(true)">render all again</button>
      </p>
      <p v-if="!hasObjects(shot.document!)" class="soft">There is no scene yet: bring one in at the station Scene.</p>
    </div>
  </div>
</template>

<style scoped>
.column {
  display: flex;
  flex-direction: column;
  min-height: 100%;
}
.tight {
  gap: 1px;
}
.pick {
  min-height: 22px;
  cursor: pointer;
}
.pick input {
  accent-color: var(--ink);
}
.small {
  font-size: 11px;
}
input[type='checkbox'] {
  accent-color: var(--ink);
}
details summary {
  cursor: pointer;
  font-size: 12.5px;
}
</style>
