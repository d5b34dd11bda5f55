<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { parseQuantity, showNumber } from '@/composables/quantity'

const props = withDefaults(
  defineProps<{
    value: number
    unit: string
    label: string
    step?: number
    digits?: number
    min?: number
    max?: number
    refused?: boolean
  }>(),
  { step: 1, digits: 1, min: -Infinity, max: Infinity, refused: false },
)
const emit = defineEmits<{ change: [value: number] }>()

const text = ref(showNumber(props.value, props.digits))
const bad = ref('')
const width = computed(() => `${Math.max(text.value.length, 2) + 1.2}ch`)

watch(
  () => props.value,
  (value) => {
    text.value = showNumber(value, props.digits)
    bad.value = ''
  },
)

function commit(): void {
  const value = parseQuantity(text.value, props.unit)
  if (value === null) {
    bad.value = `“${text.value}” is not a number of ${props.unit}.`
  } else if (value < props.min || value > props.max) {
    const range = props.max === Infinity ? `at least ${props.min}` : `between ${props.min} and ${props.max}`
    bad.value = `${props.label}: ${range} ${props.unit}.`
  } else {
    bad.value = ''
    text.value = showNumber(value, props.digits)
    if (Math.abs(value - props.value) > 0.5 * 10 ** -props.digits || value === props.min) emit('change', value)
  }
}

function nudge(by: number): void {
  const value = Math.min(Math.max(props.value + by * props.step, props.min), props.max)
  emit('change', Number(value.toFixed(4)))
}
</script>

<template>
  <span class="quantity" :class="{ bad: bad || refused }">
    <input
      v-model="text"
      class="figures"
      :style="{ width }"
      :aria-label="`${label} (${unit})`"
      :aria-invalid="Boolean(bad || refused)"
      autocomplete="off"
      @change="commit"
      @keydown.enter="commit"
      @keydown.up.prevent="nudge($event.shiftKey ? 10 : 1)"
      @keydown.down.prevent="nudge($event.shiftKey ? -10 : -1)"
    /><span class="unit">{{ unit }}</span>
    <span v-if="bad" class="why" role="alert">{{ bad }}</span>
  </span>
</template>

<style scoped>
.quantity {
  display: inline-flex;
  align-items: baseline;
  position: relative;
  white-space: nowrap;
}
input {
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  color: var(--ink);
  padding: 0 3px;
  font-size: 13.5px;
  line-height: 1.45;
  height: 22px;
  text-align: right;
  min-width: 3.2ch;
}
input:hover {
  border-bottom-color: var(--ribbon);
}
.unit {
  margin-left: 3px;
  font-size: 12px;
  color: #5c5a54;
}
.bad input {
  border-bottom-color: #97213a;
  background: #f9e6e6;
}
.why {
  position: absolute;
  top: 100%;
  left: 0;
  z-index: 5;
  white-space: normal;
  width: max-content;
  max-width: 220px;
  background: #97213a;
  color: #fff;
  font-size: 12px;
  line-height: 1.35;
  padding: 4px 7px;
}
</style>
