<script setup lang="ts">
// Between which distances the mist of the mist pass rises.
import { MIST } from '../../core/render/passes'
import { useShot } from '~/stores/shot'

const shot = useShot()
const mist = computed(() => shot.document!.passes.mist ?? MIST)
</script>

<template>
  <div class="panel">
    <p>
      Mist rises from
      <ValueField
        still
        :model-value="mist.near"
        label="Mist begins"
        :low="0"
        :high="100000"
        :step="0.05"
        unit="m"
        :neutral="MIST.near"
        data-test="mist-near"
        @change="
          (value, live) =>
            shot.change(
              'Mist',
              document => {
                document.passes.mist = { ...mist, near: value as number }
              },
              live,
            )
        "
      />
      to
      <ValueField
        still
        :model-value="mist.far"
        label="Mist is full"
        :low="0"
        :high="100000"
        :step="0.1"
        unit="m"
        :neutral="MIST.far"
        @change="
          (value, live) =>
            shot.change(
              'Mist',
              document => {
                document.passes.mist = { ...mist, far: value as number }
              },
              live,
            )
        "
      />.
    </p>
  </div>
</template>
