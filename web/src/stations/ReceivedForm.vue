<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Pack, ReceivedPack } from '@/api/client'
import StationFrame from '@/components/StationFrame.vue'
import { panelsOf, usePrints } from '@/composables/prints'
import { showNumber } from '@/composables/quantity'
import Elevations from '@/flat/Elevations.vue'
import FilesMenu from '@/received/FilesMenu.vue'
import FormNotes from '@/form/FormNotes.vue'
import FormRound from '@/form/FormRound.vue'
import { renamePart } from '@/form/materials'
import PartsSlip from '@/form/PartsSlip.vue'
import { useStarting } from '@/form/starting'
import StartingGallery from '@/form/StartingGallery.vue'
import AdditionsSlip from '@/received/AdditionsSlip.vue'
import ModelReader from '@/received/ModelReader.vue'
import ReceivedParts from '@/received/ReceivedParts.vue'
import ReceivedSlip from '@/received/ReceivedSlip.vue'
import { useJob } from '@/stores/job'
import { useReading } from '@/stores/reading'

const job = useJob()
const reading = useReading()
const draft = computed(() => job.pack!)
const pack = computed(() => draft.value.document as ReceivedPack)
const shape = computed(() => (job.shape?.kind === 'received' ? job.shape : null))
const facts = computed(() => shape.value?.facts ?? null)
const selected = ref('')
const { starting, problem: fileProblem, start, leave: draw } = useStarting()
const { prints } = usePrints(
  () => ({ own: panelsOf(pack.value as Pack, job.shape) }),
  () => ({ palette: job.palette, colourway: null }),
)
const textures = computed(() => (prints.value.own ?? []).map((print) => print.texture))
const problem = computed(() => job.shapeProblem ?? (draft.value.state === 'refused' ? draft.value : null))
const badPlace = computed(() => problem.value?.place.replace(/^form\./, '') ?? '')
const edit = (change: (document: ReceivedPack) => void) => draft.value.edit(change as (document: Pack) => void)
const editAny = (change: (document: Pack) => void) => draft.value.edit(change)
const locked = (name: string) => Boolean(pack.value.parts?.[name]?.locked)

function rename(from: string, to: string): void {
  editAny((d) => renamePart(d, from, to))
  if (to) selected.value = to
}
</script>

<template>
  <StationFrame name="form">
    <template #flat>
      <div class="tabs" role="toolbar" aria-label="What is drawn">
        <button type="button" :aria-pressed="!starting" data-test="tab-sides" @click="draw">Two sides</button>
        <button type="button" :aria-pressed="starting" data-test="tab-start" @click="starting = true">
          Start from …
        </button>
        <FilesMenu :pack="pack as Pack" @problem="fileProblem = $event" />
      </div>
      <div class="table-top">
        <ModelReader v-if="reading.files.length" />
        <StartingGallery v-if="starting" @take="start" @cancel="draw" />
        <Elevations v-else-if="shape" :shape="shape" :selected="selected" @select="selected = $event" />
        <FormNotes
          :problem="problem?.message ?? ''"
          what="model"
          :file-problem="fileProblem"
          @away="fileProblem = ''"
        />
      </div>
    </template>
    <template #round>
      <FormRound
        v-if="shape"
        :shape="shape"
        :pictures="textures"
        label="The model in the round"
        @pick="selected = $event"
      />
    </template>
    <template #slip>
      <h2>{{ draft.saved.name }}</h2>
      <ReceivedSlip :pack="pack" :shape="shape" :bad-place="badPlace" :edit="edit" />
      <h3>Parts</h3>
      <ReceivedParts
        :received="pack.form"
        :open="facts?.open_parts ?? {}"
        :selected="selected"
        :bad-place="badPlace"
        :locked="locked"
        :edit="(change) => edit((d) => change(d.form))"
        @select="selected = $event"
        @rename="rename"
      />
      <AdditionsSlip
        :pack="pack as Pack"
        :selected="selected"
        :bad-place="badPlace"
        :edit="editAny"
        @select="selected = $event"
      />
      <details data-test="slip-notes">
        <summary>What was found in the file</summary>
        <ul class="notes">
          <li v-for="note in pack.form.notes ?? []" :key="note">{{ note }}</li>
        </ul>
      </details>
      <details data-test="slip-parts">
        <summary>Hide, group, copy, draw apart</summary>
        <PartsSlip :pack="pack as Pack" :shape="shape" :bad-place="badPlace" :edit="editAny" />
      </details>
    </template>
    <template #rule>
      <template v-if="facts">
        <span
          >Triangles <b>{{ facts.triangles.toLocaleString('en') }}</b></span
        >
        <span
          >Parts <b>{{ Object.keys(facts.pieces).length }}</b></span
        >
        <span v-if="facts.contents_ml !== null"
          >Contents <b>{{ showNumber(facts.contents_ml) }} ml</b></span
        >
        <span v-if="facts.grams !== null"
          >Empty <b>{{ showNumber(facts.grams) }} g</b></span
        >
        <span class="hint">Click a part to name it, and to say what it is.</span>
      </template>
    </template>
  </StationFrame>
</template>

<style scoped src="./form.css"></style>
<style scoped>
.notes {
  padding-left: 18px;
  font-size: 13px;
}
</style>
