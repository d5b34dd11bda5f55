<script setup lang="ts">
import type { Pack } from '@/api/client'
import type { Draft } from '@/stores/documents'

defineProps<{ packs: Draft<Pack>[] }>()
const emit = defineEmits<{ stand: [pack: string]; props: [] }>()

/** A drawing of a pack as it was saved last. */
const picture = (pack: { id: number; revision: number }) => `/api/packs/${pack.id}/picture.svg?at=${pack.revision}`
function lift(event: DragEvent, key: string): void {
  event.dataTransfer?.setData('text/plain', `pack:${key}`)
}
</script>

<template>
  <div class="tray" role="group" aria-label="Packs of this job: drag one on the floor">
    <button
      v-for="pack in packs"
      :key="pack.saved.id"
      type="button"
      draggable="true"
      :title="`${pack.saved.name}: drag it on the floor, or click to stand it beside the others`"
      :aria-label="`Stand ${pack.saved.name} on the set`"
      :data-test="`tray-${pack.saved.key}`"
      @dragstart="lift($event, pack.saved.key)"
      @click="emit('stand', pack.saved.key)"
    >
      <img :src="picture(pack.saved)" alt="" draggable="false" />
    </button>
    <button type="button" class="props" data-test="open-props" @click="emit('props')">Props …</button>
  </div>
</template>

<style scoped>
.tray {
  position: absolute;
  left: 10px;
  top: 10px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  max-width: calc(100% - 20px);
  max-height: 45%;
  overflow-y: auto;
}
button {
  width: 44px;
  height: 54px;
  padding: 3px;
  border: 1px solid #cfc6b3;
  background: var(--card);
  cursor: grab;
}
.props {
  width: auto;
  height: auto;
  align-self: flex-end;
  padding: 3px 8px;
  font: inherit;
  font-size: 13px;
  cursor: pointer;
}
button:hover,
button:focus-visible {
  border-color: var(--ribbon);
}
img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
</style>
