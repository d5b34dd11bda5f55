<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import {
  answer,
  api,
  AS_IT_IS,
  type Artwork,
  type Finding,
  type Pack,
  type Palette,
  type Panel,
  wordsFor,
} from '@/api/client'
import { shownOf } from './versions'

/** What would go wrong with a panel in print; `number` is its own among the pack's. */
const props = defineProps<{ pack: Pack; palette: Palette; panel: Panel; number: number; artwork: Artwork[] }>()
const emit = defineEmits<{ select: [placement: number] }>()

const findings = ref<Finding[] | null>(null)
const busy = ref(false)
const problem = ref('')
const WORDS = { wrong: 'to mend', look: 'to look at' } as const
// what was found is of the print as it was
watch(
  () => JSON.stringify([props.panel, props.number]),
  () => (findings.value = null),
)
async function check(): Promise<void> {
  ;[busy.value, problem.value] = [true, '']
  try {
    const body = { pack: props.pack, palette: props.palette, key: '', colourway: AS_IT_IS, panel: props.number }
    findings.value = await answer(api.POST('/api/preflight', { body }))
  } catch (error) {
    problem.value = wordsFor(error)
  }
  busy.value = false
}
const about = (one: Finding) =>
  one.placement === null
    ? ''
    : (shownOf(props.panel.placements[one.placement]?.artwork, props.palette, props.artwork)?.filename ?? '')
</script>

<template>
  <h3>Check</h3>
  <Button size="small" :loading="busy" data-test="preflight" @click="check">Check the print</Button>
  <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  <p v-if="findings && !findings.length" class="fine" data-test="nothing-found">Nothing to mend, nothing to look at.</p>
  <ul v-if="findings?.length" class="found">
    <li v-for="(one, index) in findings" :key="index" :class="one.level" :data-test="`finding-${index}`">
      <b>{{ WORDS[one.level] }}</b>: {{ one.words }}
      <button v-if="one.placement !== null" type="button" class="aside" @click="emit('select', one.placement)">
        {{ about(one) }}
      </button>
    </li>
  </ul>
</template>

<style scoped>
.fine {
  color: var(--fine);
}
.found {
  list-style: none;
  margin: 8px 0;
  padding: 0;
}
.found li {
  margin-bottom: 6px;
  padding-left: 10px;
  border-left: 3px solid var(--caution);
}
.found .wrong {
  border-color: var(--ribbon);
}
</style>
