<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { onClickOutside } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api, type Job, wordsFor } from '@/api/client'
import ModelButton from '@/received/ModelButton.vue'
import { useJob } from '@/stores/job'

const emit = defineEmits<{ open: [key: string, fresh: boolean] }>()

const job = useJob()
const router = useRouter()
const route = useRoute()
const holder = ref<HTMLElement>()
const unfolded = ref(false)
const naming = ref(0)
const name = ref('')
const problem = ref('')
const busy = ref(false)
const jobs = ref<Job[]>([])
const theirs = ref<{ id: number; name: string; revision: number }[]>([])
const shots = computed(() => job.shotsOf('packs', current.value.key))
const current = computed(() => job.pack!.saved)
const lost = computed(() => job.removed.filter((row) => row.kind === 'pack'))
/** A drawing of a pack as it was saved last. */
const picture = (pack: { id: number; revision: number }) => `/api/packs/${pack.id}/picture.svg?at=${pack.revision}`

onClickOutside(holder, fold)

function fold(): void {
  jobs.value = []
  theirs.value = []
  unfolded.value = false
  naming.value = 0
  problem.value = ''
}
function choose(key: string, fresh = false): void {
  fold()
  emit('open', key, fresh)
}
/** Do something with the job's packs, and say what is in its way. */
async function act(work: () => Promise<unknown>): Promise<void> {
  if (busy.value) return
  busy.value = true
  problem.value = ''
  try {
    await work()
  } catch (error) {
    problem.value = wordsFor(error)
  }
  busy.value = false
}
const box = (id: number) => act(async () => choose(await job.addRow('packs', { carton_for: id })))
const copy = (id: number) => act(async () => choose(await job.addRow('packs', { copy_of: id })))
/** Other jobs, to copy a pack from. */
const look = () =>
  act(async () => (jobs.value = (await answer(api.GET('/api/jobs'))).filter((j) => j.slug !== job.slug)))
const lookInto = (slug: string) =>
  act(async () => (theirs.value = (await answer(api.GET('/api/jobs/{slug}', { params: { path: { slug } } }))).packs))
/** The model that is being read shows at Form. */
function readModel(): void {
  fold()
  void router.push({ path: `/jobs/${job.slug}/form`, query: route.query })
}
const begin = () => act(async () => choose(await job.addRow('packs', { start: 'cylinder' }), true))
function rename(id: number): void {
  const wanted = name.value.trim()
  if (!wanted) return
  void act(async () => {
    await job.renameRow('packs', id, wanted)
    naming.value = 0
  })
}
function startNaming(pack: { id: number; name: string }): void {
  naming.value = pack.id
  name.value = pack.name
}
</script>

<template>
  <div ref="holder" class="switch" @keydown.esc="fold">
    <button
      type="button"
      class="current"
      :aria-expanded="unfolded"
      title="The packs of this job (Page Up, Page Down)"
      data-test="pack-switch"
      @click="unfolded = !unfolded"
    >
      <img :src="picture(current)" alt="" />
      <span>{{ current.name }}</span>
      <small v-if="job.packs.length > 1">{{ job.packs.indexOf(job.pack!) + 1 }} of {{ job.packs.length }}</small>
    </button>
    <div v-if="unfolded" class="sheet" role="region" aria-label="Packs of this job">
      <ul>
        <li v-for="(pack, index) in job.packs" :key="pack.saved.id" :class="{ chosen: pack === job.pack }">
          <form v-if="naming === pack.saved.id" class="naming" @submit.prevent="rename(pack.saved.id)">
            <input v-model="name" maxlength="120" aria-label="Name of the pack" data-test="pack-name" />
            <Button size="small" html-type="submit" type="primary">Call it that</Button>
          </form>
          <template v-else>
            <button type="button" class="open" :data-test="`pack-${pack.saved.key}`" @click="choose(pack.saved.key)">
              <img :src="picture(pack.saved)" alt="" />
              <span>{{ pack.saved.name }}</span>
            </button>
            <span class="acts">
              <button type="button" :aria-label="`Rename ${pack.saved.name}`" @click="startNaming(pack.saved)">
                rename
              </button>
              <button type="button" :aria-label="`Copy ${pack.saved.name}`" @click="copy(pack.saved.id)">copy</button>
              <button
                type="button"
                :aria-label="`A carton for ${pack.saved.name}`"
                title="Add a carton that it goes into"
                :data-test="`box-${pack.saved.key}`"
                @click="box(pack.saved.id)"
              >
                box it
              </button>
              <button
                type="button"
                :disabled="index === 0"
                :aria-label="`Move ${pack.saved.name} up`"
                @click="act(() => job.shiftRow('packs', pack.saved.id, -1))"
              >
                up
              </button>
              <button
                type="button"
                :disabled="index === job.packs.length - 1"
                :aria-label="`Move ${pack.saved.name} down`"
                @click="act(() => job.shiftRow('packs', pack.saved.id, 1))"
              >
                down
              </button>
              <button
                type="button"
                :disabled="job.packs.length < 2"
                :aria-label="`Take ${pack.saved.name} away`"
                @click="act(() => job.removeRow('packs', pack.saved.id))"
              >
                take away
              </button>
            </span>
          </template>
        </li>
      </ul>
      <p v-if="problem" class="refused" role="alert" data-test="pack-problem">{{ problem }}</p>
      <div class="foot">
        <Button size="small" type="primary" :loading="busy" data-test="add-pack" @click="begin">Add a pack …</Button>
        <ModelButton class="model" @chosen="readModel" />
        <Button v-if="!jobs.length" size="small" data-test="other-jobs" @click="look">From another job …</Button>
        <select
          v-else
          aria-label="Job to copy from"
          data-test="which-job"
          @change="lookInto(($event.target as HTMLSelectElement).value)"
        >
          <option value="">choose a job</option>
          <option v-for="one in jobs" :key="one.slug" :value="one.slug">{{ one.name }}</option>
        </select>
      </div>
      <ul v-if="theirs.length" aria-label="Packs of that job">
        <li v-for="one in theirs" :key="one.id">
          <button type="button" class="open" :data-test="`take-${one.id}`" @click="copy(one.id)">
            <img :src="picture(one)" alt="" />
            <span>Copy {{ one.name }}</span>
          </button>
        </li>
      </ul>
      <p v-if="shots.length" class="hint" data-test="pack-shots">
        {{ current.name }} stands in {{ shots.join(', ') }}: what changes on it changes there.
      </p>
      <ul v-if="lost.length" class="lost" aria-label="Taken away">
        <li v-for="row in lost" :key="row.id">
          <span>{{ row.name }}</span>
          <button
            type="button"
            :aria-label="`Fetch ${row.name} back`"
            @click="act(() => job.fetchRowBack('packs', row.id))"
          >
            fetch back
          </button>
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.switch {
  position: relative;
}
.model {
  height: 24px;
  padding: 0 7px;
  border: 1px solid #cfc6b3;
  background: #fffdf8;
  font: inherit;
  font-size: 14px;
  white-space: nowrap;
  cursor: pointer;
}
.model:hover,
.model:focus-visible {
  border-color: var(--ribbon);
}
.current {
  display: flex;
  align-items: center;
  gap: 7px;
  max-width: 300px;
  height: 34px;
  padding: 0 9px 0 4px;
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  font: inherit;
  color: var(--ink);
  cursor: pointer;
}
.current span,
.open span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.current small {
  color: #5c5a54;
  white-space: nowrap;
}
.current img,
.open img {
  width: 26px;
  height: 30px;
  object-fit: contain;
}
.sheet {
  position: absolute;
  z-index: 30;
  top: 39px;
  left: 0;
  width: 430px;
  max-height: 70vh;
  overflow: auto;
  padding: 8px 12px 10px;
  background: var(--card);
  border: 1.5px dashed #cfc6b3;
  box-shadow: 0 8px 22px #0003;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  border-left: 3px solid transparent;
  padding: 2px 0 2px 6px;
}
.chosen {
  border-color: var(--ribbon);
}
.open {
  flex: 1;
  min-width: 0;
  display: flex;
  align-items: center;
  gap: 8px;
  border: 0;
  background: none;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.acts {
  display: flex;
  gap: 6px;
  font-size: 12px;
}
.acts button,
.lost button {
  border: 0;
  background: none;
  padding: 2px 1px;
  font: inherit;
  font-size: 12px;
  color: #5c5a54;
  text-decoration: underline;
  cursor: pointer;
}
.acts button:disabled {
  color: #b6b3aa;
  text-decoration: none;
  cursor: default;
}
.naming {
  flex: 1;
  gap: 8px;
}
.naming input {
  padding: 2px 6px;
}
.foot {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-top: 8px;
}
.lost {
  margin-top: 8px;
  border-top: 1.5px dashed #cfc6b3;
  padding-top: 6px;
  color: #5c5a54;
}
.lost li {
  justify-content: space-between;
}
</style>
