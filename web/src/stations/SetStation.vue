<script setup lang="ts">
import { Button, Checkbox, Slider } from 'ant-design-vue'
import { computed, onMounted, ref, watch } from 'vue'

import type { Camera, PhotoSet, Softbox } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import StationFrame from '@/components/StationFrame.vue'
import { usePrints } from '@/composables/prints'
import { useProof } from '@/stores/proof'
import { showNumber } from '@/composables/quantity'
import { usePlan } from '@/composables/plan'
import { useView } from '@/composables/view'
import FloorPlan from '@/flat/FloorPlan.vue'
import CameraView from '@/round/CameraView.vue'
import { useJob } from '@/stores/job'

const LONGEST_SLEEP_MS = 4000
const PARTS: { value: Softbox['untouched'][number]; label: string }[] = [
  { value: 'sweep', label: 'the sweep' },
  { value: 'body', label: 'the glass' },
  { value: 'contents', label: 'the contents' },
  { value: 'closure', label: 'the closure' },
  { value: 'labels', label: 'the labels' },
]

const job = useJob()
const set = computed(() => job.photoSet!.document)
const shot = computed(() => job.shot!.document)
const camera = computed(() => shot.value.camera)
const pack = computed(() => job.pack!.document)
const selected = ref(0)
const { proof, problem, waits, aspect, touched, held, hold } = useProof()
const awake = ref(false)
watch([proof, touched], () => (awake.value = true))
onMounted(() => setTimeout(() => (awake.value = true), LONGEST_SLEEP_MS))
const { prints } = usePrints(
  () => (awake.value ? pack.value : undefined),
  () => job.palette,
)
const textures = computed(() => prints.value.map((print) => print.texture))
const view = useView(
  () => camera.value,
  () => aspect.value,
)
const plan = usePlan(
  () => job.shotId,
  () => set.value,
  () => camera.value,
)
const refused = computed(() => [job.photoSet!, job.shot!].find((d) => d.state === 'refused')?.message)

const editSet = (change: (document: PhotoSet) => void) => job.photoSet!.edit(change)
const editCamera = (change: (camera: Camera) => void) => job.shot!.edit((d) => change(d.camera))
const editLight = (index: number, change: (light: Softbox) => void) => editSet((d) => change(d.lights[index]!))

/** Take the picture of another pack. */
const show = (key: string) => job.shot!.edit((d) => (d.hero = key))
/** Let the chosen light fall on a part, or not. */
function touch(part: Softbox['untouched'][number]): void {
  editLight(selected.value, (l) => {
    l.untouched = l.untouched.includes(part) ? l.untouched.filter((p) => p !== part) : [...l.untouched, part]
  })
}
function orbit(turn: number, rise: number): void {
  editCamera((c) => {
    c.azimuth = Math.round((((c.azimuth + turn + 540) % 360) - 180) * 10) / 10
    c.height = Math.round((c.height + rise) * 10) / 10
  })
}
const viewAngle = computed(() =>
  view.value
    ? 2 * Math.atan(Math.tan((view.value.vertical_angle * Math.PI) / 360) * aspect.value) * (180 / Math.PI)
    : 20,
)
</script>

<template>
  <StationFrame name="set">
    <template #flat>
      <FloorPlan
        v-if="plan"
        :plan="plan"
        :set="set"
        :camera="camera"
        :pack-radius="(job.shape?.facts.diameter ?? 60) / 2"
        :view-angle="viewAngle"
        :selected="selected"
        @select="selected = $event"
        @move-light="(i, azimuth, distance) => editLight(i, (l) => Object.assign(l, { azimuth, distance }))"
        @move-camera="(azimuth, distance) => editCamera((c) => Object.assign(c, { azimuth, distance }))"
      />
    </template>
    <template #round>
      <CameraView
        v-if="job.shape"
        :shape="job.shape"
        :pictures="textures"
        :set="set"
        :plan="plan"
        :view="view"
        :aspect="aspect"
        :proof="proof?.address ?? null"
        :awake="awake"
        @orbit="orbit"
        @nearer="(f) => editCamera((c) => (c.distance = Math.min(Math.max(Math.round(c.distance * f), 50), 5000)))"
      />
      <Button class="hold" size="small" data-test="hold" @click="hold(!held)">{{
        held ? 'Let the proof go on' : 'Hold the proof'
      }}</Button>
      <p v-if="problem || refused" class="note" role="alert">{{ problem || refused }}</p>
    </template>
    <template #slip>
      <p v-if="job.packs.length > 1" class="sentence">
        The picture is of
        <select
          class="hero"
          :value="job.hero?.saved.key"
          aria-label="Pack the picture is of"
          data-test="hero"
          @change="show(($event.target as HTMLSelectElement).value)"
        >
          <option v-for="one in job.packs" :key="one.saved.id" :value="one.saved.key">
            {{ one.saved.name }}
          </option></select
        >.
      </p>
      <h2>Camera</h2>
      <p class="sentence">
        An
        <QuantityInput
          label="Lens"
          unit="mm"
          :value="camera.lens_mm"
          :min="8"
          :max="1200"
          :step="5"
          @change="(v) => editCamera((c) => (c.lens_mm = v))"
        />
        lens
        <QuantityInput
          label="Camera distance"
          unit="mm"
          :value="camera.distance"
          :min="50"
          :max="5000"
          :step="20"
          :digits="0"
          @change="(v) => editCamera((c) => (c.distance = v))"
        />
        away and
        <QuantityInput
          label="Camera height"
          unit="mm"
          :value="camera.height"
          :min="-2000"
          :max="5000"
          :step="10"
          @change="(v) => editCamera((c) => (c.height = v))"
        />
        up, turned
        <QuantityInput
          label="Camera turn"
          unit="°"
          :value="camera.azimuth"
          :min="-360"
          :max="360"
          :step="5"
          @change="(v) => editCamera((c) => (c.azimuth = v))"
        />
        to the right, aimed
        <QuantityInput
          label="Aim height"
          unit="mm"
          :value="camera.aim_height"
          :min="-2000"
          :max="5000"
          :step="5"
          @change="(v) => editCamera((c) => (c.aim_height = v))"
        />
        above the table.
      </p>
      <p class="sentence">
        Exposed by
        <QuantityInput
          label="Exposure"
          unit="stops"
          :value="shot.grade.exposure_ev"
          :min="-10"
          :max="10"
          :step="0.25"
          :digits="2"
          @change="(v) => job.shot!.edit((d) => (d.grade.exposure_ev = v))"
        />.
      </p>
      <h3>Lights</h3>
      <div
        v-for="(light, index) in set.lights"
        :key="index"
        class="light"
        :class="{ chosen: index === selected }"
        @focusin="selected = index"
      >
        <div class="name">
          <Checkbox :checked="light.on" @change="editLight(index, (l) => (l.on = !l.on))">{{ light.name }}</Checkbox>
          <QuantityInput
            :label="`${light.name} strength`"
            unit="W"
            :value="light.power_w"
            :min="0"
            :max="10000"
            :step="0.5"
            :digits="2"
            @change="(v) => editLight(index, (l) => (l.power_w = v))"
          />
        </div>
        <Slider
          :value="light.power_w"
          :min="0"
          :max="Math.max(30, light.power_w)"
          :step="0.1"
          :tooltip-open="false"
          :aria-label-for-handle="`${light.name} strength`"
          @change="(v) => editLight(index, (l) => (l.power_w = Number(v)))"
        />
      </div>
      <template v-if="set.lights[selected]">
        <details>
          <summary>{{ set.lights[selected]!.name }}: place and size</summary>
          <p class="sentence">
            A softbox
            <QuantityInput
              label="Light width"
              unit="mm"
              :value="set.lights[selected]!.width"
              :min="10"
              :max="4000"
              :step="50"
              :digits="0"
              @change="(v) => editLight(selected, (l) => (l.width = v))"
            />
            ×
            <QuantityInput
              label="Light height"
              unit="mm"
              :value="set.lights[selected]!.height"
              :min="10"
              :max="4000"
              :step="50"
              :digits="0"
              @change="(v) => editLight(selected, (l) => (l.height = v))"
            />,
            <QuantityInput
              label="Light distance"
              unit="mm"
              :value="set.lights[selected]!.distance"
              :min="50"
              :max="5000"
              :step="20"
              :digits="0"
              @change="(v) => editLight(selected, (l) => (l.distance = v))"
            />
            away,
            <QuantityInput
              label="Light turn"
              unit="°"
              :value="set.lights[selected]!.azimuth"
              :min="-360"
              :max="360"
              :step="5"
              @change="(v) => editLight(selected, (l) => (l.azimuth = v))"
            />
            to the right,
            <QuantityInput
              label="Light elevation"
              unit="°"
              :value="set.lights[selected]!.elevation"
              :min="-10"
              :max="90"
              :step="5"
              @change="(v) => editLight(selected, (l) => (l.elevation = v))"
            />
            up.
          </p>
          <Checkbox
            :checked="set.lights[selected]!.hidden_from_camera"
            @change="editLight(selected, (l) => (l.hidden_from_camera = !l.hidden_from_camera))"
            >The camera does not see it</Checkbox
          >
          <Checkbox
            :checked="set.lights[selected]!.hidden_from_reflections"
            @change="editLight(selected, (l) => (l.hidden_from_reflections = !l.hidden_from_reflections))"
            >Nothing reflects it</Checkbox
          >
          <fieldset class="untouched">
            <legend>It lights</legend>
            <Checkbox
              v-for="part in PARTS"
              :key="part.value"
              :checked="!set.lights[selected]!.untouched.includes(part.value)"
              @change="touch(part.value)"
              >{{ part.label }}</Checkbox
            >
          </fieldset>
        </details>
      </template>
      <h3>Surroundings</h3>
      <p class="sentence">
        The background is
        <ColourInput
          label="Background colour"
          :value="set.background"
          @change="(v) => editSet((d) => (d.background = v))"
        />, the room around adds
        <QuantityInput
          label="Surround strength"
          unit="%"
          :value="set.surround.strength * 100"
          :min="0"
          :max="2000"
          :step="2"
          :digits="0"
          @change="(v) => editSet((d) => (d.surround.strength = v / 100))"
        />
        of paper white.
      </p>
    </template>
    <template #rule>
      <span
        >Angle of view <b>{{ showNumber(viewAngle) }}°</b></span
      >
      <template v-if="proof">
        <span
          >Proof <b data-test="proof-samples">{{ proof.samples }}</b> samples</span
        >
        <span v-if="proof.noise !== null"
          >Noise <b>{{ showNumber(proof.noise, 1) }} %</b></span
        >
        <span>{{ held ? 'held' : proof.last ? 'as clean as a proof gets' : 'refining …' }}</span>
      </template>
      <span v-else data-test="proof-waits">{{ waits || (held ? 'Proof held' : 'Proof coming …') }}</span>
      <span class="hint"
        >Drag the picture to walk around, scroll to step closer; drag lights and camera on the plan</span
      >
    </template>
  </StationFrame>
</template>

<style scoped>
.hero {
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  font: inherit;
  max-width: 220px;
}
.light {
  padding: 2px 0 0 8px;
  border-left: 3px solid transparent;
}
.light.chosen {
  border-color: var(--ribbon);
}
.name {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.light :deep(.ant-slider) {
  margin: 4px 6px 8px;
}
.hold {
  position: absolute;
  right: 12px;
  bottom: 12px;
}
.untouched {
  border: 0;
  padding: 0;
  margin: 6px 0 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}
.untouched legend {
  float: left;
  width: auto;
  margin: 0 10px 0 0;
  font: inherit;
  font-size: 14px;
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
</style>
