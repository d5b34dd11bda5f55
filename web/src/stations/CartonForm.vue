<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { type Carton, type CartonPack, type Pack, wordsFor } from '@/api/client'
import { download } from '@/api/download'
import StationFrame from '@/components/StationFrame.vue'
import { grainInHand } from '@/composables/grain'
import { usePrints } from '@/composables/prints'
import { showNumber } from '@/composables/quantity'
import BlankDraft from '@/flat/BlankDraft.vue'
import BlankReader from '@/form/BlankReader.vue'
import CartonSlip from '@/form/CartonSlip.vue'
import FilesMenu from '@/received/FilesMenu.vue'
import FormNotes from '@/form/FormNotes.vue'
import FormRound from '@/form/FormRound.vue'
import { panelAt } from '@/form/panels'
import { useStarting } from '@/form/starting'
import StartingGallery from '@/form/StartingGallery.vue'
import AdditionsSlip from '@/received/AdditionsSlip.vue'
import ModelReader from '@/received/ModelReader.vue'
import { flatGrain } from '@/round/grainSeen'
import { useJob } from '@/stores/job'
import { useReading } from '@/stores/reading'

const FLASH_MS = 1500
const FILES = ['svg', 'dxf', 'pdf'] as const

const job = useJob()
const reading = useReading()
const draft = computed(() => job.pack!)
const pack = computed(() => draft.value.document as CartonPack)
const shape = computed(() => (job.shape?.kind === 'carton' ? job.shape : null))
const facts = computed(() => shape.value?.facts ?? null)
const which = ref(0)
const blank = computed(() => shape.value?.blanks[which.value] ?? shape.value?.blanks[0] ?? null)
const selected = ref('')
/** A drawing that a blank is read from. */
const drawing = ref<File | null>(null)
const chooser = ref<HTMLInputElement>()
const { starting, problem: fileProblem, start, leave: draw } = useStarting()
const { prints } = usePrints(
  () => ({ own: shape.value?.panels ?? [] }),
  () => ({ palette: job.palette, colourway: null }),
)
const textures = computed(() => (prints.value.own ?? []).map((print) => print.texture))
const problem = computed(() => job.shapeProblem ?? (draft.value.state === 'refused' ? draft.value : null))
const badPlace = computed(() => problem.value?.place.replace(/^form\./, '') ?? '')
const edit = (change: (document: CartonPack) => void) => draft.value.edit(change as (document: Pack) => void)

watch(
  () => pack.value.form.style,
  () => ([which.value, selected.value] = [0, '']),
)

/** The panel under the hand on the blank; one that was chosen lights up for a moment. */
const pointed = ref('')
const { start: flash, isPending: flashing } = useTimeoutFn(() => {}, FLASH_MS, { immediate: false })
watch(selected, (name) => name && flash())
/** What is lit up in the round, on the blank's print, 0 to 1. */
const lit = computed(() => {
  const name = pointed.value || (flashing.value ? selected.value : '')
  const panel = blank.value?.panels.find((one) => one.name === name)
  if (!blank.value || !panel) return null
  const [across, high] = blank.value.size
  return { part: blank.value.name, outline: panel.outline.map(([x, y]) => [x / across, y / high] as const) }
})
/** The panel that was clicked in the round. */
function pick(part: string, on: [number, number] | null): void {
  const index = shape.value?.blanks.findIndex((one) => one.name === part) ?? -1
  if (index < 0) return
  which.value = index
  selected.value = panelAt(shape.value, part, on)?.name ?? ''
}
/** The grain in hand where it is on the blank that is looked at. */
const grain = computed(() => {
  const { held } = grainInHand
  const here = held && shape.value && held.place.panel === which.value
  return here ? flatGrain(held.place, held.grain.lies, shape.value!) : null
})
const titled = (name: string) => name.charAt(0).toUpperCase() + name.slice(1)
function choose(event: Event): void {
  drawing.value = (event.target as HTMLInputElement).files?.[0] ?? null
  starting.value = false
  if (chooser.value) chooser.value.value = ''
}
function take(carton: Carton): void {
  edit((d) => (d.form = { ...carton, board: d.form.board }))
  drawing.value = null
}
async function save(form: (typeof FILES)[number]): Promise<void> {
  fileProblem.value = ''
  try {
    await download(`/api/blank.${form}`, `${draft.value.saved.key}-blank.${form}`, pack.value.form)
  } catch (error) {
    fileProblem.value = wordsFor(error)
  }
}
</script>

<template>
  <StationFrame name="form">
    <template #flat>
      <div class="tabs" role="toolbar" aria-label="What is drawn">
        <button
          v-for="(one, index) in shape?.blanks ?? []"
          :key="one.name"
          type="button"
          :aria-pressed="!starting && index === which"
          :data-test="`blank-${one.name}`"
          @click="((starting = false), (drawing = null), (which = index), (selected = ''))"
        >
          {{ (shape?.blanks.length ?? 0) > 1 ? titled(one.name) : 'Blank' }}
        </button>
        <button type="button" :aria-pressed="starting" data-test="tab-start" @click="starting = true">
          Start from …
        </button>
        <FilesMenu :pack="pack as Pack" @problem="fileProblem = $event">
          <button type="button" @click="chooser?.click()">Read a blank (SVG, DXF, PDF) …</button>
          <button v-for="form in FILES" :key="form" type="button" :data-test="`blank-file-${form}`" @click="save(form)">
            Save the blank as {{ form.toUpperCase() }}
          </button>
          <input
            ref="chooser"
            class="unseen"
            type="file"
            tabindex="-1"
            accept=".svg,.dxf,.pdf"
            aria-label="Drawing of a blank"
            data-test="blank-file"
            @click.stop
            @change="choose"
          />
        </FilesMenu>
      </div>
      <div class="table-top">
        <ModelReader v-if="reading.files.length" />
        <StartingGallery v-if="starting" @take="start" @cancel="draw" />
        <BlankReader v-else-if="drawing" :file="drawing" @take="take" @cancel="drawing = null" />
        <BlankDraft
          v-else-if="blank"
          :blank="blank"
          :picture="prints.own?.[which]?.address ?? null"
          :printed="Boolean(shape?.panels[which]?.placements.length)"
          :selected="selected"
          :carton="pack.form"
          :grain="grain"
          @select="selected = $event"
          @point="pointed = $event"
          @size="(field, mm) => edit((d) => (d.form[field] = mm))"
        />
        <FormNotes
          :problem="problem?.message ?? ''"
          what="carton"
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
        label="The carton in the round"
        :lit="lit"
        @pick="pick"
      />
    </template>
    <template #slip>
      <h2>{{ draft.saved.name }}</h2>
      <CartonSlip
        :pack="pack"
        :shape="shape"
        :blank="blank?.name ?? ''"
        :selected="selected"
        :bad-place="badPlace"
        :edit="edit"
      >
        <p v-if="facts" class="sentence">
          It takes up
          <b class="figures" data-test="carton-size"
            >{{ showNumber(facts.size[0]) }} × {{ showNumber(facts.size[1]) }} × {{ showNumber(facts.size[2]) }} mm</b
          >
          as it stands, {{ showNumber(facts.board_area / 100) }} cm² of board,
          <b class="figures">{{ showNumber(facts.board_g) }} g</b>.
        </p>
      </CartonSlip>
      <p v-for="caution in facts?.cautions ?? []" :key="caution" class="caution">{{ caution }}</p>
      <AdditionsSlip
        :pack="pack as Pack"
        :selected="selected"
        :bad-place="badPlace"
        :edit="(change) => draft.edit(change)"
        @select="selected = $event"
      />
    </template>
    <template #rule>
      <template v-if="facts">
        <span
          >Board <b>{{ showNumber(facts.board_area / 100) }} cm²</b></span
        >
        <span
          >Creases <b>{{ showNumber(facts.crease_length) }} mm</b></span
        >
        <span
          >Weight <b>{{ showNumber(facts.board_g) }} g</b></span
        >
        <span
          >Steps to close <b>{{ facts.steps }}</b></span
        >
        <span class="hint">Click a panel, here or in the round, to fold it by itself.</span>
      </template>
    </template>
  </StationFrame>
</template>

<style scoped src="./form.css"></style>
<style scoped>
.tabs > button {
  padding: 0 7px;
}
</style>
