<script setup lang="ts">
import { computed } from 'vue'

import { useJob } from '@/stores/job'
import { useThumbnails } from '@/stores/thumbnails'

export interface Cell {
  shot: string
  colourway: string
}

const props = defineProps<{ ticked: Cell[] }>()
const emit = defineEmits<{ open: [cell: Cell]; tick: [cells: Cell[]] }>()

const job = useJob()
const thumbnails = useThumbnails()
const ways = computed(() => [
  { key: '', name: 'as it is' },
  ...job.colourways.map((one) => ({ key: one.saved.key, name: one.saved.name })),
])
const pictured = computed(() => new Set(job.pictures.map((one) => `${one.shot_key}/${one.colourway_key}`)))
const isTicked = (shot: string, colourway: string) =>
  props.ticked.some((cell) => cell.shot === shot && cell.colourway === colourway)
const isOpen = (shot: string, colourway: string) =>
  job.shot?.saved.key === shot && (job.colourway?.saved.key ?? '') === colourway

function tick(cells: Cell[]): void {
  const all = cells.every((cell) => isTicked(cell.shot, cell.colourway))
  const others = props.ticked.filter(
    (cell) => !cells.some((c) => c.shot === cell.shot && c.colourway === cell.colourway),
  )
  emit('tick', all ? others : [...others, ...cells])
}
const rowOf = (shot: string) => ways.value.map((way) => ({ shot, colourway: way.key }))
const columnOf = (colourway: string) => job.shots.map((shot) => ({ shot: shot.saved.key, colourway }))
</script>

<template>
  <div class="grid-holder">
    <table aria-label="Shots and colourways">
      <thead v-if="ways.length > 1">
        <tr>
          <td />
          <th v-for="way in ways" :key="way.key" scope="col">
            <button type="button" :title="`Tick every shot in ${way.name}`" @click="tick(columnOf(way.key))">
              {{ way.name }}
            </button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="shot in job.shots" :key="shot.saved.id">
          <th scope="row">
            <button
              type="button"
              :title="`Tick ${shot.saved.name} in every colourway`"
              @click="tick(rowOf(shot.saved.key))"
            >
              {{ shot.saved.name }}
            </button>
            <small class="figures"
              >{{ shot.document.purposes[0]!.width_px }} × {{ shot.document.purposes[0]!.height_px }}</small
            >
          </th>
          <td
            v-for="way in ways"
            :key="way.key"
            :class="{ open: isOpen(shot.saved.key, way.key) }"
            :data-test="`cell-${shot.saved.key}-${way.key || 'as-it-is'}`"
          >
            <button
              type="button"
              class="see"
              :title="thumbnails.problem(shot.saved.key, way.key) || `${shot.saved.name}, ${way.name}`"
              :aria-label="`Go to ${shot.saved.name}, ${way.name}`"
              @click="emit('open', { shot: shot.saved.key, colourway: way.key })"
            >
              <img
                v-if="thumbnails.of(shot.saved, way.key)"
                :src="thumbnails.of(shot.saved, way.key)!.address"
                :class="{ stale: !thumbnails.of(shot.saved, way.key)!.fresh }"
                alt=""
              />
              <span v-else class="none">{{
                thumbnails.problem(shot.saved.key, way.key) ? 'cannot be taken' : ''
              }}</span>
            </button>
            <input
              type="checkbox"
              :checked="isTicked(shot.saved.key, way.key)"
              :aria-label="`Shoot ${shot.saved.name}, ${way.name}`"
              @change="tick([{ shot: shot.saved.key, colourway: way.key }])"
            />
            <span v-if="pictured.has(`${shot.saved.key}/${way.key}`)" class="taken" title="There is a picture of it"
              >✓</span
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.grid-holder {
  max-width: none;
  max-height: 46vh;
  overflow: auto;
  margin: 6px 0 4px;
}
table {
  border-collapse: separate;
  border-spacing: 6px 4px;
}
th {
  font-weight: 400;
  text-align: left;
  vertical-align: middle;
  max-width: 110px;
}
th button {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  font-size: 12.5px;
  text-align: left;
  cursor: pointer;
}
th button:hover {
  text-decoration: underline;
}
th small {
  display: block;
  font-size: 10.5px;
  color: #5c5a54;
}
td {
  position: relative;
  border-bottom: 3px solid transparent;
}
.open {
  border-color: var(--ribbon);
}
.see {
  display: block;
  border: 0;
  padding: 0;
  background: var(--grey);
  cursor: pointer;
}
.see img,
.none {
  display: block;
  height: 72px;
  min-width: 56px;
}
.none {
  width: 58px;
  font-size: 10.5px;
  color: #fff;
  padding-top: 22px;
}
.stale {
  opacity: 0.75;
}
td input {
  position: absolute;
  left: 3px;
  top: 3px;
  width: 16px;
  height: 16px;
  accent-color: var(--ribbon);
}
.taken {
  position: absolute;
  left: 3px;
  bottom: 3px;
  padding: 0 3px;
  font-size: 11px;
  background: var(--card);
  color: var(--fine);
}
</style>
