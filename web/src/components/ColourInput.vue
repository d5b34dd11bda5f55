<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'

import { slugOf } from '@/composables/slug'
import ColourTray from './ColourTray.vue'

const props = defineProps<{ value: string; label: string }>()
const emit = defineEmits<{ change: [value: string] }>()

const more = ref<HTMLButtonElement>()
/** Where other ways to say a colour are open. */
const at = shallowRef<DOMRect | null>(null)
const text = ref(props.value)
const bad = ref(false)
watch(
  () => props.value,
  (value) => {
    text.value = value
    bad.value = false
  },
)

function commit(): void {
  const value = text.value.trim().replace(/^#?/, '#').toLowerCase()
  bad.value = !/^#[0-9a-f]{6}$/.test(value)
  if (!bad.value && value !== props.value) emit('change', value)
}
</script>

<template>
  <span class="colour" :class="{ bad }">
    <input
      type="color"
      :value="value"
      :aria-label="label"
      @input="emit('change', ($event.target as HTMLInputElement).value)"
    />
    <input
      v-model="text"
      class="figures hex"
      :aria-label="`${label}, hex`"
      :aria-invalid="bad"
      maxlength="7"
      @change="commit"
    />
    <button
      ref="more"
      type="button"
      class="more"
      :aria-label="`${label}: by name, Lab or from a picture`"
      :aria-expanded="at !== null"
      title="By name, Lab or from a picture"
      :data-test="`more-${slugOf(label)}`"
      @click="at = at ? null : more!.getBoundingClientRect()"
    >
      ▾
    </button>
    <ColourTray
      v-if="at"
      :value="value"
      :label="label"
      :at="at"
      @change="(hex) => emit('change', hex)"
      @close="at = null"
    />
    <span v-if="bad" class="why" role="alert">Write a colour like #e6dccb.</span>
  </span>
</template>

<style scoped>
.colour {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  position: relative;
}
input[type='color'] {
  width: 26px;
  height: 20px;
  padding: 0;
  border: 1px solid var(--kraft);
  background: none;
  cursor: pointer;
}
.hex {
  width: 8.6ch;
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  font-size: 13px;
  line-height: 1.45;
  height: 22px;
  padding: 0 3px;
}
.more {
  border: 0;
  background: none;
  padding: 0 2px;
  color: var(--ink);
  cursor: pointer;
}
.bad .hex {
  border-color: #97213a;
  background: #f9e6e6;
}
.why {
  position: absolute;
  top: 100%;
  left: 0;
  z-index: 5;
  background: #97213a;
  color: #fff;
  font-size: 12px;
  padding: 4px 7px;
  white-space: nowrap;
}
</style>
