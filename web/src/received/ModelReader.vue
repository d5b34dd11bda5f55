<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api, AS_IT_IS, type Pack, type ReceivedPack, type ReceivedShape, wordsFor } from '@/api/client'
import { showNumber } from '@/composables/quantity'
import Elevations from '@/flat/Elevations.vue'
import { useJob } from '@/stores/job'
import { useReading } from '@/stores/reading'
import { toldApart } from '@/form/materials'
import { useArranging } from '@/set/arranging'
import UnitAndUp from './UnitAndUp.vue'

/** A model that is being read: how far it is, what was found, and what becomes of it. */
const job = useJob()
const reading = useReading()
const router = useRouter()
const route = useRoute()
const { arrange } = useArranging()
const shape = ref<ReceivedShape | null>(null)
const problem = ref('')
const busy = ref(false)
/** Seconds since all of it was sent. */
const waited = ref(0)
useIntervalFn(() => (waited.value = reading.sent < 1 ? 0 : waited.value + 1), 1000)
const model = computed(() => reading.read?.received ?? null)
const draft = computed(() => job.pack!)
const replaces = computed(() => draft.value.document.form.kind === 'received')

watch(
  model,
  async (received) => {
    shape.value = null
    problem.value = ''
    if (!received) return
    try {
      const palette = { ...job.palette, entries: { ...job.palette.entries, ...reading.read!.entries } }
      const pack = { schema_version: 3, form: received, panels: [], exploded: 0, parts: {}, copies: [], added: [] }
      const body = { pack: pack as Pack, key: '', palette, colourway: AS_IT_IS }
      shape.value = (await answer(api.POST('/api/shape', { body }))) as unknown as ReceivedShape
    } catch (error) {
      problem.value = wordsFor(error)
    }
  },
  { immediate: true },
)
/** Change how it stands before it is taken. */
function set(change: object): void {
  reading.read = { ...reading.read!, received: { ...model.value!, ...change } }
}
async function resize(unit_mm: number): Promise<void> {
  await act(async () => {
    const pack = { schema_version: 3, form: model.value!, panels: [] } as unknown as Pack
    const made = await answer(api.POST('/api/received/resize', { body: { pack, unit_mm } }))
    reading.read = { ...reading.read!, received: (made as ReceivedPack).form }
  })
}
async function act(work: () => Promise<void>): Promise<void> {
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
/** Its materials go into the palette, of which parts are made from then on. */
async function keepMaterials(): Promise<void> {
  const entries = reading.read!.entries ?? {}
  if (!Object.keys(entries).length || !job.paletteDraft) return
  job.paletteDraft.edit((d) => (d.entries = { ...d.entries, ...entries }))
  await job.flush()
  await job.loadArtwork()
}
const asPack = (prop: boolean) =>
  act(async () => {
    const received = model.value!
    await keepMaterials()
    const key = await job.addRow('packs', { received })
    if (prop) await arrange({ kind: 'stand', pack: key })
    reading.leave()
    const path = `/jobs/${job.slug}/${prop ? 'set' : 'form'}`
    await router.push({ path, query: { ...route.query, start: undefined, pack: key } })
  })
const addHere = () =>
  act(async () => {
    await keepMaterials()
    const received = toldApart(model.value!, job.shape?.parts ?? [])
    const beside = Math.round((job.shape ? halfWidth(job.shape) : 40) + (shape.value?.facts.size[0] ?? 0) / 2 + 10)
    draft.value.edit((d) => (d.added = [...(d.added ?? []), { received, x: beside, y: 0, z: 0, turn: 0 }]))
    reading.leave()
  })
const halfWidth = (one: NonNullable<typeof job.shape>) =>
  (one.kind === 'vessel' ? one.facts.diameter : one.facts.size[0]) / 2
const replace = () =>
  act(async () => {
    await keepMaterials()
    const old = draft.value.document.form
    if (old.kind === 'received') {
      const form = await answer(api.POST('/api/received/replace', { body: { old, newer: model.value! } }))
      draft.value.edit((d) => (d.form = form as Pack['form']))
    } else {
      const form = model.value!
      draft.value.edit((d) => Object.assign(d, { form, panels: [], parts: {}, copies: [] }))
    }
    reading.leave()
  })
</script>

<template>
  <div class="reader" role="region" aria-label="A model read from a file">
    <header>
      <h2>{{ reading.files[0] }}</h2>
      <Button size="small" data-test="leave-model" @click="reading.leave()">
        {{ model ? 'Leave it' : 'Stop' }}
      </Button>
    </header>
    <p v-if="reading.problem || problem" class="refused" role="alert" data-test="model-problem">
      {{ reading.problem || problem }}
    </p>
    <template v-if="!model && !reading.problem">
      <progress :value="reading.sent" max="1"></progress>
      <p role="status" class="hint">
        {{ reading.sent < 1 ? `Sending, ${Math.round(100 * reading.sent)} %` : `Reading and mending, ${waited} s …` }}
      </p>
    </template>
    <template v-if="model">
      <div class="picture"><Elevations v-if="shape" :shape="shape" selected="" /></div>
      <p class="sentence">
        One of its units is
        <UnitAndUp :model="model" @unit="resize" @up="(up) => set({ up })" />; it takes up
        <b v-if="shape" class="figures" data-test="model-size"
          >{{ showNumber(shape.facts.size[0]) }} × {{ showNumber(shape.facts.size[1]) }} ×
          {{ showNumber(shape.facts.size[2]) }} mm</b
        >.
      </p>
      <ul class="notes" data-test="model-notes">
        <li v-for="note in model.notes" :key="note">{{ note }}</li>
      </ul>
      <div class="buttons">
        <Button type="primary" size="small" :disabled="busy || !shape" data-test="model-new" @click="asPack(false)"
          >A new pack</Button
        >
        <Button size="small" :disabled="busy || !shape" data-test="model-add" @click="addHere"
          >Add to {{ draft.saved.name }}</Button
        >
        <Button size="small" :disabled="busy || !shape" data-test="model-replace" @click="replace">{{
          replaces ? 'In place of this model' : `In place of ${draft.saved.name}`
        }}</Button>
        <Button size="small" :disabled="busy || !shape" data-test="model-prop" @click="asPack(true)"
          >A prop on the set</Button
        >
      </div>
    </template>
  </div>
</template>

<style scoped>
.reader {
  position: absolute;
  inset: 0;
  padding: 14px 16px;
  overflow-y: auto;
  background: var(--card);
  z-index: 5;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
.picture {
  position: relative;
  height: min(46%, 320px);
  margin-bottom: 10px;
}
progress {
  width: 100%;
}
.notes {
  margin: 8px 0 12px;
  padding-left: 18px;
  font-size: 13px;
}
</style>
