<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Material } from '@/api/client'
import { nameOf, useMaterialLibrary } from '@/composables/materialLibrary'
import { slugOf } from '@/composables/slug'
import MaterialChip from './MaterialChip.vue'
import MaterialTray from './MaterialTray.vue'

/** What something is made of, as the library calls it; another is chosen by its picture. */
const props = defineProps<{ material: Material | null; kinds: Material['kind'][]; label: string }>()
const emit = defineEmits<{ choose: [material: Material] }>()

const { all } = useMaterialLibrary()
const choosing = ref(false)
const known = computed(() => (props.material ? nameOf(props.material, all.value) : null))
const colour = computed(() =>
  props.material && 'colour' in props.material ? (props.material.colour ?? '#ffffff') : '#ffffff',
)
</script>

<template>
  <button
    type="button"
    class="by-picture"
    :aria-expanded="choosing"
    :data-test="`choose-${slugOf(label)}`"
    title="Choose a material by its picture"
    @click="choosing = !choosing"
  >
    <MaterialChip v-if="known" :one="known" :width="32" :height="24" />
    {{ known?.name ?? 'its own mix' }} ▾
  </button>
  <MaterialTray
    v-if="choosing"
    :kinds="kinds"
    :label="label"
    :chosen="known?.key ?? null"
    :colour="colour"
    @choose="(one) => emit('choose', one)"
    @close="choosing = false"
  />
</template>

<style scoped>
.by-picture {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  padding: 0 4px 0 0;
  font: inherit;
  font-size: 13px;
  line-height: 24px;
  color: var(--ink);
  cursor: pointer;
}
.by-picture img {
  object-fit: cover;
}
</style>
