<script setup lang="ts">
import { computed, ref } from 'vue'

import { type Label, send, wordsFor } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'

/** What a label is cut to: its rectangle, with round corners, an oval, or an outline from a file. */
const props = defineProps<{
  label: Exclude<Label, { kind: 'sleeve' }>
  refused: (field: string) => boolean
  set: (change: object) => void
}>()

type Ring = [number, number][]

const OVAL_STEPS = 180
/** mm that a label is larger than its outline, which may be rounded. */
const ROOM = 0.02
const chooser = ref<HTMLInputElement>()
const problem = ref('')
const shape = computed(() => {
  if (props.label.outline?.length === OVAL_STEPS) return 'oval'
  return props.label.outline ? 'own' : 'corners'
})

function oval(): [number, number][] {
  const { width, height } = props.label
  return Array.from({ length: OVAL_STEPS }, (_, i) => {
    const turn = (2 * Math.PI * i) / OVAL_STEPS
    return [Math.cos(turn) * width, Math.sin(turn) * height].map((v) => Number((v / 2).toFixed(3))) as [number, number]
  })
}
function choose(kind: string): void {
  problem.value = ''
  if (kind === 'file') return chooser.value?.click()
  props.set(kind === 'oval' ? { outline: oval(), rounding: 0 } : { outline: null })
}
/** The largest outline of a drawing is what the label is cut to, and how large it is. */
async function read(input: HTMLInputElement): Promise<void> {
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    const body = new FormData()
    body.append('file', file)
    const response = await send('/api/blank/outline', { method: 'POST', body })
    const { shape: ring, across, high } = (await response.json()) as { shape: Ring; across: number; high: number }
    const outline = ring.map(([x, y]) => [x - across / 2, y - high / 2].map((v) => Number(v.toFixed(3))))
    const [width, height] = [across, high].map((side) => Number((side + ROOM).toFixed(3)))
    props.set({ outline, rounding: 0, width, height })
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
</script>

<template>
  <p class="sentence">
    It is cut
    <select
      :value="shape"
      aria-label="What the label is cut to"
      data-test="label-cut"
      @change="(e) => choose((e.target as HTMLSelectElement).value)"
    >
      <option value="corners">straight, corners rounded</option>
      <option value="oval">to an oval</option>
      <option v-if="shape === 'own'" value="own">to its own outline</option>
      <option value="file">to an outline from a file …</option></select
    ><template v-if="shape === 'corners'">
      by
      <QuantityInput
        label="Rounding of corners"
        unit="mm"
        :value="label.rounding ?? 0"
        :min="0"
        :max="500"
        :digits="2"
        :refused="refused('rounding')"
        @change="(v) => set({ rounding: v })" /></template
    >.
    <input
      ref="chooser"
      type="file"
      hidden
      accept=".svg,.dxf,.pdf"
      data-test="cut-file"
      @change="(e) => read(e.target as HTMLInputElement)"
    />
  </p>
  <p v-if="problem" class="caution" role="alert">{{ problem }}</p>
</template>
