<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type StartingPoint, wordsFor } from '@/api/client'

const emit = defineEmits<{ take: [point: StartingPoint]; cancel: [] }>()

const points = ref<StartingPoint[]>([])
const problem = ref('')
const kind = ref('all')
const search = ref('')
const volume = ref('any')
const VOLUMES: Record<string, [string, number, number]> = {
  any: ['any volume', 0, Infinity],
  small: ['up to 60 ml', 0, 60],
  middle: ['60 to 200 ml', 60, 200],
  large: ['200 to 400 ml', 200, 400],
  largest: ['400 ml and more', 400, Infinity],
}
answer(api.GET('/api/starting-points')).then(
  (found) => (points.value = found as StartingPoint[]),
  (error) => (problem.value = wordsFor(error)),
)
/** What it holds, or the inside of a carton. */
function sizeOf({ pack, volume_ml }: StartingPoint): string {
  const form = pack.form
  return form.kind === 'carton' ? `${form.length} × ${form.width} × ${form.depth} mm` : `${volume_ml} ml`
}
const kinds = computed(() => ['all', ...new Set(points.value.map((p) => p.kind))])
const shown = computed(() =>
  points.value.filter((p) => {
    const [, low, high] = VOLUMES[volume.value]!
    const words = `${p.title} ${p.kind} ${sizeOf(p)}`.toLowerCase()
    return (
      (kind.value === 'all' || p.kind === kind.value) &&
      ((p.volume_ml >= low && p.volume_ml <= high) || volume.value === 'any') &&
      search.value
        .toLowerCase()
        .split(/\s+/)
        .every((w) => words.includes(w))
    )
  }),
)
</script>

<template>
  <div class="gallery" role="region" aria-label="Packs to start from">
    <div class="find">
      <h2>Start from …</h2>
      <input v-model="search" type="search" placeholder="name or volume" aria-label="Find a pack by name or volume" />
      <select v-model="kind" aria-label="Kind of pack">
        <option v-for="k in kinds" :key="k" :value="k">{{ k === 'all' ? 'every kind' : k }}</option>
      </select>
      <select v-model="volume" aria-label="Volume of the pack">
        <option v-for="(v, key) in VOLUMES" :key="key" :value="key">{{ v[0] }}</option>
      </select>
      <Button size="small" @click="emit('cancel')">Leave it</Button>
    </div>
    <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
    <ul>
      <li v-for="point in shown" :key="point.slug">
        <button type="button" :data-test="`start-${point.slug}`" @click="emit('take', point)">
          <img :src="`/api/starting-points/${point.slug}.svg`" alt="" loading="lazy" />
          <b>{{ point.title }}</b>
          <span class="figures">{{ sizeOf(point) }}</span>
        </button>
      </li>
    </ul>
    <p v-if="points.length && !shown.length" class="hint none">Nothing fits. Try another kind or volume.</p>
  </div>
</template>

<style scoped>
.gallery {
  position: absolute;
  inset: 0;
  background: var(--card);
  z-index: 4;
  display: flex;
  flex-direction: column;
}
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  padding: 12px 16px;
  border-bottom: 1.5px dashed #cfc6b3;
}
.find h2 {
  margin: 0;
  flex-basis: 100%;
}
.find input,
.find select {
  height: 26px;
  padding: 0 6px;
}
.find input {
  width: 150px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 14px;
  overflow-y: auto;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(112px, 1fr));
  gap: 12px;
}
li button {
  width: 100%;
  display: grid;
  gap: 3px;
  justify-items: center;
  padding: 10px 6px;
  border: 1px solid #ddd4c0;
  background: #fffdf8;
  font: inherit;
  font-size: 12.5px;
  color: var(--ink);
  cursor: pointer;
  text-align: center;
}
li button:hover,
li button:focus-visible {
  border-color: var(--ribbon);
}
img {
  height: 120px;
  width: 100%;
  object-fit: contain;
}
.none {
  padding: 0 16px;
}
</style>
