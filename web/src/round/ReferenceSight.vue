<script setup lang="ts">
/** Pictures to work towards over what the camera sees: through it, under it, or as far as a wipe goes. */
defineProps<{ shown: { src: string; name: string; lies: string; strength: number }[] }>()
const emit = defineEmits<{ wipe: [index: number, strength: number] }>()

function style(one: { lies: string; strength: number }) {
  if (one.lies === 'wipe') return { clipPath: `inset(0 ${100 - 100 * one.strength}% 0 0)` }
  return { opacity: one.lies === 'under' ? 1 - one.strength : one.strength }
}
</script>

<template>
  <template v-for="(one, index) in shown" :key="index">
    <img class="reference" :src="one.src" :alt="`To work towards: ${one.name}`" :style="style(one)" draggable="false" />
    <input
      v-if="one.lies === 'wipe'"
      class="wipe"
      type="range"
      min="0"
      max="100"
      :value="100 * one.strength"
      :aria-label="`How much is seen of ${one.name}`"
      data-test="reference-wipe"
      @pointerdown.stop
      @pointermove.stop
      @keydown.stop
      @input="(event) => emit('wipe', index, Number((event.target as HTMLInputElement).value) / 100)"
    />
  </template>
</template>

<style scoped>
.reference {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: cover;
  pointer-events: none;
}
.wipe {
  position: absolute;
  left: 8px;
  right: 8px;
  bottom: 8px;
  width: calc(100% - 16px);
}
</style>
