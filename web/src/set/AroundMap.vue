<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'

import type { StudioCard, Surround } from '@/api/client'
import { around, fromMap, onMap, type Uneven } from './surrounds'

/** What is all around as a flat map, straight behind in its middle. A drag turns it; light cards are moved. */
const props = defineProps<{ surround: Uneven; picture: string; chosen: number }>()
const emit = defineEmits<{
  change: [change: (surround: Surround) => void]
  choose: [card: number]
}>()

const map = useTemplateRef<HTMLElement>('map')
const cards = computed<StudioCard[]>(() => (props.surround.kind === 'studio' ? (props.surround.cards ?? []) : []))
const turn = computed(() => props.surround.turn ?? 0)
/** Where a card is drawn, per cent of the map; twice, as it goes on beyond its edges. */
function boxes(card: StudioCard): { left: string; top: string; width: string; height: string }[] {
  const [x, y] = onMap(card.azimuth, card.elevation)
  const shown = (x + turn.value / 360 + 2) % 1
  const wide = Math.min(card.width / Math.max(Math.cos((card.elevation * Math.PI) / 180), 0.2), 340) / 360
  const high = card.height / 180
  return [-1, 0, 1].map((over) => ({
    left: `${(shown + over - wide / 2) * 100}%`,
    top: `${(y - high / 2) * 100}%`,
    width: `${wide * 100}%`,
    height: `${high * 100}%`,
  }))
}
let held: { x: number; y: number; card: number; from: [number, number]; turn: number } | null = null
const holding = ref(false)
function press(event: PointerEvent, card = -1): void {
  const its = cards.value[card]
  if (its) emit('choose', card)
  const from: [number, number] = its ? onMap(its.azimuth, its.elevation) : [0, 0]
  held = { x: event.clientX, y: event.clientY, card, from, turn: turn.value }
  holding.value = true
  map.value!.setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  if (!held) return
  const frame = map.value!.getBoundingClientRect()
  const across = (event.clientX - held.x) / frame.width
  const down = (event.clientY - held.y) / frame.height
  const { card, from, turn: began } = held
  if (card < 0) emit('change', (s) => s.kind !== 'even' && (s.turn = around(began + across * 360)))
  else {
    const [azimuth, elevation] = fromMap(from[0] + across, from[1] + down)
    emit('change', (s) => s.kind === 'studio' && Object.assign(s.cards![card]!, { azimuth, elevation }))
  }
}
function letGo(): void {
  held = null
  holding.value = false
}
function step(event: KeyboardEvent): void {
  const by = { ArrowLeft: -5, ArrowRight: 5 }[event.key]
  if (!by) return
  event.preventDefault()
  emit('change', (s) => s.kind !== 'even' && (s.turn = around(turn.value + by)))
}
</script>

<template>
  <div
    ref="map"
    class="map"
    :class="{ holding }"
    tabindex="0"
    role="slider"
    aria-label="Turn of what is all around"
    :aria-valuenow="turn"
    aria-valuemin="-180"
    aria-valuemax="180"
    data-test="around-map"
    @pointerdown="press"
    @pointermove="drag"
    @pointerup="letGo"
    @pointercancel="letGo"
    @keydown="step"
  >
    <div class="picture" :style="{ backgroundImage: `url(${picture})`, left: `${(turn / 360 - 1) * 100}%` }" />
    <span class="middle" aria-hidden="true">behind</span>
    <template v-for="(card, index) in cards" :key="index">
      <div
        v-for="(box, n) in boxes(card)"
        :key="n"
        class="card"
        :class="{ chosen: index === chosen }"
        :style="box"
        :title="card.name"
        :data-test="n === 1 ? `map-card-${index}` : undefined"
        @pointerdown.stop="press($event, index)"
      />
    </template>
  </div>
</template>

<style scoped>
.map {
  position: relative;
  width: 100%;
  aspect-ratio: 2;
  margin: 6px 0;
  overflow: hidden;
  cursor: ew-resize;
  touch-action: none;
}
.map.holding {
  cursor: grabbing;
}
.picture {
  position: absolute;
  inset: 0 auto 0 auto;
  width: 300%;
  background-size: 33.333% 100%;
  pointer-events: none;
}
.middle {
  position: absolute;
  left: 50%;
  bottom: 0;
  padding: 0 4px;
  transform: translateX(-50%);
  font-size: 11px;
  color: #fff;
  background: #22262bb0;
  pointer-events: none;
}
.card {
  position: absolute;
  outline: 1px dashed #ffffffb0;
  cursor: move;
}
.card.chosen {
  outline: 2px solid var(--ribbon);
}
</style>
