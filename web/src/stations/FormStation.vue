<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Body, type Closure, type Contents, type Material, type Pack, wordsFor } from '@/api/client'
import MaterialSentence from '@/components/MaterialSentence.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import StationFrame from '@/components/StationFrame.vue'
import { usePrints } from '@/composables/prints'
import { showNumber } from '@/composables/quantity'
import ProfileDraft from '@/flat/ProfileDraft.vue'
import RoundView from '@/round/RoundView.vue'
import { useJob } from '@/stores/job'

const job = useJob()
const draft = computed(() => job.pack!)
const pack = computed(() => draft.value.document)
const facts = computed(() => job.shape?.facts ?? null)
const selected = ref(2)
const corner = computed(() => pack.value.body.profile[selected.value])
const turning = ref(!matchMedia('(prefers-reduced-motion: reduce)').matches)
const fillProblem = ref('')
const { prints } = usePrints(() => pack.value)
const textures = computed(() => prints.value.map((p) => p?.texture ?? null))
const problem = computed(() => job.shapeProblem ?? (draft.value.state === 'refused' ? draft.value : null))

const edit = (change: (document: Pack) => void) => draft.value.edit(change)

function move(index: number, radius: number, height: number): void {
  edit((d) => Object.assign(d.body.profile[index]!, { radius, height }))
}
function addCorner(): void {
  const at = Math.min(selected.value, pack.value.body.profile.length - 2)
  edit((d) => {
    const [a, b] = [d.body.profile[at]!, d.body.profile[at + 1]!]
    const middle = { radius: (a.radius + b.radius) / 2, height: (a.height + b.height) / 2, rounding: 0 }
    d.body.profile.splice(at + 1, 0, middle)
  })
  selected.value = at + 1
}
function removeCorner(): void {
  edit((d) => d.body.profile.splice(selected.value, 1))
  selected.value = Math.max(selected.value - 1, 0)
}
async function fillTo(volume_ml: number): Promise<void> {
  try {
    const { fill_height } = await answer(api.POST('/api/fill-height', { body: { body: pack.value.body, volume_ml } }))
    fillProblem.value = ''
    edit((d) => d.contents && (d.contents.fill_height = Number(fill_height.toFixed(2))))
  } catch (error) {
    fillProblem.value = wordsFor(error)
  }
}
async function toggleContents(on: boolean): Promise<void> {
  const middle = ((facts.value?.floor_height ?? 5) + (facts.value?.rim_height ?? 100)) / 2
  const level = facts.value?.nominal_fill_height ?? middle
  edit((d) => {
    d.contents = on
      ? { fill_height: Number(level.toFixed(2)), material: { kind: 'clear', refractive_index: 1.35, colour: '#e7a13c', depth: 60, frost: 0 } }
      : null
  })
}
function toggleClosure(on: boolean): void {
  edit((d) => {
    d.closure = on
      ? { height: 20, wall_thickness: 1.6, clearance: 0.4, rounding: 1.2, material: { kind: 'opaque', colour: '#23262b', gloss: 0.4 } }
      : null
  })
}
</script>

<template>
  <StationFrame name="form">
    <template #flat>
      <ProfileDraft
        :pack="pack" :shape="job.shape" :selected="selected" :bad-place="problem?.place ?? ''"
        @select="selected = $event" @move="move"
      />
      <p v-if="problem" class="note" role="alert" data-test="form-problem">{{ problem.message }} <em>The last good pack stays on the table.</em></p>
    </template>
    <template #round>
      <RoundView
        v-if="job.shape" :pack="pack" :shape="job.shape" :pictures="textures" :turning="turning" label="The pack in the round"
        @held="turning = false"
      />
      <Button class="turn" size="small" @click="turning = !turning">{{ turning ? 'Hold still' : 'Turn it' }}</Button>
    </template>
    <template #slip>
      <h2>{{ draft.saved.name }}</h2>
      <p v-if="facts" class="sentence">
        It stands <b class="figures">{{ showNumber(facts.height) }} mm</b> tall and holds
        <b class="figures" data-test="brimful">{{ showNumber(facts.brimful_ml) }} ml</b> to the brim. It is sold as
        <QuantityInput
          label="Nominal capacity" unit="ml" :value="pack.nominal_capacity_ml ?? facts.brimful_ml" :min="0.1" :max="100000" :step="10"
          @change="(v) => edit((d) => (d.nominal_capacity_ml = v))"
        />.
      </p>
      <template v-if="pack.contents && facts">
        <p class="sentence">
          <QuantityInput label="Contents" unit="ml" :value="facts.contents_ml ?? 0" :min="0.1" :max="100000" :step="5" :refused="Boolean(fillProblem)" @change="fillTo" />
          fills it to
          <QuantityInput label="Fill height" unit="mm" :value="pack.contents.fill_height" :min="0" :max="2000" :step="0.5" :refused="problem?.place === 'contents.fill_height'" @change="(v) => edit((d) => d.contents && (d.contents.fill_height = v))" />,
          <b class="figures">{{ showNumber(facts.headspace_ml ?? 0) }} ml</b> headspace.
        </p>
        <p v-if="fillProblem" class="refused" role="alert">{{ fillProblem }}</p>
        <p class="sentence">
          It is <MaterialSentence label="Contents" :material="pack.contents.material as Material" :kinds="['clear', 'cloudy']" @change="(m) => edit((d) => d.contents && (d.contents.material = m as Contents['material']))" />
        </p>
      </template>
      <Checkbox :checked="Boolean(pack.contents)" @change="toggleContents(!pack.contents)">It is filled</Checkbox>

      <h3>The body</h3>
      <p class="sentence">
        The wall is
        <QuantityInput label="Wall thickness" unit="mm" :value="pack.body.wall_thickness" :min="0.1" :max="100" :step="0.1" :digits="2" :refused="problem?.place === 'body.wall_thickness'" @change="(v) => edit((d) => (d.body.wall_thickness = v))" />
        thick, the base
        <QuantityInput label="Base thickness" unit="mm" :value="pack.body.base_thickness" :min="0.1" :max="200" :step="0.5" :digits="2" :refused="problem?.place === 'body.base_thickness'" @change="(v) => edit((d) => (d.body.base_thickness = v))" />.
        It is <MaterialSentence label="Body" :material="pack.body.material as Material" :kinds="['clear', 'cloudy', 'opaque', 'metal']" @change="(m) => edit((d) => (d.body.material = m as Body['material']))" />
      </p>

      <template v-if="corner">
        <h3>Corner {{ selected + 1 }} of {{ pack.body.profile.length }}</h3>
        <p class="sentence">
          <QuantityInput label="Corner radius from the axis" unit="mm" :value="corner.radius" :min="0.1" :max="1000" :step="0.5" :digits="2" @change="(v) => move(selected, v, corner!.height)" />
          from the axis,
          <QuantityInput label="Corner height" unit="mm" :value="corner.height" :min="0" :max="2000" :step="0.5" :digits="2" @change="(v) => move(selected, corner!.radius, v)" />
          up, rounded
          <QuantityInput label="Corner rounding" unit="mm" :value="corner.rounding" :min="0" :max="1000" :step="0.5" :digits="2" :refused="problem?.place === `body.profile.${selected}.rounding`" @change="(v) => edit((d) => (d.body.profile[selected]!.rounding = v))" />.
        </p>
        <Button size="small" @click="addCorner">Add a corner after it</Button>{{ ' ' }}
        <Button size="small" :disabled="pack.body.profile.length <= 2" @click="removeCorner">Remove it</Button>
      </template>

      <h3>The closure</h3>
      <p v-if="pack.closure" class="sentence">
        A cap <QuantityInput label="Closure height" unit="mm" :value="pack.closure.height" :min="1" :max="500" :step="0.5" :refused="problem?.place === 'closure.height'" @change="(v) => edit((d) => d.closure && (d.closure.height = v))" />
        high,
        <MaterialSentence label="Closure" :material="pack.closure.material as Material" :kinds="['opaque', 'metal', 'cloudy']" @change="(m) => edit((d) => d.closure && (d.closure.material = m as Closure['material']))" />
      </p>
      <Checkbox :checked="Boolean(pack.closure)" @change="toggleClosure(!pack.closure)">It is closed</Checkbox>
      <p v-for="caution in facts?.cautions ?? []" :key="caution" class="caution">{{ caution }}</p>
    </template>
    <template #rule>
      <template v-if="facts">
        <span>Brimful <b>{{ showNumber(facts.brimful_ml) }} ml</b></span>
        <span v-if="facts.contents_ml !== null && facts.contents_ml !== undefined">Contents <b>{{ showNumber(facts.contents_ml) }} ml</b></span>
        <span v-if="facts.nominal_fill_height">Nominal fills to <b>{{ showNumber(facts.nominal_fill_height) }} mm</b></span>
        <span>Height <b>{{ showNumber(facts.height) }} mm</b></span>
        <span>Across <b>{{ showNumber(facts.diameter) }} mm</b></span>
        <span class="hint">Drag a corner, or choose it and use the arrow keys (Shift: larger steps)</span>
      </template>
    </template>
  </StationFrame>
</template>

<style scoped>
.note { position: absolute; left: 14px; right: 14px; bottom: 12px; margin: 0; padding: 8px 12px; background: #97213a; color: #fff; }
.turn { position: absolute; right: 12px; bottom: 12px; }
</style>
