<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { type VesselPack, type Section, send, wordsFor } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import FieldRows from './FieldRows.vue'
import { SECTIONS, startingSection } from './fields'

const props = defineProps<{
  pack: VesselPack
  height: number
  selected: number
  badPlace: string
  edit: (change: (document: VesselPack) => void) => void
}>()
const emit = defineEmits<{ select: [index: number] }>()

type OwnOutline = Extract<Section, { kind: 'own' }>
const chooser = ref<HTMLInputElement>()
const reading = ref(0)
const problem = ref('')
const marks = computed(() => props.pack.form.body.sections ?? [])
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
const fields = (kind: string) => SECTIONS.find((s) => s.kind === kind)?.fields ?? []

function whole(kind: string): void {
  props.edit(
    (d) =>
      (d.form.body.sections =
        kind === 'round' ? [] : [{ height: 0, section: startingSection(kind as Section['kind']) }]),
  )
  emit('select', 0)
}
function turn(index: number, kind: string): void {
  props.edit((d) => {
    const made = startingSection(kind as Section['kind'])
    const before = d.form.body.sections![index]!.section
    if ('depth_ratio' in made && 'depth_ratio' in before) made.depth_ratio = before.depth_ratio
    d.form.body.sections![index]!.section = made
  })
}
function add(): void {
  const last = marks.value.at(-1)
  const at = last ? Math.min(last.height + Math.max((props.height - last.height) / 2, 1), props.height) : 0
  props.edit((d) => d.form.body.sections!.push({ height: Number(at.toFixed(1)), section: { kind: 'round' } }))
  emit('select', marks.value.length - 1)
}
function read(index: number): void {
  reading.value = index
  chooser.value!.click()
}
async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  problem.value = ''
  try {
    const form = new FormData()
    form.append('file', file)
    const response = await send('/api/outline/read', { method: 'POST', body: form })
    const { points } = (await response.json()) as { points: [number, number][] }
    const smooth = points.length > 24
    props.edit((d) => Object.assign(d.form.body.sections![reading.value]!.section, { points, smooth }))
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
function remove(index: number): void {
  props.edit((d) => d.form.body.sections!.splice(index, 1))
  emit('select', 0)
}
</script>

<template>
  <p v-if="!marks.length" class="row">
    <span>Seen from above it is</span>
    <select aria-label="Cross-section" value="round" @change="whole(chosen($event))">
      <option v-for="s in SECTIONS" :key="s.kind" :value="s.kind">{{ s.title }}</option>
    </select>
  </p>
  <section
    v-for="(mark, index) in marks"
    :key="index"
    class="mark"
    :class="{ chosen: index === selected }"
    @focusin="emit('select', index)"
    @click="emit('select', index)"
  >
    <p class="row">
      <span
        >at
        <QuantityInput
          :label="`Height of cross-section ${index + 1}`"
          unit="mm"
          :value="mark.height"
          :min="0"
          :max="2000"
          :step="1"
          :refused="badPlace === `body.sections.${index}.height`"
          @change="(v) => edit((d) => (d.form.body.sections![index]!.height = v))"
      /></span>
      <select
        :aria-label="`Cross-section ${index + 1}`"
        :value="mark.section.kind"
        @change="turn(index, chosen($event))"
      >
        <option v-for="s in SECTIONS" :key="s.kind" :value="s.kind">{{ s.title }}</option>
      </select>
    </p>
    <FieldRows
      :fields="fields(mark.section.kind)"
      :values="mark.section"
      :bad-place="badPlace"
      :place="`body.sections.${index}.section`"
      :prefix="`Cross-section ${index + 1}: `"
      @change="(name, v) => edit((d) => Object.assign(d.form.body.sections![index]!.section, { [name]: v }))"
    />
    <template v-if="mark.section.kind === 'own'">
      <p class="hint">Drag its points on the drawing of the cross-section; double-click one to add another.</p>
      <p><Button size="small" @click.stop="read(index)">Read an outline (SVG, DXF) …</Button></p>
      <label class="check"
        ><input
          type="checkbox"
          :checked="mark.section.smooth"
          @change="
            edit((d) =>
              Object.assign(d.form.body.sections![index]!.section, { smooth: !(mark.section as OwnOutline).smooth }),
            )
          "
        />
        smooth through its points</label
      >
    </template>
    <Button size="small" @click.stop="remove(index)">Remove it</Button>
  </section>
  <Button v-if="marks.length" size="small" @click="add">Add a cross-section above</Button>
  <input ref="chooser" type="file" accept=".svg,.dxf" hidden data-test="outline-file" @change="take" />
  <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  <p v-if="marks.length > 1" class="hint">Between two heights one changes smoothly into the other.</p>
</template>

<style scoped>
.row {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
  margin: 4px 0;
  font-size: 13px;
}
select {
  max-width: 150px;
}
.check {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
  margin-bottom: 6px;
}
.mark {
  border-left: 3px solid #ddd4c0;
  padding: 2px 0 6px 8px;
  margin-bottom: 8px;
}
.mark.chosen {
  border-left-color: var(--ribbon);
}
</style>
