<script setup lang="ts">
import { Button, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import {
  answer,
  api,
  AS_IT_IS,
  type Artwork,
  type BarcodeIn,
  type Label,
  type Pack,
  type Panel,
  type Placement,
  wordsFor,
} from '@/api/client'
import StationFrame from '@/components/StationFrame.vue'
import { panelsOf, usePrints } from '@/composables/prints'
import { showNumber } from '@/composables/quantity'
import PanelDraft from '@/flat/PanelDraft.vue'
import RoundView from '@/round/RoundView.vue'
import { useCarried } from '@/stores/carried'
import { useJob } from '@/stores/job'
import { useBenchProof } from '@/stores/proof'
import { useFiles } from '@/wrap/files'
import BarcodeSlip from '@/wrap/BarcodeSlip.vue'
import LabelPlace from '@/wrap/LabelPlace.vue'
import { aspectOf, freeName, laid, picked, takeOff } from '@/wrap/laying'
import { onItsPage, pageOf } from '@/composables/page'
import PlacementsSlip from '@/wrap/PlacementsSlip.vue'
import { changeSheet, sheetsOf } from '@/wrap/printed'
import PreflightSlip from '@/wrap/PreflightSlip.vue'
import RunSlip from '@/wrap/RunSlip.vue'
import TemplateSlip from '@/wrap/TemplateSlip.vue'
import { shownOf } from '@/wrap/versions'

const MM_PER_INCH = 25.4

const job = useJob()
const draft = computed(() => job.pack!)
const pack = computed(() => draft.value.document)
const kind = computed(() => pack.value.form.kind)
const sheets = computed(() => sheetsOf(pack.value, job.shape))
/** Which of them is worked on. */
const which = ref(0)
const sheet = computed(() => sheets.value[which.value])
const panel = computed(() => sheet.value?.panel)
const laidSheet = computed(() => (job.shape?.kind === 'vessel' ? job.shape.sheets[which.value] : undefined))
const selected = ref(0)
/** Whether a place is being picked: for a new label, for the one that is worked on, or by a loop around it. */
const picking = ref<'' | 'new' | 'move' | 'loop'>('')
const carried = useCarried()
watch(
  () => job.pack?.saved.key,
  () => open(0),
)
watch(
  () => sheets.value.length,
  (count) => which.value >= count && open(Math.max(count - 1, 0)),
)
const placement = computed(() => panel.value?.placements[selected.value])
const file = computed(() => shownOf(placement.value?.artwork, job.palette, job.artwork))
/** What is placed, as the version that is printed. */
const shown = computed(() =>
  job.artwork.map((one) => ({ ...shownOf(one.sha256, job.palette, job.artwork)!, sha256: one.sha256 })),
)
const ppi = computed(() =>
  file.value?.width_px && placement.value
    ? ((file.value.width_px * kept(placement.value.crop)) / placement.value.width) * MM_PER_INCH
    : null,
)
/** Share of an artwork's width that is left. */
const kept = (crop: Placement['crop']) => (crop ? 1 - crop.left - crop.right : 1)
const { prints, problem: printProblem } = usePrints(
  () => ({ own: panelsOf(pack.value, job.shape), shown: sheets.value.map((one) => onItsPage(one.panel, one.outline)) }),
  () => ({ palette: job.palette, colourway: null }),
)
const textures = computed(() => (prints.value.own ?? []).map((print) => print.texture))
const problem = computed(() => job.shapeProblem ?? (draft.value.state === 'refused' ? draft.value : null))
const { view, proof } = useBenchProof()
const {
  uploading,
  problem: uploadProblem,
  notes,
  addFiles,
  addVersion,
  showVersion,
} = useFiles(lay, () => locked.value)

const edit = (change: (document: Pack) => void) => draft.value.edit(change)
const locked = computed(() => Boolean(sheet.value && pack.value.parts?.[sheet.value.part]?.locked))
function editPanel(change: (panel: Panel) => void): void {
  const of = sheet.value
  if (!locked.value && of) edit((d) => changeSheet(d, of, change))
}
const unlock = () => edit((d) => Object.assign(d.parts![sheet.value!.part]!, { locked: false }))

function move(index: number, x: number, y: number): void {
  editPanel((p) => Object.assign(p.placements[index]!, { x: Number(x.toFixed(2)), y: Number(y.toFixed(2)) }))
}
function resize(index: number, width: number): void {
  editPanel((p) => {
    const item = p.placements[index]!
    const aspect = aspectOf(item, shownOf(item.artwork, job.palette, job.artwork))
    item.y = Number((item.y + item.width / aspect - width / aspect).toFixed(2))
    item.width = Number(width.toFixed(2))
  })
}
const making = ref(false)
const barcodeProblem = ref('')
/** A barcode is drawn by the core and laid as artwork is. */
async function makeBarcode(body: BarcodeIn): Promise<void> {
  ;[making.value, barcodeProblem.value] = [true, '']
  try {
    const params = { path: { slug: job.slug } }
    const artwork = await answer(api.POST('/api/jobs/{slug}/barcodes', { params, body }))
    await job.loadArtwork()
    lay(artwork)
  } catch (error) {
    barcodeProblem.value = wordsFor(error)
  }
  making.value = false
}
function lay(artwork: Artwork, at?: { x: number; y: number }): void {
  if (!panel.value) return
  const page = pageOf(panel.value, sheet.value?.outline)
  editPanel((p) => p.placements.push(laid(artwork, p, at, page)))
  selected.value = panel.value.placements.length - 1
}
function rename(name: string): void {
  if (name.trim()) editPanel((p) => (p.name = name.trim()))
}
function open(index: number): void {
  which.value = index
  selected.value = 0
  picking.value = ''
}
/** Put a label on, and go on with it. */
function add(label: Label): void {
  edit((d) => d.panels.push({ ...(JSON.parse(JSON.stringify(label)) as Label), name: freeName(label.name, d) }))
  open(sheets.value.length - 1)
}
function takePanelOff(): void {
  const at = sheet.value?.label ? sheet.value.index : -1
  if (at >= 0) edit((d) => takeOff(d, at))
}
const takeLabel = () => (carried.label = { what: sheet.value!.label!, from: draft.value.saved.name })
async function addPanel(): Promise<void> {
  uploadProblem.value = ''
  if (kind.value === 'received') {
    picking.value = 'new'
    return
  }
  try {
    const body = { pack: pack.value, palette: job.palette, key: '', colourway: AS_IT_IS }
    add(await answer(api.POST('/api/starting-panel', { body })))
  } catch (error) {
    uploadProblem.value = wordsFor(error)
  }
}
/** A place was picked on a received model: a label goes there. */
function pick(part: string, at: [number, number, number]): void {
  const how = picking.value
  picking.value = ''
  if (job.shape?.kind !== 'received' || !how) return
  const label = sheets.value.find((one) => one.kind === 'label' && one.part === part)?.label
  const on = label?.kind === 'picked' ? label.part : part
  if (how === 'loop') return
  if (how === 'new') add(picked(on, at, job.shape.facts.size))
  else editPanel((p) => Object.assign(p, { part: on, at: at.map((v) => Number(v.toFixed(3))) }))
}
/** A loop was drawn on a received model: the label is cut to it. */
async function cutTo(part: string, loop: [number, number, number][]): Promise<void> {
  picking.value = ''
  uploadProblem.value = ''
  const of = sheet.value
  if (of?.label?.kind !== 'picked') return
  const own = sheets.value.find((one) => one.kind === 'label' && one.part === part)?.label
  const on = own?.kind === 'picked' ? own.part : part
  try {
    const moved = JSON.parse(JSON.stringify(pack.value)) as Pack
    Object.assign(moved.panels[of.index]!, { part: on })
    const body = { pack: moved, palette: job.palette, key: '', colourway: AS_IT_IS, panel: of.index, loop }
    const cut = await answer(api.POST('/api/received/lasso', { body }))
    editPanel((p) => Object.assign(p, { part: on, ...cut }))
  } catch (error) {
    uploadProblem.value = wordsFor(error)
  }
}
const tab = (index: number) => {
  const one = sheets.value[index]!
  if (one.kind === 'blank') return `Blank${sheets.value.length > 1 ? ` of the ${one.panel.name}` : ''}`
  return one.panel.name
}
</script>

<template>
  <StationFrame name="wrap">
    <template #flat>
      <div v-if="panel" class="tabs" role="toolbar" aria-label="Labels of this pack">
        <button
          v-for="(_, index) in sheets"
          :key="index"
          type="button"
          :aria-pressed="index === which"
          :data-test="`panel-${index}`"
          @click="open(index)"
        >
          {{ tab(index) }}
        </button>
        <button v-if="kind !== 'carton'" type="button" data-test="add-panel" @click="addPanel">Add a label</button>
      </div>
      <PanelDraft
        v-if="panel"
        :panel="panel"
        :artwork="shown"
        :picture="prints.shown?.[which]?.address ?? null"
        :selected="selected"
        :locked="locked"
        :blank="sheet?.blank ?? null"
        :outline="sheet?.outline ?? null"
        @select="selected = $event"
        @move="move"
        @size="resize"
        @drop-files="addFiles"
      />
      <div v-else-if="kind !== 'carton'" class="none">
        <p>This pack has no panel to print on yet.</p>
        <Button type="primary" data-test="first-panel" @click="addPanel">Add a label</Button>
      </div>
      <p v-if="picking" class="over-flat busy" role="status" data-test="picking">
        {{
          picking === 'loop'
            ? 'Draw around the place on the pack that the label covers.'
            : 'Click on the pack where the middle of the label goes.'
        }}
        <button type="button" @click="picking = ''">Leave it</button>
      </p>
      <p v-else-if="uploading" class="over-flat busy" role="status"><Spin size="small" /> Reading {{ uploading }} …</p>
      <p v-else-if="problem || uploadProblem || printProblem" class="over-flat" role="alert" data-test="wrap-problem">
        {{ problem?.message || uploadProblem || printProblem }}
      </p>
    </template>
    <template #round>
      <RoundView
        v-if="job.shape"
        :shape="job.shape"
        :pictures="textures"
        label="The artwork on the pack"
        :proof="proof?.address ?? null"
        :picking="Boolean(picking)"
        :lasso="picking === 'loop'"
        @rest="view = $event"
        @pick="pick"
        @loop="cutTo"
      />
    </template>
    <template #slip>
      <template v-if="panel && sheet">
        <h2 v-if="sheet.kind === 'blank'">Blank of the {{ panel.name }}</h2>
        <h2 v-else-if="sheet.kind === 'part'">{{ panel.name }}</h2>
        <h2 v-else>
          <input
            class="title"
            :value="panel.name"
            maxlength="120"
            aria-label="Name of the label"
            :disabled="locked"
            @change="(e) => rename((e.target as HTMLInputElement).value)"
          />
        </h2>
        <p v-if="locked" class="sentence" data-test="label-locked">
          It is locked. <Button size="small" @click="unlock">Unlock it</Button>
        </p>
        <fieldset :disabled="locked">
          <LabelPlace
            :sheet="sheet"
            :around="laidSheet?.around ?? null"
            :bad-place="problem?.place ?? ''"
            :picking="picking"
            :edit="editPanel"
            @pick="picking = $event"
          />
          <PlacementsSlip
            :panel="panel"
            :artwork="job.artwork"
            :palette="job.palette"
            :selected="selected"
            :edit="editPanel"
            @select="selected = $event"
            @files="addFiles"
            @move="move"
            @show="showVersion"
            @newer="addVersion"
          />
          <TemplateSlip v-if="sheet.kind === 'label'" :panel="panel" :outline="sheet.outline" :name="draft.saved.key" />
          <BarcodeSlip :busy="making" :problem="barcodeProblem" @make="makeBarcode" />
          <PreflightSlip
            :pack="pack"
            :palette="job.palette"
            :panel="panel"
            :number="which"
            :artwork="job.artwork"
            @select="selected = $event"
          />
          <p v-for="note in notes" :key="note" class="caution">{{ note }}</p>
          <RunSlip
            :panel="panel"
            :own="sheet.kind === 'label'"
            :selected="selected"
            :chosen="file?.filename ?? ''"
            :deepest="laidSheet?.deepest ?? null"
            :edit="editPanel"
          />
        </fieldset>
        <div v-if="sheet.kind === 'label'" class="buttons carry">
          <Button size="small" data-test="take-label" @click="takeLabel">Take this label along</Button>
          <Button size="small" :disabled="locked" @click="takePanelOff">Take it off the pack</Button>
        </div>
      </template>
      <Button
        v-if="carried.label && kind === (carried.label.what.kind === 'picked' ? 'received' : 'vessel')"
        size="small"
        class="carry"
        data-test="put-label"
        @click="add(carried.label.what)"
        >Put on the label of {{ carried.label.from }}</Button
      >
    </template>
    <template #rule>
      <template v-if="panel">
        <span
          >Panel <b>{{ showNumber(panel.width) }} × {{ showNumber(panel.height) }} mm</b></span
        >
        <span v-if="placement"
          >Artwork
          <b
            >{{ showNumber(placement.width) }} × {{ showNumber(placement.width / aspectOf(placement, file)) }} mm</b
          ></span
        >
        <span v-if="placement"
          >Resolution <b>{{ ppi ? `${Math.round(ppi)} ppi` : 'outlines' }}</b></span
        >
        <span v-if="ppi && ppi < 250" class="caution">below 250 ppi: it will look soft in print</span>
      </template>
    </template>
  </StationFrame>
</template>

<style scoped>
.none {
  position: absolute;
  inset: 0;
  display: grid;
  place-content: center;
  gap: 10px;
  text-align: center;
}
.busy {
  background: var(--ink);
}
.tabs {
  position: absolute;
  z-index: 1;
  left: 10px;
  top: 8px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.tabs button {
  border: 0;
  border-bottom: 3px solid transparent;
  background: var(--card);
  padding: 3px 10px;
  font: inherit;
  font-size: 13px;
  cursor: pointer;
}
.tabs [aria-pressed='true'] {
  border-color: var(--ribbon);
  font-weight: 600;
}
.title {
  width: 100%;
  border: 0;
  border-bottom: 1.5px dashed transparent;
  background: none;
  font: inherit;
  color: inherit;
}
.title:hover,
.title:focus {
  border-color: var(--kraft);
}
.carry {
  margin-top: 12px;
}
.hint {
  margin: 4px 0;
}
</style>
