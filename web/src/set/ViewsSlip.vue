<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Camera, Shot } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import type { Lines } from '@/composables/sight'
import { FORMATS, formatOf, viewName } from './views'

/** What a picture's format is, what lines are seen over it, and ways to look that are kept by name. */
const props = defineProps<{ shot: Shot; camera: Camera; lines: Lines[] }>()
const emit = defineEmits<{ edit: [change: (shot: Shot) => void]; lines: [lines: Lines[]] }>()

const MOST = 40
const OWN = ''
const purpose = computed(() => props.shot.purposes[0]!)
const format = computed(() => formatOf(purpose.value.width_px, purpose.value.height_px))
const formats = computed(() => [
  ...(format.value ? [] : [{ value: OWN, label: `${purpose.value.width_px} × ${purpose.value.height_px} px` }]),
  ...FORMATS.map((one) => ({ value: one.label, label: one.label })),
])
function take(label: string): void {
  const one = FORMATS.find((format) => format.label === label)
  if (one) emit('edit', (d) => Object.assign(d.purposes[0]!, { width_px: one.width, height_px: one.height }))
}
const views = computed(() => props.shot.views ?? [])
const name = ref('')
/** Keep the camera as it stands now. */
function keep(): void {
  const view = {
    name: viewName(views.value, name.value),
    camera: JSON.parse(JSON.stringify(props.camera)) as Camera,
    framed_by_hand: props.shot.framed_by_hand ?? true,
  }
  name.value = ''
  emit('edit', (d) => (d.views = [...(d.views ?? []), view]))
}
const look = (index: number) =>
  emit('edit', (d) => {
    const { camera, framed_by_hand } = JSON.parse(JSON.stringify(d.views![index])) as (typeof views.value)[number]
    Object.assign(d, { camera, framed_by_hand })
  })
const drop = (index: number) => emit('edit', (d) => d.views!.splice(index, 1))
const LINES: { key: Lines; label: string }[] = [
  { key: 'thirds', label: 'thirds' },
  { key: 'middle', label: 'its middle' },
  { key: 'safe', label: 'safe edges' },
  { key: 'text', label: 'room for text' },
]
const toggle = (key: Lines) =>
  emit('lines', props.lines.includes(key) ? props.lines.filter((one) => one !== key) : [...props.lines, key])
</script>

<template>
  <p class="sentence">
    The picture is
    <select
      aria-label="Format"
      :value="format || OWN"
      data-test="format"
      @change="(e) => take((e.target as HTMLSelectElement).value)"
    >
      <option v-for="one in formats" :key="one.value" :value="one.value">{{ one.label }}</option></select
    ><template v-if="!shot.framed_by_hand"
      >, with
      <QuantityInput
        label="Margin"
        unit="%"
        :value="(camera.margin ?? 0.15) * 100"
        :min="2"
        :max="45"
        :step="1"
        @change="(v) => emit('edit', (d) => (d.camera.margin = v / 100))"
      />
      of air on each side</template
    >.
  </p>
  <p class="sentence">
    Over it are seen
    <Checkbox
      v-for="one in LINES"
      :key="one.key"
      :checked="lines.includes(one.key)"
      :data-test="`lines-${one.key}`"
      @change="toggle(one.key)"
      >{{ one.label }}</Checkbox
    >
  </p>
  <details>
    <summary>Views kept by name</summary>
    <ul class="views">
      <li v-for="(view, index) in views" :key="view.name">
        <Button size="small" :data-test="`view-${index}`" @click="look(index)">{{ view.name }}</Button>
        <button type="button" class="aside" :aria-label="`Forget the view ${view.name}`" @click="drop(index)">×</button>
      </li>
    </ul>
    <form class="keep" @submit.prevent="keep">
      <input v-model="name" maxlength="120" aria-label="Name of the view" placeholder="Front" />
      <Button size="small" html-type="submit" :disabled="views.length >= MOST" data-test="keep-view"
        >Keep this view</Button
      >
    </form>
  </details>
</template>

<style scoped>
.views {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  padding: 0;
  margin: 4px 0;
  list-style: none;
}
.keep {
  display: flex;
  gap: 6px;
}
.keep input {
  font: inherit;
  width: 50%;
}
</style>
