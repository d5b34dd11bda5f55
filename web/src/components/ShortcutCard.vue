<script setup lang="ts">
import { Popover } from 'ant-design-vue'
import { onBeforeUnmount, onMounted, ref } from 'vue'

import type { Station } from '@/router'

defineProps<{ station: Station }>()

const open = ref(false)
const everywhere = [
  ['Ctrl + Z', 'undo'],
  ['Ctrl + Shift + Z', 'redo'],
  ['Tab', 'go to the next corner, artwork, light or value'],
  ['↑ ↓ in a value', 'a step more or less; with Shift ten'],
  ['?', 'this card'],
]
const here: Record<Station, string[][]> = {
  form: [
    ['← → ↑ ↓ on a corner', 'move it 0.5 mm; with Shift 5 mm, with Alt 0.1 mm'],
    ['Insert, Delete on a corner', 'add one after it, take it away'],
    ['Shift while dragging', 'snap to 0.1 mm'],
    ['Alt while dragging', 'leave other corners alone'],
  ],
  wrap: [
    ['← → ↑ ↓ on artwork', 'move it 0.5 mm; with Shift 5 mm'],
    ['Shift while dragging', 'snap to 0.1 mm'],
  ],
  set: [
    ['← → on a light', 'turn it 1°; with Shift 10°'],
    ['↑ ↓ on a light', '10 mm away or closer'],
    ['← → ↑ ↓ on the picture', 'walk around, rise and sink'],
  ],
  shoot: [],
  show: [],
}

function pressed(event: KeyboardEvent): void {
  const typing = event.target instanceof HTMLInputElement
  if (event.key === '?' && !typing) open.value = !open.value
  else if (event.key === 'Escape') open.value = false
}
onMounted(() => addEventListener('keydown', pressed))
onBeforeUnmount(() => removeEventListener('keydown', pressed))
</script>

<template>
  <Popover v-model:open="open" trigger="click" placement="bottomRight" title="Keys">
    <template #content>
      <dl class="keys">
        <template v-for="[key, what] in [...here[station], ...everywhere]" :key="key">
          <dt>{{ key }}</dt>
          <dd>{{ what }}</dd>
        </template>
      </dl>
    </template>
    <button class="ask" aria-label="? Keys" title="Keys (?)">?</button>
  </Popover>
</template>

<style scoped>
.ask {
  width: 22px;
  height: 22px;
  border: 1.5px solid var(--kraft);
  border-radius: 50%;
  background: none;
  cursor: pointer;
  font-weight: 600;
}
.keys {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 14px;
  margin: 0;
  max-width: 380px;
}
.keys dt {
  font-weight: 600;
  white-space: nowrap;
}
.keys dd {
  margin: 0;
}
</style>
