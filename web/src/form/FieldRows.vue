<script setup lang="ts">
import QuantityInput from '@/components/QuantityInput.vue'
import type { Field } from './fields'

defineProps<{ fields: Field[]; values: object; badPlace: string; place: string; prefix?: string }>()
const emit = defineEmits<{ change: [name: string, value: number] }>()

const read = (values: object, field: Field) =>
  Number((values as Record<string, unknown>)[field.name] ?? 0) / (field.scale ?? 1)
</script>

<template>
  <p v-for="field in fields" :key="field.name" class="row">
    <span class="name">{{ field.label }}</span>
    <QuantityInput
      :label="(prefix ?? '') + field.label"
      :unit="field.unit"
      :value="read(values, field)"
      :min="field.min"
      :max="field.max"
      :step="field.step ?? 1"
      :digits="field.digits ?? 1"
      :refused="badPlace === `${place}.${field.name}`"
      @change="(v) => emit('change', field.name, Number((v * (field.scale ?? 1)).toFixed(5)))"
    />
  </p>
</template>

<style scoped>
.row {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
  margin: 3px 0;
}
.name {
  font-size: 13px;
}
</style>
