<script setup lang="ts" generic="T extends BrandColour">
import type { BrandColour } from '@/api/client'

/** Colours by name, to choose and to take away. `away` says out of what. */
defineProps<{ colours: T[]; group: string; away: string }>()
defineEmits<{ change: [colour: T]; away: [colour: T] }>()
</script>

<template>
  <ul v-if="colours.length" class="brand">
    <li v-for="one in colours" :key="one.name">
      <button
        type="button"
        :title="`${one.hex}${one.spot ? ` · ${one.spot}` : ''}`"
        :data-test="`${group}-${one.name}`"
        @click="$emit('change', one)"
      >
        <i class="chip" :style="{ background: one.hex }" />{{ one.name }}
      </button>
      <button type="button" class="away" :aria-label="`Take ${one.name} ${away}`" @click="$emit('away', one)">✕</button>
    </li>
  </ul>
</template>

<style scoped>
.brand {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 8px;
  max-height: 120px;
  overflow-y: auto;
  margin: 0 0 6px;
  padding: 0;
  list-style: none;
}
.brand li {
  display: flex;
  min-width: 0;
}
.brand button {
  display: flex;
  gap: 5px;
  align-items: center;
  min-width: 0;
  overflow: hidden;
  border: 0;
  background: none;
  padding: 1px;
  font: inherit;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}
.brand .away {
  margin-left: auto;
  color: #97213a;
}
.chip {
  display: inline-block;
  flex: none;
  width: 18px;
  height: 18px;
  border: 1px solid var(--kraft);
  vertical-align: middle;
}
</style>
