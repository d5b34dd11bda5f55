<script setup lang="ts">
import { Button, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, AS_IT_IS, type Artwork, send, type Pack, type Panel, wordsFor } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import StationFrame from '@/components/StationFrame.vue'
import { usePrints } from '@/composables/prints'
import { showNumber } from '@/composables/quantity'
import PanelDraft from '@/flat/PanelDraft.vue'
import RoundView from '@/round/RoundView.vue'
import { useCarried } from '@/stores/carried'
import { useJob } from '@/stores/job'
import { useBenchProof } from '@/stores/proof'
import { centred, filling, freeName, laid, takeOff } from '@/wrap/laying'

const MM_PER_INCH = 25.4
type Placement = NonNullable<Panel['placements']>[number]

const job = useJob()
const draft = computed(() => job.pack!)
const pack = computed(() => draft.value.document)
/** Which of the pack's panels is worked on. */
const which = ref(0)
/** A carton's blanks are printed whole. */
const folded = computed(() => (job.shape?.kind === 'carton' ? job.shape : null))
const onCarton = computed(() => pack.value.form.kind === 'carton')
const panels = computed<Panel[]>(() => {
  const { form } = pack.value
  if (form.kind !== 'carton') return pack.value.panels
  return (folded.value?.panels ?? []).map((one) => ({ ...one, placements: form.prints?.[one.name] ?? [] }))
})
const panel = computed(() => panels.value[which.value])
const sheet = computed(() => (job.shape?.kind === 'vessel' ? job.shape.sheets[which.value] : undefined))
/** What the panel's label is called among the pack's parts. */
const part = computed(() => `label-${which.value + 1}`)
const place = computed(() => `panels.${which.value}`)
const selected = ref(0)
const carried = useCarried()
watch(
  () => job.pack?.saved.key,
  () => open(0),
)
watch(
  () => panels.value.length,
  (count) => which.value >= count && open(Math.max(count - 1, 0)),
)
const placement = computed(() => panel.value?.placements[selected.value])
const file = computed(() => job.artwork.find((a) => a.sha256 === placement.value?.artwork))
const ppi = computed(() =>
  file.value?.width_px && placement.value ? (file.value.width_px / placement.value.width) * MM_PER_INCH : null,
)
const { prints, problem: printProblem } = usePrints(
  () => ({ own: panels.value }),
  () => ({ palette: job.palette, colourway: null }),
)
const textures = computed(() => (prints.value.own ?? []).map((print) => print.texture))
const problem = computed(() => job.shapeProblem ?? (draft.value.state === 'refused' ? draft.value : null))
const { view, proof } = useBenchProof()
const uploading = ref('')
const uploadProblem = ref('')
const notes = ref<string[]>([])
const chooser = ref<HTMLInputElement>()

const edit = (change: (document: Pack) => void) => draft.value.edit(change)
const locked = computed(() => Boolean(pack.value.parts?.[part.value]?.locked))
function editPanel(change: (panel: Panel) => void): void {
  if (locked.value) return
  edit((d) => {
    if (d.form.kind !== 'carton') return change(d.panels[which.value]!)
    const printed = JSON.parse(JSON.stringify(panel.value)) as Panel
    change(printed)
    d.form.prints = { ...d.form.prints, [printed.name]: printed.placements }
  })
}
/** The stock with something changed, if it is the panel's own. */
function setStock(change: object): void {
  editPanel((p) => p.stock.kind === 'opaque' && Object.assign(p.stock, change))
}
const unlock = () => edit((d) => Object.assign(d.parts![part.value]!, { locked: false }))

function move(index: number, x: number, y: number): void {
  editPanel((p) => Object.assign(p.placements[index]!, { x: Number(x.toFixed(2)), y: Number(y.toFixed(2)) }))
}
function resize(index: number, width: number): void {
  const aspect = job.artwork.find((a) => a.sha256 === panel.value?.placements[index]?.artwork)?.aspect ?? 1
  editPanel((p) => {
    const item = p.placements[index]!
    item.y = Number((item.y + item.width / aspect - width / aspect).toFixed(2))
    item.width = Number(width.toFixed(2))
  })
}
async function addFiles(files: FileList | null, at?: { x: number; y: number }): Promise<void> {
  uploadProblem.value = ''
  notes.value = []
  if (locked.value) {
    uploadProblem.value = 'This label is locked: unlock it to print something else on it.'
    return
  }
  for (const chosen of files ?? []) await addFile(chosen, at)
  if (chooser.value) chooser.value.value = ''
}
async function addFile(chosen: File, at?: { x: number; y: number }): Promise<void> {
  uploading.value = chosen.name
  try {
    const body = new FormData()
    body.append('file', chosen)
    const response = await send(`/api/jobs/${job.slug}/artwork`, { method: 'POST', body })
    const artwork = (await response.json()) as Artwork
    await job.loadArtwork()
    notes.value.push(...artwork.notes)
    lay(artwork, at)
  } catch (error) {
    uploadProblem.value = wordsFor(error)
  }
  uploading.value = ''
}
function lay(artwork: Artwork, at?: { x: number; y: number }): void {
  if (!panel.value) return
  editPanel((p) => p.placements.push(laid(artwork, p, at)))
  selected.value = panel.value.placements.length - 1
}
const rearrange = (change: (panel: Panel, item: Placement) => object) =>
  editPanel((p) => Object.assign(p.placements[selected.value]!, change(p, p.placements[selected.value]!)))
const fillPanel = () => file.value && rearrange((p) => filling(p, file.value!.aspect))
const centre = () => rearrange((p, item) => centred(item, p, file.value?.aspect ?? 1))
function remove(): void {
  editPanel((p) => p.placements.splice(selected.value, 1))
  selected.value = Math.max(selected.value - 1, 0)
}
function rename(name: string): void {
  if (name.trim()) editPanel((p) => (p.name = name.trim()))
}
function open(index: number): void {
  which.value = index
  selected.value = 0
}
/** Put a label on, and go on with it. */
function add(label: Panel): void {
  edit((d) => d.panels.push({ ...JSON.parse(JSON.stringify(label)), name: freeName(label.name, d) }))
  open(pack.value.panels.length - 1)
}
const takePanelOff = () => edit((d) => takeOff(d, which.value))
const takeLabel = () => (carried.label = { what: panel.value!, from: draft.value.saved.name })
async function addPanel(): Promise<void> {
  uploadProblem.value = ''
  try {
    const body = { pack: pack.value, palette: job.palette, key: '', colourway: AS_IT_IS }
    const fresh = await answer(api.POST('/api/starting-panel', { body }))
    add(fresh as Panel)
  } catch (error) {
    uploadProblem.value = wordsFor(error)
  }
}
</script>

<template>
  <StationFrame name="wrap">
    <template #flat>
      <div v-if="panel" class="tabs" role="toolbar" aria-label="Labels of this pack">
        <button
          v-for="(one, index) in panels"
          :key="index"
          type="button"
          :aria-pressed="index === which"
          :data-test="`panel-${index}`"
          @click="open(index)"
        >
          {{ onCarton ? `Blank${panels.length > 1 ? ` of the ${one.name}` : ''}` : one.name }}
        </button>
        <button v-if="!onCarton" type="button" data-test="add-panel" @click="addPanel">Add a label</button>
      </div>
      <PanelDraft
        v-if="panel"
        :panel="panel"
        :artwork="job.artwork"
        :picture="prints.own?.[which]?.address ?? null"
        :selected="selected"
        :locked="locked"
        :blank="folded?.blanks[which] ?? null"
        @select="selected = $event"
        @move="move"
        @size="resize"
        @drop-files="addFiles"
      />
      <div v-else-if="!onCarton" class="none">
        <p>This pack has no panel to print on yet.</p>
        <Button type="primary" @click="addPanel">Add a label</Button>
      </div>
      <p v-if="uploading" class="note busy" role="status"><Spin size="small" /> Reading {{ uploading }} …</p>
      <p v-else-if="problem || uploadProblem || printProblem" class="note" role="alert" data-test="wrap-problem">
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
        @rest="view = $event"
      />
    </template>
    <template #slip>
      <template v-if="panel">
        <h2 v-if="onCarton">Blank of the {{ panel.name }}</h2>
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
          <p v-if="onCarton" class="sentence">
            {{ showNumber(panel.width) }} by {{ showNumber(panel.height) }} mm, printed whole: what crosses a crease
            goes around it.
          </p>
          <p v-else class="sentence">
            <QuantityInput
              label="Label width"
              unit="mm"
              :value="panel.width"
              :min="1"
              :max="2000"
              :digits="2"
              :refused="problem?.place === `${place}.width`"
              @change="(v) => editPanel((p) => (p.width = v))"
            />
            around and
            <QuantityInput
              label="Label height"
              unit="mm"
              :value="panel.height"
              :min="1"
              :max="2000"
              :digits="2"
              :refused="problem?.place === `${place}.height`"
              @change="(v) => editPanel((p) => (p.height = v))"
            />
            tall,
            <QuantityInput
              label="Label from base"
              unit="mm"
              :value="panel.from_base"
              :min="0"
              :max="2000"
              :digits="2"
              :refused="problem?.place === `${place}.from_base`"
              @change="(v) => editPanel((p) => (p.from_base = v))"
            />
            above the base, turned
            <QuantityInput
              label="Label turn"
              unit="°"
              :value="panel.centre_angle"
              :min="-360"
              :max="360"
              :step="5"
              @change="(v) => editPanel((p) => (p.centre_angle = v))"
            />
            to the right.
          </p>
          <p v-if="sheet" class="hint">
            The pack is {{ showNumber(sheet.around) }} mm around here: {{ showNumber(sheet.around - panel.width) }} mm
            stay bare at the back.
          </p>

          <h3>Artwork</h3>
          <input
            ref="chooser"
            class="unseen"
            type="file"
            accept=".png,.jpg,.jpeg,.svg,image/png,image/jpeg,image/svg+xml"
            multiple
            aria-label="Artwork files"
            data-test="artwork-file"
            @change="addFiles(($event.target as HTMLInputElement).files)"
          />
          <Button size="small" type="primary" @click="chooser?.click()">Place artwork …</Button>
          <p class="hint">or drop a file on the panel</p>
          <ul v-if="panel.placements.length" class="list">
            <li v-for="(item, index) in panel.placements" :key="index">
              <button :class="{ chosen: index === selected }" @click="selected = index">
                {{ job.artwork.find((a) => a.sha256 === item.artwork)?.filename ?? 'missing file' }}
              </button>
            </li>
          </ul>
          <template v-if="placement">
            <p class="sentence">
              <QuantityInput
                label="Artwork width"
                unit="mm"
                :value="placement.width"
                :min="0.5"
                :max="2000"
                :digits="2"
                @change="(v) => editPanel((p) => (p.placements[selected]!.width = v))"
              />
              wide, its lower left corner
              <QuantityInput
                label="Artwork from left"
                unit="mm"
                :value="placement.x"
                :digits="2"
                :min="-2000"
                :max="2000"
                @change="(v) => move(selected, v, placement!.y)"
              />
              from the left and
              <QuantityInput
                label="Artwork from bottom"
                unit="mm"
                :value="placement.y"
                :digits="2"
                :min="-2000"
                :max="2000"
                @change="(v) => move(selected, placement!.x, v)"
              />
              up.
            </p>
            <div class="buttons">
              <Button size="small" @click="centre">Centre it</Button>
              <Button size="small" @click="fillPanel">Fill the panel</Button>
              <Button size="small" @click="remove">Take it off</Button>
            </div>
          </template>
          <p v-for="note in notes" :key="note" class="caution">{{ note }}</p>
          <details v-if="!onCarton">
            <summary>Stock</summary>
            <p v-if="panel.stock.kind === 'linked'" class="sentence">
              Whatever the palette has as “{{ panel.stock.entry }}”.
            </p>
            <p v-else class="sentence">
              Paper in
              <ColourInput label="Stock colour" :value="panel.stock.colour" @change="(v) => setStock({ colour: v })" />,
              <QuantityInput
                label="Stock thickness"
                unit="mm"
                :value="panel.stock_thickness"
                :min="0.05"
                :max="2"
                :step="0.01"
                :digits="2"
                @change="(v) => editPanel((p) => (p.stock_thickness = v))"
              />
              thick,
              <QuantityInput
                label="Stock gloss"
                unit="%"
                :value="panel.stock.gloss * 100"
                :min="0"
                :max="100"
                :step="5"
                :digits="0"
                @change="(v) => setStock({ gloss: v / 100 })"
              />
              gloss.
            </p>
            <p v-if="sheet" class="hint">
              Under its shine black shows as <span class="figures" data-test="deepest">{{ sheet.deepest }}</span>, and
              no print is darker.
            </p>
          </details>
        </fieldset>
        <div v-if="!onCarton" class="buttons carry">
          <Button size="small" data-test="take-label" @click="takeLabel">Take this label along</Button>
          <Button size="small" :disabled="locked" @click="takePanelOff">Take it off the pack</Button>
        </div>
      </template>
      <Button
        v-if="carried.label && !onCarton"
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
          <b>{{ showNumber(placement.width) }} × {{ showNumber(placement.width / (file?.aspect ?? 1)) }} mm</b></span
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
.note {
  position: absolute;
  left: 14px;
  right: 14px;
  bottom: 12px;
  margin: 0;
  padding: 8px 12px;
  background: #97213a;
  color: #fff;
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
.list {
  list-style: none;
  margin: 8px 0;
  padding: 0;
}
.list button {
  border: 0;
  background: none;
  padding: 2px 0 2px 10px;
  border-left: 3px solid transparent;
  cursor: pointer;
  text-align: left;
  word-break: break-all;
}
.list .chosen {
  border-color: var(--ribbon);
  font-weight: 600;
}
.buttons {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.hint {
  margin: 4px 0;
}
</style>
