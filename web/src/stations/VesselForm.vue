<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import {
  answer,
  api,
  type Corner,
  type Pack,
  send,
  type StartingPoint,
  type Tracing,
  type VesselPack,
  wordsFor,
} from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import StationFrame from '@/components/StationFrame.vue'
import { panelsOf, usePrints } from '@/composables/prints'
import { showNumber } from '@/composables/quantity'
import ProfileDraft from '@/flat/ProfileDraft.vue'
import SectionDraft from '@/flat/SectionDraft.vue'
import ClosureSlip from '@/form/ClosureSlip.vue'
import ContentsSlip from '@/form/ContentsSlip.vue'
import CornerSlip from '@/form/CornerSlip.vue'
import DrawingTools from '@/form/DrawingTools.vue'
import FilesMenu from '@/received/FilesMenu.vue'
import PartsSlip from '@/form/PartsSlip.vue'
import ReliefSlip from '@/form/ReliefSlip.vue'
import SectionsSlip from '@/form/SectionsSlip.vue'
import FormNotes from '@/form/FormNotes.vue'
import FormRound from '@/form/FormRound.vue'
import StartingGallery from '@/form/StartingGallery.vue'
import TracePanel from '@/form/TracePanel.vue'
import WallSlip from '@/form/WallSlip.vue'
import { takeUp } from '@/form/takeUp'
import AdditionsSlip from '@/received/AdditionsSlip.vue'
import ModelReader from '@/received/ModelReader.vue'
import { useJob } from '@/stores/job'
import { useReading } from '@/stores/reading'

type Surface = 'profile' | 'sections' | 'start' | 'trace'
const TABS: { surface: Surface; words: string }[] = [
  { surface: 'profile', words: 'Half-profile' },
  { surface: 'sections', words: 'Cross-section' },
  { surface: 'start', words: 'Start from …' },
]

const job = useJob()
const reading = useReading()
const draft = computed(() => job.pack!)
const pack = computed(() => draft.value.document as VesselPack)
const shape = computed(() => (job.shape?.kind === 'vessel' ? job.shape : null))
const facts = computed(() => shape.value?.facts ?? null)
const surface = ref<Surface>('profile')
const selected = ref(1)
const route = useRoute()
const router = useRouter()
watch(
  () => [job.pack?.saved.key, route.query.start] as const,
  ([, start]) => (surface.value = start ? 'start' : 'profile'),
  { immediate: true },
)
const section = ref(0)
const photo = ref<{ picture: string; width_px: number; height_px: number } | null>(null)
const fillProblem = ref('')
const fileProblem = ref('')
const { prints } = usePrints(
  () => ({ own: panelsOf(pack.value as Pack, job.shape) }),
  () => ({ palette: job.palette, colourway: null }),
)
const textures = computed(() => (prints.value.own ?? []).map((print) => print.texture))
const problem = computed(() => job.shapeProblem ?? (draft.value.state === 'refused' ? draft.value : null))
/** Where in the vessel something is wrong, if it is there. */
const badPlace = computed(() => problem.value?.place.replace(/^form\./, '') ?? '')
const locked = (part: string) => Boolean(pack.value.parts?.[part]?.locked)
const closureLocked = computed(() =>
  Object.entries(pack.value.parts ?? {}).some(
    ([name, s]) => s.locked && !['body', 'contents'].includes(name) && !name.startsWith('label'),
  ),
)

const edit = (change: (document: VesselPack) => void) => draft.value.edit(change as (document: Pack) => void)
const editAny = (change: (document: Pack) => void) => draft.value.edit(change)
/** The part of an added model that is looked at. */
const added = ref('')
watch(
  () => pack.value.form.body.profile.length,
  (count) => (selected.value = Math.min(selected.value, count - 1)),
)

function move(index: number, radius: number, height: number): void {
  edit((d) => Object.assign(d.form.body.profile[index]!, { radius, height }))
}
function insert(after: number, radius: number, height: number): void {
  const corner: Corner = {
    radius: Number(radius.toFixed(2)),
    height: Number(height.toFixed(2)),
    rounding: 0,
    leave: 'line',
    bulge: 0,
  }
  edit((d) => {
    corner.leave = d.form.body.profile[after]!.leave === 'curve' ? 'curve' : 'line'
    d.form.body.profile.splice(after + 1, 0, corner)
  })
  selected.value = after + 1
}
function remove(index: number): void {
  if (pack.value.form.body.profile.length <= 2) return
  edit((d) => {
    d.form.body.profile.splice(index, 1)
    if (index === 0) d.form.body.profile[0]!.height = 0
  })
  selected.value = Math.max(index - 1, 0)
}
async function fillTo(volume_ml: number): Promise<void> {
  try {
    const { fill_height } = await answer(
      api.POST('/api/fill-height', { body: { body: pack.value.form.body, volume_ml } }),
    )
    fillProblem.value = ''
    edit((d) => d.form.contents && (d.form.contents.fill_height = Number(fill_height.toFixed(3))))
  } catch (error) {
    fillProblem.value = wordsFor(error)
  }
}
function start(point: StartingPoint): void {
  draft.value.edit((d) => Object.assign(d, takeUp(d, point.pack as Pack)))
  job.startedFrom(point.slug).catch((error) => (fileProblem.value = wordsFor(error)))
  draw()
  selected.value = 1
}
/** Go on with the pack as it is; a reload does not ask again what to start from. */
function draw(): void {
  surface.value = 'profile'
  if (route.query.start) void router.replace({ query: { ...route.query, start: undefined } })
}
function traced(tracing: Tracing): void {
  edit((d) => (d.form.tracing = tracing))
  surface.value = 'profile'
}
async function bringPhoto(file: File): Promise<void> {
  fileProblem.value = ''
  try {
    const form = new FormData()
    form.append('file', file)
    const response = await send(`/api/jobs/${job.slug}/photos`, { method: 'POST', body: form })
    photo.value = await response.json()
    surface.value = 'trace'
  } catch (error) {
    fileProblem.value = wordsFor(error)
  }
}
function takeProfile(profile: Corner[]): void {
  edit((d) => {
    d.form.body.profile = profile
    d.form.body.zone_tops = {}
    d.form.body.sections = []
  })
  selected.value = 0
}
</script>

<template>
  <StationFrame name="form">
    <template #flat>
      <div class="tabs" role="toolbar" aria-label="What is drawn">
        <button
          v-for="tab in TABS"
          :key="tab.surface"
          type="button"
          :aria-pressed="surface === tab.surface"
          :data-test="`tab-${tab.surface}`"
          @click="surface = tab.surface"
        >
          {{ tab.words }}
        </button>
        <FilesMenu :pack="pack as Pack" @problem="fileProblem = $event">
          <DrawingTools
            :pack="pack"
            :slug="job.slug"
            @photo="bringPhoto"
            @profile="takeProfile"
            @problem="fileProblem = $event"
          />
        </FilesMenu>
      </div>
      <div class="table-top">
        <ModelReader v-if="reading.files.length" />
        <StartingGallery v-if="surface === 'start'" @take="start" @cancel="draw" />
        <TracePanel
          v-else-if="surface === 'trace' && photo"
          :photo="photo"
          @done="traced"
          @cancel="surface = 'profile'"
        />
        <SectionDraft
          v-else-if="surface === 'sections'"
          :pack="pack"
          :outlines="shape?.drawing.sections ?? []"
          :selected="section"
          :locked="locked('body')"
          @points="(points) => edit((d) => Object.assign(d.form.body.sections![section]!.section, { points }))"
        />
        <ProfileDraft
          v-else
          :pack="pack"
          :shape="shape"
          :selected="selected"
          :bad-place="badPlace"
          :locked="locked('body')"
          @select="selected = $event"
          @move="move"
          @insert="insert"
          @remove="remove"
          @bulge="(index, bulge) => edit((d) => (d.form.body.profile[index]!.bulge = bulge))"
          @zone="(name, top) => edit((d) => (((d.form.body.zone_tops ??= {}) as Record<string, number>)[name] = top))"
        />
        <FormNotes :problem="problem?.message ?? ''" what="pack" :file-problem="fileProblem" @away="fileProblem = ''" />
      </div>
    </template>
    <template #round>
      <FormRound v-if="shape" :shape="shape" :pictures="textures" label="The pack in the round" />
    </template>
    <template #slip>
      <h2>{{ draft.saved.name }}</h2>
      <p v-if="facts" class="sentence">
        It stands <b class="figures">{{ showNumber(facts.height) }} mm</b> tall and holds
        <b class="figures" data-test="brimful">{{ showNumber(facts.brimful_ml) }} ml</b> to the brim. It is sold as
        <QuantityInput
          label="Nominal capacity"
          unit="ml"
          :value="pack.form.nominal_capacity_ml ?? facts.brimful_ml"
          :min="0.1"
          :max="100000"
          :step="10"
          @change="(v) => edit((d) => (d.form.nominal_capacity_ml = v))"
        />.
      </p>
      <p v-if="pack.form.contents && facts" class="sentence">
        <QuantityInput
          label="Contents"
          unit="ml"
          :value="facts.contents_ml ?? 0"
          :min="0.1"
          :max="100000"
          :step="5"
          :digits="2"
          :refused="Boolean(fillProblem)"
          @change="fillTo"
        />
        fills it to
        <QuantityInput
          label="Fill height"
          unit="mm"
          :value="pack.form.contents.fill_height"
          :min="0"
          :max="2000"
          :step="0.5"
          :digits="2"
          :refused="badPlace === 'contents.fill_height'"
          @change="(v) => edit((d) => d.form.contents && (d.form.contents.fill_height = v))"
        />, <b class="figures">{{ showNumber(facts.headspace_ml ?? 0) }} ml</b> headspace.
      </p>
      <p v-if="fillProblem" class="refused" role="alert">{{ fillProblem }}</p>
      <p v-if="facts" class="sentence">
        Empty it weighs <b class="figures" data-test="empty-weight">{{ showNumber(facts.empty_g, 0) }} g</b>, filled
        <b class="figures">{{ showNumber(facts.filled_g, 0) }} g</b>.
      </p>
      <p v-for="caution in facts?.cautions ?? []" :key="caution" class="caution">{{ caution }}</p>

      <fieldset v-if="surface === 'profile'" :disabled="locked('body')">
        <CornerSlip
          :pack="pack"
          :selected="selected"
          :limit="shape?.drawing.limits[selected] ?? null"
          :bad-place="badPlace"
          :edit="edit"
          @move="move"
          @insert="insert"
          @remove="remove"
        />
      </fieldset>
      <details :open="surface === 'sections'" data-test="slip-sections">
        <summary>Cross-section</summary>
        <fieldset :disabled="locked('body')">
          <SectionsSlip
            :pack="pack"
            :height="facts?.rim_height ?? 100"
            :selected="section"
            :bad-place="badPlace"
            :edit="edit"
            @select="section = $event"
          />
        </fieldset>
      </details>
      <details data-test="slip-wall">
        <summary>Wall, base and zones</summary>
        <fieldset :disabled="locked('body')">
          <WallSlip :pack="pack" :shape="shape" :bad-place="badPlace" :edit="edit" />
        </fieldset>
      </details>
      <details data-test="slip-closure">
        <summary>Finish and closure</summary>
        <fieldset :disabled="closureLocked">
          <ClosureSlip
            :pack-name="draft.saved.name"
            :pack="pack"
            :parts="shape?.parts ?? []"
            :bad-place="badPlace"
            :edit="edit"
          />
        </fieldset>
      </details>
      <details data-test="slip-contents">
        <summary>Contents</summary>
        <fieldset :disabled="locked('contents')"><ContentsSlip :pack="pack" :facts="facts" :edit="edit" /></fieldset>
      </details>
      <details data-test="slip-relief">
        <summary>Rings, ribs and embossing</summary>
        <fieldset :disabled="locked('body')">
          <ReliefSlip
            :pack="pack"
            :height="facts?.rim_height ?? 100"
            :artwork="job.artwork"
            :bad-place="badPlace"
            :edit="edit"
          />
        </fieldset>
      </details>
      <details data-test="slip-parts">
        <summary>Parts</summary>
        <PartsSlip :pack="pack as Pack" :shape="shape" :bad-place="badPlace" :edit="editAny" />
      </details>
      <AdditionsSlip
        :pack="pack as Pack"
        :selected="added"
        :bad-place="badPlace"
        :edit="editAny"
        @select="added = $event"
      />
      <details v-if="pack.form.tracing">
        <summary>Traced photo</summary>
        <p class="sentence">
          Shown at
          <QuantityInput
            label="Strength of the photo"
            unit="%"
            :value="pack.form.tracing.strength * 100"
            :min="0"
            :max="100"
            :step="10"
            :digits="0"
            @change="(v) => edit((d) => d.form.tracing && (d.form.tracing.strength = v / 100))"
          />, <span class="figures">{{ showNumber(1 / pack.form.tracing.mm_per_px, 1) }}</span> px to the mm.
        </p>
        <Button size="small" @click="edit((d) => (d.form.tracing = null))">Take the photo away</Button>
      </details>
    </template>
    <template #rule>
      <template v-if="facts">
        <span
          >Brimful <b>{{ showNumber(facts.brimful_ml) }} ml</b></span
        >
        <span v-if="facts.contents_ml !== null && facts.contents_ml !== undefined"
          >Contents <b>{{ showNumber(facts.contents_ml) }} ml</b></span
        >
        <span v-if="facts.nominal_fill_height"
          >Nominal fills to <b>{{ showNumber(facts.nominal_fill_height) }} mm</b></span
        >
        <span
          >Outside <b>{{ showNumber(facts.outer_ml) }} ml</b></span
        >
        <span
          >Height <b>{{ showNumber(facts.height) }} mm</b></span
        >
        <span
          >Across <b>{{ showNumber(facts.diameter) }} mm</b></span
        >
        <span v-if="surface === 'profile'" class="hint"
          >Arrow keys move a corner, Insert adds one, Delete removes it.</span
        >
      </template>
    </template>
  </StationFrame>
</template>

<style scoped src="./form.css"></style>
