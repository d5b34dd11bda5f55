<script setup lang="ts">
import type { Lines } from '@/composables/sight'

/** Lines over a picture. */
defineProps<{ shown: Lines[] }>()
</script>

<template>
  <svg class="lines" viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true" data-test="frame-lines">
    <path v-if="shown.includes('thirds')" d="M33.33 0V100M66.67 0V100M0 33.33H100M0 66.67H100" />
    <path v-if="shown.includes('middle')" d="M50 0V100M0 50H100" />
    <template v-if="shown.includes('safe')">
      <rect x="5" y="5" width="90" height="90" />
      <rect x="10" y="10" width="80" height="80" />
    </template>
    <rect v-if="shown.includes('text')" class="text" x="0" y="0" width="100" height="20" />
    <rect v-if="shown.includes('text')" class="text" x="0" y="85" width="100" height="15" />
  </svg>
</template>

<style scoped>
.lines {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.lines path,
.lines rect {
  fill: none;
  stroke: #fff;
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
  mix-blend-mode: difference;
}
.lines .text {
  fill: #ffffff26;
  stroke-dasharray: 4 3;
}
</style>
