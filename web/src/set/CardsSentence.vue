<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { StudioCard, Surround } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { anotherCard } from './surrounds'

/** Light cards around the set, and what is between them. */
type Studio = Extract<Surround, { kind: 'studio' }>
const props = defineProps<{ studio: Studio; chosen: number }>()
const emit = defineEmits<{
  put: [fields: Partial<Studio>]
  change: [change: (surround: Surround) => void]
  choose: [card: number]
}>()

const MOST_CARDS = 24
const cards = computed<StudioCard[]>(() => props.studio.cards ?? [])
const its = computed(() => cards.value[props.chosen])
const put = (fields: Partial<Studio>) => emit('put', fields)
const editCards = (how: (cards: StudioCard[]) => void) =>
  emit('change', (s) => {
    if (s.kind === 'studio') how((s.cards ??= []))
  })
function addCard(): void {
  emit('choose', cards.value.length)
  editCards((all) => all.push(anotherCard(all)))
}
function dropCard(): void {
  editCards((all) => all.splice(props.chosen, 1))
  emit('choose', Math.max(props.chosen - 1, 0))
}
const onCard = (fields: Partial<StudioCard>) => editCards((all) => Object.assign(all[props.chosen]!, fields))
</script>

<template>
  <p class="sentence">
    Between the cards it is
    <QuantityInput
      label="Between the cards"
      unit="%"
      :value="(studio.base ?? 0) * 100"
      :min="0"
      :max="1000"
      :digits="1"
      @change="(v) => put({ base: v / 100 })"
    />
    of paper white.
    <Button size="small" :disabled="cards.length >= MOST_CARDS" data-test="add-card" @click="addCard"
      >Add a card</Button
    >
  </p>
  <p v-if="its" class="sentence" data-test="card-is">
    <strong>{{ its.name }}</strong> is
    <QuantityInput
      label="Card width"
      unit="°"
      :value="its.width"
      :min="1"
      :max="170"
      @change="(v) => onCard({ width: v })"
    />
    wide and
    <QuantityInput
      label="Card height"
      unit="°"
      :value="its.height"
      :min="1"
      :max="170"
      @change="(v) => onCard({ height: v })"
    />
    tall, at
    <QuantityInput
      label="Card azimuth"
      unit="°"
      :value="its.azimuth"
      :min="-180"
      :max="180"
      @change="(v) => onCard({ azimuth: v })"
    />
    from the camera and
    <QuantityInput
      label="Card elevation"
      unit="°"
      :value="its.elevation"
      :min="-90"
      :max="90"
      @change="(v) => onCard({ elevation: v })"
    />
    up, as bright as
    <QuantityInput
      label="Card brightness"
      unit="%"
      :value="(its.radiance ?? 1) * 100"
      :min="0"
      :max="10000"
      :step="10"
      :digits="0"
      @change="(v) => onCard({ radiance: v / 100 })"
    />
    of paper, soft over
    <QuantityInput
      label="Card softness"
      unit="%"
      :value="(its.soft ?? 0) * 100"
      :min="0"
      :max="100"
      :step="10"
      :digits="0"
      @change="(v) => onCard({ soft: v / 100 })"
    />
    of its half.
    <Button size="small" data-test="drop-card" @click="dropCard">Take it away</Button>
  </p>
</template>
