<script setup lang="ts">
import { Button, Slider } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Closure, type Finish, type Made, type VesselPack, wordsFor } from '@/api/client'
import MaterialSentence from '@/components/MaterialSentence.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { partOfField } from './materials'
import { useCarried } from '@/stores/carried'
import FieldRows from './FieldRows.vue'
import { CLOSURES, type Field } from './fields'

const props = defineProps<{
  pack: VesselPack
  parts: string[]
  packName: string
  badPlace: string
  edit: (change: (document: VesselPack) => void) => void
}>()
const carried = useCarried()

const finishes = ref<Finish[]>([])
void answer(api.GET('/api/finishes')).then((found) => (finishes.value = found))
const problem = ref('')
const closure = computed(() => props.pack.form.closure)
const kind = computed(() => CLOSURES.find((k) => k.kind === closure.value?.kind))
const finish = computed(() => props.pack.form.body.finish)
const own = computed(
  () => finish.value && !finishes.value.some((f) => JSON.stringify(f) === JSON.stringify(finish.value)),
)
const chosen = (event: Event) => (event.target as HTMLSelectElement).value

const FINISH: Field[] = [
  { name: 'thread_diameter', label: 'Thread diameter T', unit: 'mm', min: 4, max: 200, step: 0.1, digits: 2 },
  { name: 'neck_diameter', label: 'Neck diameter E', unit: 'mm', min: 3, max: 200, step: 0.1, digits: 2 },
  { name: 'bore', label: 'Bore I', unit: 'mm', min: 1, max: 200, step: 0.1, digits: 2 },
  { name: 'height', label: 'Height H', unit: 'mm', min: 2, max: 60, step: 0.1, digits: 2 },
  { name: 'pitch', label: 'Pitch', unit: 'mm', min: 0.5, max: 12, step: 0.1, digits: 3 },
  { name: 'turns', label: 'Turns', unit: '', min: 0.25, max: 6, step: 0.25, digits: 2 },
]

/** How far the lifting slider goes: enough to take the longest pipette out. */
const lifted = computed(() => closure.value?.lift ?? 0)

async function choose(next: string): Promise<void> {
  if (next === 'none') return props.edit((d) => (d.form.closure = null))
  try {
    const made = await answer(
      api.POST('/api/closure', { body: { body: props.pack.form.body, kind: next as Closure['kind'] } }),
    )
    problem.value = ''
    props.edit((d) => (d.form.closure = made.closure as Closure))
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
function takeFinish(name: string): void {
  const found = finishes.value.find((f) => f.name === name)
  props.edit((d) => (d.form.body.finish = name === 'none' ? null : found ? { ...found } : d.form.body.finish))
}
const takeAlong = () => (carried.closure = { what: closure.value!, from: props.packName })
/** The closure of another pack. */
function putOn(): void {
  props.edit((d) => (d.form.closure = JSON.parse(JSON.stringify(carried.closure!.what)) as Closure))
}
const set = (change: object) => props.edit((d) => d.form.closure && Object.assign(d.form.closure, change))
const materialOf = (name: string) => (closure.value as unknown as Record<string, Made>)[name]!
</script>

<template>
  <p class="row">
    <span>Finish</span>
    <select aria-label="Finish" :value="finish?.name ?? 'none'" @change="takeFinish(chosen($event))">
      <option value="none">none, a plain rim</option>
      <option v-for="f in finishes" :key="f.name" :value="f.name">
        {{ f.name }}{{ own && f.name === finish?.name ? ', changed' : '' }}
      </option>
      <option v-if="finish && !finishes.some((f) => f.name === finish!.name)" :value="finish.name">
        {{ finish.name }}
      </option>
    </select>
  </p>
  <details v-if="finish" class="inner">
    <summary>Sizes of the {{ finish.name }} finish</summary>
    <FieldRows
      :fields="FINISH"
      :values="finish"
      :bad-place="badPlace"
      place="body.finish"
      prefix="Finish "
      @change="(name, v) => edit((d) => d.form.body.finish && Object.assign(d.form.body.finish, { [name]: v }))"
    />
  </details>
  <p class="row">
    <span>Shut by a</span>
    <select aria-label="Closure: what kind" :value="closure?.kind ?? 'none'" @change="choose(chosen($event))">
      <option value="none">nothing, it is open</option>
      <option v-for="k in CLOSURES" :key="k.kind" :value="k.kind">{{ k.title }}</option>
    </select>
  </p>
  <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  <template v-if="closure && kind">
    <FieldRows
      :fields="kind.fields"
      :values="closure"
      :bad-place="badPlace"
      place="closure"
      @change="(name, v) => set({ [name]: v })"
    />
    <p v-for="m in kind.materials" :key="m.name" class="sentence">
      {{ m.label }}:
      <MaterialSentence
        :label="m.label"
        :part="partOfField(m.name, parts)"
        :material="materialOf(m.name)"
        :kinds="m.kinds"
        @change="(v) => set({ [m.name]: v })"
      />
    </p>
    <div class="lift">
      <span>Lifted</span>
      <Slider
        :value="lifted"
        :min="0"
        :max="200"
        :step="1"
        :disabled="closure.beside"
        aria-label="Lift the closure"
        @change="(v) => set({ lift: Number(v) })"
      />
      <QuantityInput
        label="Lifted"
        unit="mm"
        :value="lifted"
        :min="0"
        :max="2000"
        :step="1"
        :digits="1"
        @change="(v) => set({ lift: v })"
      />
    </div>
    <p class="row">
      <span>Leaning to the right</span>
      <QuantityInput
        label="Leaning"
        unit="°"
        :value="closure.tilt"
        :min="-180"
        :max="180"
        :step="5"
        :digits="0"
        :refused="badPlace === 'closure.tilt'"
        @change="(v) => set({ tilt: v })"
      />
    </p>
    <label class="check"
      ><input type="checkbox" :checked="closure.beside" data-test="beside" @change="set({ beside: !closure.beside })" />
      Lay it beside the pack</label
    >
  </template>
  <p class="carry">
    <Button v-if="closure" size="small" data-test="take-closure" @click="takeAlong">Take it along</Button>
    {{ ' ' }}
    <Button v-if="carried.closure" size="small" data-test="put-closure" @click="putOn"
      >Put on the closure of {{ carried.closure.from }}</Button
    >
  </p>
</template>

<style scoped>
.row {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
  margin: 4px 0;
  font-size: 13px;
}
.lift {
  display: grid;
  grid-template-columns: auto 1fr auto;
  align-items: center;
  gap: 8px;
  font-size: 13px;
}
.inner {
  margin: 2px 0 8px !important;
  border-top: 0 !important;
  padding-top: 2px !important;
}
.check {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
  margin-top: 4px;
}
</style>
