<script setup lang="ts">
defineProps<{ step: number; scale: number; origin: { x: number; y: number } }>()
</script>

<template>
  <defs>
    <pattern
      id="mat-fine"
      :width="step * scale"
      :height="step * scale"
      patternUnits="userSpaceOnUse"
      :x="origin.x"
      :y="origin.y"
    >
      <path :d="`M0 0H${step * scale}M0 0V${step * scale}`" stroke="#d3dbd5" fill="none" />
    </pattern>
    <pattern
      id="mat-bold"
      :width="10 * step * scale"
      :height="10 * step * scale"
      patternUnits="userSpaceOnUse"
      :x="origin.x"
      :y="origin.y"
    >
      <path :d="`M0 0H${10 * step * scale}M0 0V${10 * step * scale}`" stroke="#b7c4bc" fill="none" />
    </pattern>
  </defs>
  <rect width="100%" height="100%" fill="url(#mat-fine)" />
  <rect width="100%" height="100%" fill="url(#mat-bold)" />
</template>
