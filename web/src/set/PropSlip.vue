<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { MadeProp, PhotoSet, Prop } from '@/api/client'
import MaterialChoice from '@/components/MaterialChoice.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { freeKey, usePropKinds } from './props'

/** How large a prop is and what of; all that are the same one change together. */
const props = defineProps<{ set: PhotoSet; id: string }>()
const emit = defineEmits<{ edit: [change: (document: PhotoSet) => void] }>()

const SIDES = [
  { name: 'width', label: 'Prop width', words: 'wide,' },
  { name: 'depth', label: 'Prop depth', words: 'deep and' },
  { name: 'height', label: 'Prop height', words: 'high' },
] as const
const ANY = ['opaque', 'clear', 'metal', 'cloudy'] as const
const kinds = usePropKinds()
const key = computed(() => {
  const of = props.set.standing?.find((one) => one.id === props.id)?.of
  return of?.kind === 'prop' ? of.prop : ''
})
const prop = computed<Prop | undefined>(() => props.set.props?.[key.value])
const made = computed(() => (prop.value?.kind === 'made' ? prop.value : null))
const kind = computed(() => kinds.value.find((one) => one.what === made.value?.what))
const alike = computed(
  () => (props.set.standing ?? []).filter((one) => one.of.kind === 'prop' && one.of.prop === key.value).length,
)
function change(fields: Partial<MadeProp>): void {
  const name = key.value
  emit('edit', (d) => Object.assign(d.props![name]!, fields))
}
/** Another size, with the proportions as they are. */
function scale(side: (typeof SIDES)[number]['name'], to: number): void {
  const by = to / made.value![side]
  const size = (mm: number) => Math.min(Math.max(Number((mm * by).toFixed(2)), 0.5), 5000)
  change({ width: size(made.value!.width), depth: size(made.value!.depth), height: size(made.value!.height) })
}
function resize(mm: number): void {
  const name = key.value
  emit('edit', (d) => {
    const its = d.props![name]!
    if (its.kind === 'received') its.received.unit_mm = mm
  })
}
/** This one no longer changes with the others. */
function apart(): void {
  const { id } = props
  const from = key.value
  emit('edit', (d) => {
    const fresh = freeKey(from.replace(/-\d+$/, ''), d.props!)
    d.props![fresh] = JSON.parse(JSON.stringify(d.props![from]!)) as Prop
    d.standing!.find((one) => one.id === id)!.of = { kind: 'prop', prop: fresh }
  })
}
</script>

<template>
  <div v-if="prop" data-test="prop-slip">
    <p v-if="made" class="sentence">
      It is
      <template v-for="side in SIDES" :key="side.name">
        <QuantityInput
          :label="side.label"
          unit="mm"
          :value="made[side.name]"
          :min="0.5"
          :max="5000"
          :step="1"
          @change="(v) => (kind?.varies ? scale(side.name, v) : change({ [side.name]: v }))"
        />
        {{ side.words }} </template
      ><template v-if="kind?.edged"
        >, its edges rounded by
        <QuantityInput
          label="Rounding of its edges"
          unit="mm"
          :value="made.edge ?? 1"
          :min="0"
          :max="500"
          :step="0.5"
          @change="(v) => change({ edge: v })" /></template
      ><template v-if="made.what === 'steps'"
        >, in
        <QuantityInput
          label="Steps"
          unit="×"
          :value="made.steps ?? 3"
          :min="2"
          :max="12"
          :step="1"
          :digits="0"
          @change="(v) => change({ steps: Math.round(v) })"
        /> </template
      >. Made of
      <MaterialChoice
        :material="made.made_of ?? null"
        :kinds="[...ANY]"
        label="Prop"
        @choose="(one) => change({ made_of: one as MadeProp['made_of'] })"
      /><template v-if="made.second"
        >, with
        <MaterialChoice
          :material="made.second"
          :kinds="[...ANY]"
          label="Its other part"
          @choose="(one) => change({ second: one as MadeProp['second'] })" /></template
      >.
    </p>
    <p v-else-if="prop.kind === 'received'" class="sentence">
      A model of yours, one of its units is
      <QuantityInput
        label="Unit of the model"
        unit="mm"
        :value="prop.received.unit_mm ?? 1"
        :min="0.0001"
        :max="100000"
        :step="1"
        @change="resize"
      />.
    </p>
    <div class="buttons">
      <Button
        v-if="kind?.varies"
        size="small"
        data-test="another"
        @click="change({ seed: ((made!.seed ?? 0) + 1) % 10000 })"
        >Another one of its kind</Button
      >
      <Button v-if="alike > 1" size="small" data-test="own" @click="apart"
        >Change this one alone ({{ alike }} alike)</Button
      >
    </div>
  </div>
</template>

<style scoped>
.buttons {
  margin: 2px 0 6px;
}
</style>
