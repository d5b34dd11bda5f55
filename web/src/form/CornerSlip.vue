<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { Corner, VesselPack } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { showNumber } from '@/composables/quantity'

const props = defineProps<{
  pack: VesselPack
  selected: number
  limit: number | null
  badPlace: string
  edit: (change: (document: VesselPack) => void) => void
}>()
const emit = defineEmits<{
  move: [index: number, radius: number, height: number]
  insert: [after: number, radius: number, height: number]
  remove: [index: number]
}>()

const corners = computed(() => props.pack.form.body.profile)
const corner = computed(() => corners.value[props.selected])
const last = computed(() => props.selected === corners.value.length - 1)
const place = computed(() => `body.profile.${props.selected}`)
const set = (change: Partial<Corner>) => props.edit((d) => Object.assign(d.form.body.profile[props.selected]!, change))

function leave(how: string): void {
  const [a, b] = [corner.value!, corners.value[props.selected + 1]!]
  const chord = Math.hypot(b.radius - a.radius, b.height - a.height)
  set({ leave: how as Corner['leave'], bulge: how === 'arc' ? Number((a.bulge || chord / 10).toFixed(2)) : 0 })
}
function insertAfter(): void {
  const at = Math.min(props.selected, corners.value.length - 2)
  const [a, b] = [corners.value[at]!, corners.value[at + 1]!]
  emit('insert', at, (a.radius + b.radius) / 2, (a.height + b.height) / 2)
}
</script>

<template>
  <template v-if="corner">
    <h3>Corner {{ selected + 1 }} of {{ corners.length }}</h3>
    <p class="sentence">
      <QuantityInput
        label="Corner radius from the axis"
        unit="mm"
        :value="corner.radius"
        :min="0.1"
        :max="1000"
        :step="0.5"
        :digits="2"
        :refused="badPlace === `${place}.radius`"
        @change="(v) => emit('move', selected, v, corner!.height)"
      />
      from the axis,
      <QuantityInput
        label="Corner height"
        unit="mm"
        :value="corner.height"
        :min="0"
        :max="5000"
        :step="0.5"
        :digits="2"
        :refused="badPlace === `${place}.height`"
        @change="(v) => emit('move', selected, corner!.radius, v)"
      />
      up<span v-if="!last"
        >, rounded
        <QuantityInput
          label="Corner rounding"
          unit="mm"
          :value="corner.rounding"
          :min="0"
          :max="1000"
          :step="0.5"
          :digits="2"
          :refused="badPlace === `${place}.rounding`"
          @change="(v) => set({ rounding: v })"
        />
        <template v-if="limit !== null">
          (at most <b class="figures" data-test="rounding-limit">{{ showNumber(limit) }}</b>)</template
        ></span
      >.
    </p>
    <p v-if="!last" class="sentence">
      It goes on
      <select
        aria-label="How the line goes on"
        :value="corner.leave"
        @change="(e) => leave((e.target as HTMLSelectElement).value)"
      >
        <option value="line">straight</option>
        <option value="arc">as an arc</option>
        <option value="curve">as a smooth curve</option>
      </select>
      <template v-if="corner.leave === 'arc'">
        bulging
        <QuantityInput
          label="Bulge of the arc"
          unit="mm"
          :value="corner.bulge"
          :min="-1000"
          :max="1000"
          :step="0.5"
          :digits="2"
          :refused="badPlace === `${place}.bulge`"
          @change="(v) => set({ bulge: v })"
        /> </template
      >.
    </p>
    <Button size="small" @click="insertAfter">Add a corner after it</Button>{{ ' ' }}
    <Button size="small" :disabled="corners.length <= 2" @click="emit('remove', selected)">Remove it</Button>
  </template>
</template>
