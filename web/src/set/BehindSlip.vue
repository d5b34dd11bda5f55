<script setup lang="ts">
import { Checkbox, Select } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, type Behind, type Material, type PhotoSet, type StartingSurround } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import MaterialChoice from '@/components/MaterialChoice.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { useJob } from '@/stores/job'
import { BEHIND, behindKind, behindOf } from './surrounds'

/** What is seen behind what stands: the sweep, or something that gives no light. `shown` is the set as it has
 *  grown or shrunk with what stands. */
const props = defineProps<{ set: PhotoSet; shown: PhotoSet }>()
const emit = defineEmits<{
  edit: [change: (document: PhotoSet) => void]
  /** A change by hand: sweep and lights keep their sizes from now on. */
  arrange: [change: (document: PhotoSet) => void]
}>()

const job = useJob()
const behind = computed(() => props.set.behind)
const pictures = computed(() => job.artwork.map((one) => ({ value: one.sha256, label: one.filename })))
const kinds = computed(() =>
  BEHIND.map((one) => ({ ...one, disabled: one.value === 'picture' && !pictures.value.length })),
)
const choose = (kind: string) => emit('edit', (d) => (d.behind = behindOf(kind, pictures.value[0]?.value ?? '')))
const sweep = computed(() => props.set.sweep)
type Sheet = NonNullable<PhotoSet['sweep']['made_of']>
type Other = NonNullable<PhotoSet['sweep']['other']>
const onSweep = (fields: Partial<PhotoSet['sweep']>) => emit('edit', (d) => Object.assign(d.sweep, fields))
const make = (one: Material | null) => onSweep({ made_of: one as Sheet | null })
const onOther = (fields: Partial<Other>) => emit('edit', (d) => Object.assign(d.sweep.other!, fields))
/** Surrounds that may be seen behind instead of the one that lights what stands. */
const others = ref<StartingSurround[]>([])
const OWN = 'own'
watch(
  () => behind.value.kind,
  async (kind) => {
    if (kind === 'surround' && !others.value.length)
      others.value = await answer(api.GET('/api/starting-surrounds')).catch(() => [])
  },
  { immediate: true },
)
const otherKey = computed(() => {
  const other = behind.value.kind === 'surround' ? behind.value.other : null
  if (!other) return ''
  return others.value.find((one) => JSON.stringify(one.surround) === JSON.stringify(other))?.key ?? OWN
})
function showOther(key: string): void {
  if (key !== OWN) put({ other: others.value.find((one) => one.key === key)?.surround ?? null })
}
const SHINING = { kind: 'opaque', colour: '#ece8e1', gloss: 0.8, density: 1.2 } as Material
const OTHER = { way: 'up', at: 60, made_of: { kind: 'opaque', colour: '#b9b5ae', gloss: 0, density: 1.2 } } as Other
const SHEETS = [
  { value: 'paper', label: 'paper of that colour' },
  { value: 'made', label: 'made of' },
]
const WAYS = [
  { value: 'up', label: 'above the floor' },
  { value: 'across', label: 'right of the middle' },
]
const SIZES = [
  { name: 'width', label: 'Sweep width', words: 'wide,' },
  { name: 'height', label: 'Sweep height', words: 'high, and its curve has a radius of' },
  { name: 'curve_radius', label: 'Curve radius', words: '' },
] as const
const put = (fields: Partial<Record<string, unknown>>) => emit('edit', (d) => Object.assign(d.behind as Behind, fields))
</script>

<template>
  <h3>Behind</h3>
  <p class="sentence">
    Behind what stands is
    <select
      aria-label="What is behind"
      :value="behindKind(behind)"
      data-test="behind"
      @change="(e) => choose((e.target as HTMLSelectElement).value)"
    >
      <option v-for="one in kinds" :key="one.value" :value="one.value" :disabled="one.disabled">{{ one.label }}</option>
    </select>
    <template v-if="behind.kind === 'sweep'">
      in
      <ColourInput
        label="Background colour"
        :value="set.background"
        @change="(v) => emit('edit', (d) => (d.background = v))"
      />.
    </template>
    <template v-else-if="behind.kind === 'colour' && behindKind(behind) !== 'white'">
      in <ColourInput label="Colour behind" :value="behind.colour ?? '#ffffff'" @change="(v) => put({ colour: v })" />.
    </template>
    <template v-else-if="behind.kind === 'gradient'">
      from
      <ColourInput label="First colour behind" :value="behind.first ?? '#ffffff'" @change="(v) => put({ first: v })" />
      to
      <ColourInput
        label="Second colour behind"
        :value="behind.second ?? '#ffffff'"
        @change="(v) => put({ second: v })"
      />,
      <Checkbox :checked="behind.round ?? false" data-test="round" @change="put({ round: !behind.round })"
        >from its middle outwards</Checkbox
      ><template v-if="!behind.round"
        >, turned by
        <QuantityInput
          label="Turn of the gradient"
          unit="°"
          :value="behind.turn ?? 0"
          :min="-180"
          :max="180"
          :step="15"
          @change="(v) => put({ turn: v })" /></template
      >.
    </template>
    <template v-else-if="behind.kind === 'picture'">
      called
      <select
        aria-label="Picture behind"
        :value="behind.picture"
        @change="(e) => put({ picture: (e.target as HTMLSelectElement).value })"
      >
        <option v-for="one in pictures" :key="one.value" :value="one.value">{{ one.label }}</option></select
      >, blurred by
      <QuantityInput
        label="Blur of the picture behind"
        unit="%"
        :value="(behind.blur ?? 0) * 100"
        :min="0"
        :max="20"
        :step="0.5"
        @change="(v) => put({ blur: v / 100 })"
      />
      of its width.
    </template>
    <template v-else-if="behind.kind === 'surround'">
      , namely
      <select
        aria-label="Which surround is behind"
        :value="otherKey"
        data-test="behind-other"
        @change="(e) => showOther((e.target as HTMLSelectElement).value)"
      >
        <option value="">the one that lights it</option>
        <option v-for="one in others" :key="one.key" :value="one.key">{{ one.title }}</option>
        <option v-if="otherKey === OWN" :value="OWN">one of its own</option></select
      >, blurred by
      <QuantityInput
        label="Blur of what is behind"
        unit="°"
        :value="behind.blur ?? 0"
        :min="0"
        :max="90"
        @change="(v) => put({ blur: v })"
      />
      more than it is.
    </template>
  </p>
  <details>
    <summary>The sweep: its material, a second part, its size</summary>
    <p class="sentence">
      It is
      <Select
        size="small"
        aria-label="What the sweep is"
        :value="sweep.made_of ? 'made' : 'paper'"
        :options="SHEETS"
        :dropdown-match-select-width="false"
        data-test="sweep-is"
        @change="(v) => make(v === 'made' ? { ...SHINING } : null)"
      />
      <MaterialChoice
        v-if="sweep.made_of"
        :material="sweep.made_of"
        :kinds="['opaque', 'metal']"
        label="Sweep"
        @choose="(one) => make(one)"
      />
      <template v-if="sweep.made_of">
        of gloss
        <QuantityInput
          label="Sweep gloss"
          unit="%"
          :value="sweep.made_of.gloss * 100"
          :min="0"
          :max="100"
          :step="10"
          :digits="0"
          @change="(v) => make({ ...sweep.made_of!, gloss: v / 100 } as Material)"
        /> </template
      >.
    </p>
    <p class="sentence">
      <Checkbox
        :checked="Boolean(sweep.other)"
        data-test="two-parts"
        @change="onSweep({ other: sweep.other ? null : OTHER })"
        >Another part begins</Checkbox
      >
      <template v-if="sweep.other">
        <QuantityInput
          label="Where the other part begins"
          unit="mm"
          :value="sweep.other.at"
          :min="-5000"
          :max="5000"
          :step="10"
          :digits="0"
          @change="(v) => onOther({ at: v })"
        />
        <Select
          size="small"
          aria-label="Which way the other part begins"
          :value="sweep.other.way"
          :options="WAYS"
          :dropdown-match-select-width="false"
          @change="(v) => onOther({ way: v as 'up' | 'across' })"
        />, of
        <MaterialChoice
          :material="sweep.other.made_of"
          :kinds="['opaque', 'metal']"
          label="Other part of the sweep"
          @choose="(one) => onOther({ made_of: one as Sheet })"
        />
        <template v-if="sweep.other.made_of.kind === 'opaque'">
          in
          <ColourInput
            label="Colour of the other part"
            :value="sweep.other.made_of.colour"
            @change="(v) => onOther({ made_of: { ...sweep.other!.made_of, colour: v } as Sheet })" /></template
        >.
      </template>
    </p>
    <p class="sentence">
      It is
      <template v-for="one in SIZES" :key="one.name">
        <QuantityInput
          :label="one.label"
          unit="mm"
          :value="shown.sweep[one.name]"
          :min="10"
          :max="5000"
          :step="50"
          :digits="0"
          @change="(v) => emit('arrange', (d) => (d.sweep[one.name] = v))"
        />
        {{ one.words }}
      </template>
    </p>
  </details>
  <p v-if="behind.kind !== 'sweep'" class="sentence">
    <Checkbox
      :checked="behind.shadow ?? true"
      data-test="behind-shadow"
      @change="put({ shadow: !(behind.shadow ?? true) })"
      >The shadow on the floor is seen on it</Checkbox
    >
  </p>
</template>
