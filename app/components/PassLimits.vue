<script setup lang="ts">
// Most samples that kinds of passes get, where that is fewer than all.
import { useShot } from '~/stores/shot'

const shot = useShot()
const LIMITS = [
  { id: 'light', label: 'light' },
  { id: 'shadow', label: 'shadow' },
  { id: 'occlusion', label: 'occlusion' },
  { id: 'beyond', label: 'glass and mirrors' },
] as const
const limit = (id: (typeof LIMITS)[number]['id'], value: number, live: boolean): void =>
  shot.change(
    'Samples of some passes',
    document => {
      const limits = { ...document.passes.limits }
      if (value > 0) limits[id] = Math.round(value)
      else delete limits[id]
      if (Object.keys(limits).length) document.passes.limits = limits
      else delete document.passes.limits
    },
    live,
  )
</script>

<template>
  <template v-for="kind in LIMITS" :key="kind.id"
    ><ValueField
      still
      :model-value="shot.document!.passes.limits?.[kind.id] ?? 0"
      :label="`Samples of ${kind.label}`"
      help="0: as many as all."
      :low="0"
      :high="4096"
      :step="0.5"
      :digits="0"
      :neutral="0"
      :data-test="`limit-${kind.id}`"
      @change="(value, live) => limit(kind.id, value as number, live)"
    />
    for {{ kind.label }}{{ kind.id === 'beyond' ? '' : ', ' }}</template
  >
</template>
