<script setup lang="ts">
import { Button, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import {
  answer,
  api,
  type Artwork,
  type BarcodeIn,
  type Label,
  type Pack,
  type Panel,
  type StretchMap,
  wordsFor,
} from '@/api/client'
import StationFrame from '@/components/StationFrame.vue'
import { panelsOf, usePrints } from '@/composables/prints'
import PanelDraft from '@/wrap/PanelDraft.vue'
import { useCarried } from '@/stores/carried'
import { useJob } from '@/stores/job'
import { useBenchProof } from '@/stores/proof'
import { useFiles } from '@/wrap/files'
import BarcodeSlip from '@/wrap/BarcodeSlip.vue'
import LabelPlace from '@/wrap/LabelPlace.vue'
import { useLabels } from '@/wrap/labels'
import LabelTabs from '@/wrap/LabelTabs.vue'
import { type Spot, usePointing } from '@/wrap/pointing'
import WrapRound from '@/wrap/WrapRound.vue'
import WrapRule from '@/wrap/WrapRule.vue'
import { aspectOf, laid, sizeNote } from '@/wrap/laying'
import { onItsPage, pageOf } from '@/composables/page'
import PlacementsSlip from '@/wrap/PlacementsSlip.vue'
import { changeSheet, sheetsOf } from '@/wrap/printed'
import PreflightSlip from '@/wrap/PreflightSlip.vue'
import RunSlip from '@/wrap/RunSlip.vue'
import StretchSlip from '@/wrap/StretchSlip.vue'
import TemplateSlip from '@/wrap/TemplateSlip.vue'
import { shownOf } from '@/wrap/versions'

const job = useJob()
const draft = computed(() => job.pack!)
const pack = computed(() => draft.value.document)
const kind = computed(() => pack.value.form.kind)
const sheets = computed(() => sheetsOf(pack.value, job.shape))
/** Which of them is worked on. */
const which = ref(0)
const sheet = computed(() => sheets.value[which.value])
const panel = computed(() => sheet.value?.panel)
const selected = ref(0)
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
const labels = useLabels(
  () => pack.value,
  () => sheet.value,
  edit,
  (label) => open(sheets.value.length - pack.value.panels.length + label),
)
const { picking } = labels
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
  if (!panel.value || !page.value) return
  editPanel((p) => p.placements.push(laid(artwork, p, at, page.value!)))
  selected.value = panel.value.placements.length - 1
  notes.value.push(...[sizeNote(artwork, placement.value!)].filter(Boolean))
}
function rename(name: string): void {
  if (name.trim()) editPanel((p) => (p.name = name.trim()))
}
function open(index: number): void {
  which.value = index
  selected.value = 0
  picking.value = ''
  tape.value = map.value = null
}
const firstLabel = () => (kind.value === 'vessel' ? labels.addKind('around') : (picking.value = 'new'))
const closed = computed(() => pack.value.form.kind === 'vessel' && Boolean(pack.value.form.closure))
/** Parts of the closure that labels may go around; and what labels of a carton may lie on. */
const solids = computed(() => [
  ...new Set(job.shape?.kind === 'vessel' ? job.shape.drawing.closure.map((o) => o.part) : []),
])
const liesOn = computed(() => (job.shape?.kind === 'carton' ? job.shape.lies_on : []))
const takeLabel = () => (carried.label = { what: sheet.value!.label!, from: draft.value.saved.name })
/** How the label is stretched, while that is shown. */
const map = ref<StretchMap | null>(null)
const hands = usePointing()
const { hand, pointed, tape } = hands
const page = computed(() => (panel.value ? pageOf(panel.value, sheet.value?.outline) : null))
/** What is dragged was drawn to. */
const drawnTo = ref<string[]>([])
/** Take hold of the uppermost artwork at a place, and bring it along. */
let held = { dx: 0, dy: 0 }
function grabArtwork(at: Spot): void {
  const placements = panel.value?.placements ?? []
  const lies = placements.map((one) => {
    const height = one.width / aspectOf(one, shownOf(one.artwork, job.palette, job.artwork))
    return at.x >= one.x && at.x <= one.x + one.width && at.y >= one.y && at.y <= one.y + height
  })
  const index = lies.lastIndexOf(true)
  if (index < 0) return
  selected.value = index
  held = { dx: at.x - placements[index]!.x, dy: at.y - placements[index]!.y }
}
const carryArtwork = (at: Spot) => placement.value && move(selected.value, at.x - held.dx, at.y - held.dy)
function moveLabel(change: Partial<Label>, names: string[]): void {
  editPanel((p) => Object.assign(p, change))
  drawnTo.value = names
}
</script>

<template>
  <StationFrame name="wrap">
    <template #flat>
      <LabelTabs
        :sheets="sheets"
        :which="which"
        :kind="kind"
        :closed="closed"
        @open="open"
        @add="labels.addKind"
        @pick="picking = 'new'"
      />
      <PanelDraft
        v-if="panel"
        :panel="panel"
        :artwork="shown"
        :picture="prints.shown?.[which]?.address ?? null"
        :selected="selected"
        :locked="locked"
        :blank="sheet?.blank ?? null"
        :outline="sheet?.outline ?? null"
        :cut="sheet?.laid?.cut ?? null"
        :pointed="pointed"
        :tape="tape"
        :taping="hand === 'tape'"
        :cells="map?.across ?? null"
        @point="pointed = $event"
        @tape="tape = $event"
        @select="selected = $event"
        @move="move"
        @size="resize"
        @drop-files="addFiles"
      />
      <div v-else class="none">
        <p>This pack has no panel to print on yet.</p>
        <Button type="primary" data-test="first-panel" @click="firstLabel">Add a label</Button>
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
      <p
        v-else-if="problem || uploadProblem || labels.problem.value || printProblem"
        class="over-flat"
        role="alert"
        data-test="wrap-problem"
      >
        {{ problem?.message || uploadProblem || labels.problem.value || printProblem }}
      </p>
    </template>
    <template #round>
      <WrapRound
        v-if="job.shape"
        v-model:hand="hand"
        :pack="pack"
        :shape="job.shape"
        :pictures="textures"
        :proof="proof?.address ?? null"
        :sheet="sheet"
        :which="which"
        :page="page ?? { left: 0, foot: 0, width: 1, height: 1 }"
        :picking="picking"
        :locked="locked"
        :pointed="pointed"
        :tape="tape"
        @rest="view = $event"
        @pick="labels.pick"
        @loop="labels.cutTo"
        @point="pointed = $event"
        @tape="tape = $event"
        @grab-artwork="grabArtwork"
        @move-artwork="carryArtwork"
        @move-label="moveLabel"
        @let-go="drawnTo = []"
        @put-label="labels.move"
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
            :parts="solids"
            :lies-on="liesOn"
            :bad-place="problem?.place ?? ''"
            :picking="picking"
            :edit="editPanel"
            @pick="picking = $event"
            @move-to="labels.move"
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
          <StretchSlip
            v-if="sheet.label"
            :pack="pack"
            :palette="job.palette"
            :number="which"
            :pulled="sheet.laid?.pulled ?? false"
            :picture="prints.shown?.[which]?.address ?? null"
            :map="map"
            @map="map = $event"
          />
          <TemplateSlip v-if="sheet.kind === 'label'" :panel="panel" :outline="sheet.outline" :name="draft.saved.key" />
          <BarcodeSlip :busy="making" :problem="barcodeProblem" @make="makeBarcode" />
          <PreflightSlip
            :slug="draft.saved.key"
            :shots="job.shots"
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
            :palette="job.palette"
            :own="sheet.kind === 'label'"
            :selected="selected"
            :chosen="file?.filename ?? ''"
            :deepest="sheet.laid?.deepest ?? null"
            :edit="editPanel"
          />
        </fieldset>
        <div v-if="sheet.kind === 'label'" class="buttons carry">
          <Button size="small" data-test="take-label" @click="takeLabel">Take this label along</Button>
          <Button size="small" :disabled="locked" @click="labels.takeLabelOff">Take it off the pack</Button>
        </div>
      </template>
      <Button
        v-if="carried.label && (kind === 'vessel' || carried.label.what.kind === 'picked')"
        size="small"
        class="carry"
        data-test="put-label"
        @click="labels.add(carried.label.what)"
        >Put on the label of {{ carried.label.from }}</Button
      >
    </template>
    <template #rule>
      <WrapRule
        v-if="panel"
        :panel="panel"
        :placement="placement"
        :file="file"
        :tape="hands.length.value"
        :pointed="pointed"
        :drawn-to="drawnTo"
      />
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
