<script setup lang="ts">
import { Button } from 'ant-design-vue'

import type { Pack, Received } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { renamePart } from '@/form/materials'
import ReceivedParts from './ReceivedParts.vue'

/** Models that were added to a pack: where they stand, and their parts. */
const props = defineProps<{
  pack: Pack
  selected: string
  badPlace: string
  edit: (change: (document: Pack) => void) => void
}>()
const emit = defineEmits<{ select: [part: string] }>()

const WAYS = [
  { field: 'x', words: 'right', unit: 'mm', step: 5 },
  { field: 'y', words: 'back', unit: 'mm', step: 5 },
  { field: 'z', words: 'up', unit: 'mm', step: 5 },
  { field: 'turn', words: 'turned', unit: '°', step: 15 },
] as const
const LIMITS = { mm: 2000, '°': 360 }
const locked = (name: string) => Boolean(props.pack.parts?.[name]?.locked)
const editModel = (index: number) => (change: (received: Received) => void) =>
  props.edit((d) => change(d.added[index]!.received))
</script>

<template>
  <details v-for="(addition, index) in pack.added ?? []" :key="index" :data-test="`added-${index}`">
    <summary>{{ addition.received.file || 'An added model' }}</summary>
    <p class="ways">
      <span v-for="way in WAYS" :key="way.field">
        <QuantityInput
          :label="`${addition.received.file} ${way.words}`"
          :unit="way.unit"
          :value="addition[way.field] ?? 0"
          :min="-LIMITS[way.unit]"
          :max="LIMITS[way.unit]"
          :step="way.step"
          @change="(v) => edit((d) => (d.added[index]![way.field] = v))"
        />
        {{ way.words }}
      </span>
    </p>
    <ReceivedParts
      :received="addition.received"
      :open="{}"
      :selected="selected"
      :bad-place="badPlace"
      :locked="locked"
      :edit="editModel(index)"
      @select="emit('select', $event)"
      @rename="(from, to) => edit((d) => renamePart(d, from, to))"
    />
    <Button size="small" data-test="take-model-away" @click="edit((d) => d.added.splice(index, 1))"
      >Take it away</Button
    >
  </details>
</template>

<style scoped>
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  font-size: 13px;
}
</style>
