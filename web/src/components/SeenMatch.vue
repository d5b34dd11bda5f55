<script setup lang="ts">
import { inject, ref, shallowRef } from 'vue'

import type { Material } from '@/api/client'
import type { Live } from '@/composables/live'
import { slugOf } from '@/composables/slug'
import ColourTray from './ColourTray.vue'

/** Make a part look like a colour of the proof: its own colour is found for the light it stands in. */
const props = defineProps<{ material: Material; part: string; label: string }>()
const emit = defineEmits<{ change: [material: Material] }>()

const live = inject<Live | null>('live', null)
const button = ref<HTMLButtonElement>()
const at = shallowRef<DOMRect | null>(null)
const target = ref('')
const working = ref(false)
const says = ref('')

const own = () => ('tint' in props.material ? props.material.tint : props.material.colour)
const slug = slugOf(props.part)
function open(): void {
  at.value = button.value!.getBoundingClientRect()
  target.value = own()
  says.value = ''
}
async function match(done: boolean): Promise<void> {
  const wanted = target.value
  at.value = null
  if (!live || !done || wanted === own()) return
  working.value = true
  const found = await live.match(props.part, JSON.parse(JSON.stringify(props.material)) as Material, wanted)
  working.value = false
  says.value = found.problem ?? `Seen as ${found.seen}, ΔE₀₀ ${found.off!.toFixed(1)} left. ${found.why ?? ''}`
  if (found.material) emit('change', found.material)
}
</script>

<template>
  <template v-if="live">
    <button
      ref="button"
      type="button"
      class="aside"
      :disabled="working"
      :data-test="`match-${slug}`"
      title="Pick a colour in the proof: what this has to be made of to look like it is found"
      @click="open"
    >
      {{ working ? 'Matching …' : 'Match what is seen' }}
    </button>
    <ColourTray
      v-if="at"
      :value="target"
      :label="`${label}, as it is seen`"
      :at="at"
      @change="(hex) => (target = hex)"
      @close="match"
    />
    <span v-if="says" class="hint" role="status" :data-test="`matched-${slug}`">{{ says }}</span>
  </template>
</template>
