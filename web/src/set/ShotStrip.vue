<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, nextTick, ref } from 'vue'

import { wordsFor } from '@/api/client'
import { useJob } from '@/stores/job'
import { useThumbnails } from '@/stores/thumbnails'

const emit = defineEmits<{ open: [shot: string, colourway?: string] }>()

const job = useJob()
const thumbnails = useThumbnails()
const naming = ref(0)
const name = ref('')
const problem = ref('')
const field = ref<HTMLInputElement[]>([])
const current = computed(() => job.shot?.saved.id)
const lost = computed(() => job.removed.filter((row) => row.kind === 'shot'))

/** The newest thumbnail of a shot in the colourway that is open. */
const thumbnail = (shot: { id: number; key: string }) => thumbnails.of(shot, job.colourway?.saved.key ?? '')
async function act(work: () => Promise<unknown>): Promise<void> {
  problem.value = ''
  try {
    await work()
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
const add = () => act(async () => emit('open', await job.addRow('shots', { copy_of: current.value })))
function startNaming(shot: { id: number; name: string }): void {
  naming.value = shot.id
  name.value = shot.name
  void nextTick(() => field.value[0]?.select())
}
function rename(): void {
  const wanted = name.value.trim()
  if (!wanted || !naming.value) return
  void act(async () => {
    await job.renameRow('shots', naming.value, wanted)
    naming.value = 0
  })
}
async function remove(id: number): Promise<void> {
  const rest = job.shots.filter((shot) => shot.saved.id !== id)
  await act(async () => {
    await job.removeRow('shots', id)
    if (id === current.value || !rest.some((shot) => shot.saved.id === current.value)) {
      emit('open', rest[0]?.saved.key ?? '')
    }
  })
}
</script>

<template>
  <nav class="strip" aria-label="Shots of this job">
    <ol>
      <li
        v-for="(shot, index) in job.shots"
        :key="shot.saved.id"
        :class="{ chosen: shot.saved.id === current }"
        :data-test="`shot-${shot.saved.key}`"
      >
        <button
          type="button"
          class="open"
          :aria-current="shot.saved.id === current ? 'true' : undefined"
          :title="`${shot.saved.name} (Page Up, Page Down)`"
          @click="emit('open', shot.saved.key)"
        >
          <img
            v-if="thumbnail(shot.saved)"
            :src="thumbnail(shot.saved)!.address"
            :class="{ stale: !thumbnail(shot.saved)!.fresh }"
            alt=""
          />
          <span v-else class="none" />
        </button>
        <form v-if="naming === shot.saved.id" @submit.prevent="rename" @keydown.esc="naming = 0">
          <input ref="field" v-model="name" maxlength="120" aria-label="Name of the shot" @blur="naming = 0" />
        </form>
        <template v-else>
          <button type="button" class="name" title="Rename it" @click="startNaming(shot.saved)">
            {{ shot.saved.name }}
          </button>
          <span v-if="shot.saved.id === current && job.shots.length > 1" class="acts">
            <button
              type="button"
              :disabled="index === 0"
              :aria-label="`Move ${shot.saved.name} to the left`"
              @click="act(() => job.shiftRow('shots', shot.saved.id, -1))"
            >
              ‹
            </button>
            <button
              type="button"
              :disabled="index === job.shots.length - 1"
              :aria-label="`Move ${shot.saved.name} to the right`"
              @click="act(() => job.shiftRow('shots', shot.saved.id, 1))"
            >
              ›
            </button>
            <button type="button" :aria-label="`Take ${shot.saved.name} away`" @click="remove(shot.saved.id)">×</button>
          </span>
        </template>
      </li>
      <li class="more">
        <Button size="small" data-test="add-shot" title="A shot like this one, to be changed" @click="add"
          >Add a shot</Button
        >
        <button
          v-for="row in lost"
          :key="row.id"
          type="button"
          class="back"
          @click="act(() => job.fetchRowBack('shots', row.id))"
        >
          fetch “{{ row.name }}” back
        </button>
      </li>
    </ol>
    <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  </nav>
</template>

<style scoped>
.strip {
  display: flex;
  min-width: 0;
  height: 112px;
  border-top: 1.5px dashed #cfc6b3;
  background: var(--card);
}
ol {
  display: flex;
  gap: 10px;
  margin: 0;
  padding: 6px 12px;
  list-style: none;
  overflow: auto hidden;
  scrollbar-width: thin;
}
li {
  display: grid;
  grid-template: 68px 20px / auto;
  justify-items: center;
  flex: none;
  border-bottom: 3px solid transparent;
}
.chosen {
  border-color: var(--ribbon);
}
button {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  font-size: 12px;
  color: var(--ink);
  cursor: pointer;
}
.open {
  height: 68px;
  min-width: 54px;
  background: var(--grey);
}
.open img,
.none {
  display: block;
  height: 68px;
  min-width: 54px;
}
.stale {
  opacity: 0.75;
}
li:not(.more) {
  grid-template-columns: auto auto;
}
li:not(.more) .open,
form {
  grid-column: 1 / -1;
}
.name {
  max-width: 130px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  line-height: 20px;
}
.acts {
  display: flex;
  gap: 5px;
  padding-left: 6px;
}
.acts button {
  font-size: 14px;
  line-height: 20px;
}
.acts button:disabled {
  color: #b6b3aa;
}
form input {
  width: 110px;
  font: inherit;
  font-size: 12px;
}
.more {
  align-content: center;
  grid-template: auto / auto;
}
.back {
  text-decoration: underline;
  color: #5c5a54;
}
.refused {
  align-self: center;
}
</style>
