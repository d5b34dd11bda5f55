<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import type { Arrangement, PhotoSet, PropKind } from '@/api/client'
import StationFrame from '@/components/StationFrame.vue'
import { useArranging } from '@/set/arranging'
import { usePlan } from '@/composables/plan'
import { usePrints } from '@/composables/prints'
import { showNumber } from '@/composables/quantity'
import type { Share } from '@/composables/proofSize'
import type { Lines, Sight } from '@/composables/sight'
import { useShapes } from '@/composables/shapes'
import FloorPlan from '@/flat/FloorPlan.vue'
import PinnedReferences from '@/flat/PinnedReferences.vue'
import SideView from '@/flat/SideView.vue'
import CameraView from '@/round/CameraView.vue'
import ExposureSight from '@/round/ExposureSight.vue'
import FrameLines from '@/round/FrameLines.vue'
import PartFrame from '@/round/PartFrame.vue'
import ReferenceSight from '@/round/ReferenceSight.vue'
import AroundSlip from '@/set/AroundSlip.vue'
import BehindSlip from '@/set/BehindSlip.vue'
import CameraSlip from '@/set/CameraSlip.vue'
import ColourwaySlip from '@/set/ColourwaySlip.vue'
import { aimAt, hangAt, type NewLight, type Place } from '@/set/lights'
import LightsSlip from '@/set/LightsSlip.vue'
import { useBefore } from '@/set/before'
import { AS_IT_IS_WORDS, printed, texturesOf, useCompared } from '@/set/comparing'
import { useHands } from '@/set/hands'
import { useModelProp } from '@/set/modelProp'
import { together } from '@/set/moving'
import PackTray from '@/set/PackTray.vue'
import { usePropsOnSet } from '@/set/propsOnSet'
import PropTray from '@/set/PropTray.vue'
import { hintFor, usePointing } from '@/set/pointing'
import ProofRule from '@/set/ProofRule.vue'
import ProofTools, { type Shows } from '@/set/ProofTools.vue'
import { useReferences } from '@/set/references'
import ReferenceSlip from '@/set/ReferenceSlip.vue'
import ShotSlip from '@/set/ShotSlip.vue'
import ShotStrip from '@/set/ShotStrip.vue'
import StandingSlip from '@/set/StandingSlip.vue'
import { useStanding } from '@/set/standing'
import StandsList from '@/set/StandsList.vue'
import ViewsSlip from '@/set/ViewsSlip.vue'
import { useWalking } from '@/set/walking'
import { useJob } from '@/stores/job'
import { useProof } from '@/stores/proof'
import { useThumbnails } from '@/stores/thumbnails'

const LONGEST_SLEEP_MS = 4000
/** Of shots one flicks between. */
const PRINTS_KEPT = 40

const job = useJob()
const thumbnails = useThumbnails()
const route = useRoute()
const router = useRouter()
const set = computed(() => job.photoSet!.document)
const shot = computed(() => job.shot!.document)
const selected = ref(0)
const chosen = ref<string[]>([])
const proofing = useProof()
const { proof, problem, waits, aspect, touched, arrived, held, hold, alone, everything, compare } = proofing
const { size, part, beneath, refineOnly, beside } = proofing
const { before, keep, drop, goBack } = useBefore(proofing)
const awake = ref(false)
watch([proof, touched], () => (awake.value ||= Boolean(proof.value) || !arrived.value))
onMounted(() => setTimeout(() => (awake.value = true), LONGEST_SLEEP_MS))
const colours = () => ({ palette: job.palette, colourway: job.colourway?.document ?? null })
const { shapes } = useShapes(() => job.standing, colours)
const { shapes: propShapes } = usePropsOnSet(set, colours)
const { compared, compareWith } = useCompared(proofing, propShapes)
const { prints } = usePrints(
  () => (awake.value ? printed(job.standing, shapes.value) : undefined),
  colours,
  PRINTS_KEPT,
)
const allShapes = computed(() => ({ ...shapes.value, ...propShapes.value }))
const textures = computed(() => texturesOf(prints.value))
const { plan, camera, view } = usePlan(
  () => job.shotId,
  () => set.value,
  () => shot.value,
  () => job.standing,
)
/** The set as it has arranged itself, until the core has said so as the document has it. */
const shownSet = computed(() => plan.value?.photo_set ?? set.value)
const { arrange, problem: arrangeProblem } = useArranging()
const refused = computed(() => [job.photoSet!, job.shot!].find((d) => d.state === 'refused')?.message)
const { boxes, names } = useStanding(set)
watch(
  () => job.shotId,
  () => (chosen.value = []),
)

const editSet = (change: (document: PhotoSet) => void) => job.photoSet!.edit(change)
/** Change the set by hand: it keeps its size from now on. */
function arrangeByHand(change: (document: PhotoSet) => void): void {
  const { lights, sweep } = JSON.parse(JSON.stringify(shownSet.value)) as PhotoSet
  editSet((d) => {
    if (d.scaled_for) Object.assign(d, { lights, sweep, scaled_for: null })
    change(d)
  })
}
const follow = () => editSet((d) => (d.scaled_for = Math.max(plan.value?.reach ?? 240, 1)))
const { turning, stand, look, fit, orbit, pan, nearer } = useWalking(camera, plan, aspect, editSet)
const choosingProps = ref(false)
const { reading, standModel } = useModelProp(doArrange, (words) => (arrangeProblem.value = words))
async function doArrange(how: Arrangement): Promise<void> {
  const fresh = await arrange(how)
  if (fresh.length) chosen.value = fresh
}
const { move, lift } = useHands(set, plan, editSet, async (how, quietly) => {
  await arrange(how)
  if (quietly) arrangeProblem.value = ''
})
async function dropped(what: string, x: number, y: number): Promise<void> {
  const [kind, name] = what.split(/:(.*)/)
  if (kind === 'pack') await doArrange({ kind: 'stand', pack: name!, x, y })
  if (kind === 'prop') await doArrange({ kind: 'stand-prop', what: name as PropKind['what'], x, y })
}
/** What is seen over the proof, and what is told of it. */
const shows = ref<Shows>('nothing')
/** Whether the hand says what part of the picture alone is refined. */
const choosingPart = ref(false)
function choosePart(share: Share): void {
  refineOnly(share)
  choosingPart.value = false
}
const sight = ref<Sight | null>(null)
const lines = ref<Lines[]>([])
const FROM = [
  { value: 'above', label: 'From above' },
  { value: 'side', label: 'From the side' },
]
const from = ref<string | number>('above')
const close = ref(false)
const hungAt = (index: number) => plan.value!.lights[index]!
const hang = (index: number, centre: Place) => arrangeByHand((d) => hangAt(d.lights[index]!, centre, hungAt(index)))
const aim = (index: number, target: Place) => arrangeByHand((d) => aimAt(d.lights[index]!, target, hungAt(index)))
async function hangNew(what: NewLight): Promise<void> {
  await arrange({ kind: 'hang-light', what })
  selected.value = set.value.lights.length - 1
}
const { pointing, focusing, focusProblem, pointAt } = usePointing({
  highlight: (how) => arrange({ ...how, light: selected.value }),
  focus: ([x, y, z]) => look((c) => (c.focus = { x, y, z })),
})
watch([selected, () => job.shotId, choosingPart], () => ((pointing.value = null), (focusing.value = false)))
watch([pointing, focusing], ([light, lens]) => (light || lens) && (choosingPart.value = false))
watch([() => job.shotId, () => set.value.lights.length], () => (alone.value = null))
function choose(ids: string[]): void {
  chosen.value = ids
}
function openShot(key: string, colourway = job.colourway?.saved.key ?? ''): void {
  void router.push({ query: { ...route.query, shot: key || undefined, colourway: colourway || undefined } })
}
/** Whoever comes to a shot sees its kept picture at once, until the proof is there or the hand moves. */
const kept = computed(() => {
  if (!arrived.value || beside.value || job.drafts.some((draft) => draft.state !== 'saved')) return null
  const small = thumbnails.of(job.shot!.saved, job.colourway?.saved.key ?? '')
  return small?.fresh ? small.address : null
})
const {
  seen: seenReferences,
  beside: besideIt,
  over,
  wipe,
} = useReferences(
  shot,
  () => job.artwork,
  (change) => job.shot!.edit(change),
)
const viewAngle = computed(() =>
  plan.value
    ? 2 * Math.atan(Math.tan((plan.value.view.vertical_angle * Math.PI) / 360) * aspect.value) * (180 / Math.PI)
    : 20,
)
</script>

<template>
  <StationFrame name="set">
    <template #flat>
      <FloorPlan
        v-if="plan && from === 'above'"
        :plan="plan"
        :set="shownSet"
        :camera="camera"
        :view-angle="viewAngle"
        :selected="selected"
        :chosen="chosen"
        :names="names"
        :close="close"
        :together="(ids) => together(set, ids)"
        @select="selected = $event"
        @choose="choose"
        @move="move"
        @dropped="dropped"
        @hang="hang"
        @aim="aim"
        @move-camera="(azimuth, distance) => stand((c) => Object.assign(c, { azimuth, distance }))"
      />
      <SideView
        v-else-if="plan"
        :plan="plan"
        :set="shownSet"
        :camera="camera"
        :selected="selected"
        :chosen="chosen"
        :names="names"
        :close="close"
        @select="selected = $event"
        @choose="choose"
        @hang="hang"
        @aim="aim"
        @lift="lift"
        @camera-height="(height) => stand((c) => (c.height = height))"
      />
      <div class="ways">
        <Segmented v-model:value="from" size="small" :options="FROM" data-test="from" />
        <Button size="small" data-test="plan-zoom" @click="close = !close">{{
          close ? 'Show the whole set' : 'Show what stands'
        }}</Button>
      </div>
      <PinnedReferences :shown="besideIt" />
      <PackTray
        :packs="job.packs"
        @stand="(pack) => doArrange({ kind: 'stand', pack })"
        @props="choosingProps = !choosingProps"
      />
      <PropTray
        v-if="choosingProps"
        :reading="reading"
        @arrange="doArrange"
        @model="standModel"
        @close="choosingProps = false"
      />
    </template>
    <template #round>
      <div class="seen">
        <CameraView
          :stands="plan?.stands ?? []"
          :shapes="allShapes"
          :pictures="textures"
          :set="shownSet"
          :plan="plan"
          :view="view"
          :aspect="aspect"
          :proof="proof?.address ?? null"
          :part="part"
          :beneath="beneath"
          :kept="kept"
          :awake="awake"
          :chosen="chosen"
          :pointing="Boolean(pointing) || focusing"
          :beside="compared ?? before"
          :name="compared ? (job.colourway?.saved.name ?? AS_IT_IS_WORDS) : 'now'"
          @dropped="dropped"
          @orbit="orbit"
          @pan="pan"
          @point="pointAt"
          @choose="choose"
          @move="(id, dx, dy, done) => move(together(set, [id]), dx, dy, done)"
          @nearer="nearer"
        >
          <ExposureSight :proof="proof?.address ?? null" :part="part" :shows="shows" @told="sight = $event" />
          <FrameLines v-if="lines.length" :shown="lines" />
          <ReferenceSight :shown="over" @wipe="wipe" />
          <PartFrame :part="part" :choosing="choosingPart" @chosen="choosePart" />
        </CameraView>
        <ProofTools
          v-model:shows="shows"
          v-model:size="size"
          v-model:choosing="choosingPart"
          :partly="Boolean(part)"
          :before="Boolean(before)"
          :keepable="Boolean(proof)"
          :held="held"
          @whole="refineOnly(null)"
          @keep="keep"
          @drop-before="drop"
          @go-back="goBack"
          @hold="hold"
        />
      </div>
      <p v-if="problem || refused || arrangeProblem || focusProblem" class="over-flat" role="alert">
        {{ arrangeProblem || focusProblem || problem || refused }}
      </p>
    </template>
    <template #slip>
      <StandingSlip
        :set="set"
        :plan="plan"
        :chosen="chosen"
        :names="names"
        :boxes="boxes"
        @arrange="doArrange"
        @edit="editSet"
        @choose="choose"
      />
      <ShotSlip />
      <StandsList
        :set="set"
        :plan="plan"
        :line-up="shot.line_up ?? null"
        :chosen="chosen"
        :names="names"
        @choose="choose"
        @edit="editSet"
        @arrange="doArrange"
        @drop="(ids) => doArrange({ kind: 'take-away', ids })"
        @fit="fit"
      />
      <ColourwaySlip
        :compared="compared?.name ?? ''"
        @open="(key) => openShot(job.shot!.saved.key, key)"
        @compare="compareWith"
        @stop-comparing="compare(null)"
      />
      <CameraSlip
        :shot="shot"
        :camera="camera"
        :fit="plan?.fit ?? null"
        :sharp="plan?.sharp ?? null"
        :focusing="focusing"
        :everything="everything"
        @focusing="focusing = $event"
        @everything="everything = $event"
        @look="look"
        @stand="stand"
        @expose="(v) => job.shot!.edit((d) => (d.grade.exposure_ev = v))"
        @fit="fit"
      />
      <ViewsSlip
        :shot="shot"
        :camera="camera"
        :lines="lines"
        @edit="(change) => job.shot!.edit(change)"
        @lines="lines = $event"
      />
      <ReferenceSlip
        :shot="shot"
        :seen="seenReferences"
        @edit="(change) => job.shot!.edit(change)"
        @seen="seenReferences = $event"
      />
      <LightsSlip
        :set="set"
        :shown="shownSet"
        :plan="plan"
        :selected="Math.max(selected, 0)"
        :alone="alone"
        :pointing="pointing"
        :names="names"
        @select="selected = $event"
        @hang="hangNew"
        @arrange-all="doArrange"
        @alone="alone = $event"
        @point="pointing = $event"
        @edit="editSet"
        @arrange="arrangeByHand"
        @follow="follow"
      />
      <AroundSlip :set="set" :turning="turning" @edit="editSet" @turning="turning = $event" />
      <BehindSlip :set="set" :shown="shownSet" @edit="editSet" @arrange="arrangeByHand" />
    </template>
    <template #strip>
      <ShotStrip @open="openShot" />
    </template>
    <template #rule>
      <span
        >Angle of view <b>{{ showNumber(viewAngle) }}°</b></span
      >
      <ProofRule :proof="proof" :sight="sight" :alone="alone !== null" :held="held" :waits="waits" />
      <span class="hint">{{ hintFor(pointing, focusing, choosingPart) }}</span>
    </template>
  </StationFrame>
</template>

<style scoped>
.ways {
  position: absolute;
  left: 12px;
  bottom: 12px;
  display: flex;
  gap: 8px;
}
.seen {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  height: 100%;
}
</style>
