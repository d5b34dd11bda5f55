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
const props = defineProps<{
  /** The pack's key. */
  slug: string
  pack: Pack
  palette: Palette
  panel: Panel
  number: number
  artwork: Artwork[]
  shots: { saved: { id: number; name: string } }[]
}>()
const emit = defineEmits<{ select: [placement: number] }>()

/** The shot whose picture it is looked at in. */
const shot = ref(props.shots[0]?.saved.id ?? null)
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
    const { pack, palette, slug, number } = props
    const body = { pack, palette, key: slug, colourway: AS_IT_IS, panel: number, shot: shot.value }
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
  <p class="sentence">
    In print, and as seen in
    <select v-model="shot" aria-label="Shot that it is seen in" data-test="preflight-shot">
      <option v-for="one in shots" :key="one.saved.id" :value="one.saved.id">{{ one.saved.name }}</option></select
    >.
  </p>
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
