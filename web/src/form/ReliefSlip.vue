<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { Artwork, VesselPack, Relief } from '@/api/client'
import FieldRows from './FieldRows.vue'
import type { Field } from './fields'

const props = defineProps<{
  pack: VesselPack
  height: number
  artwork: Artwork[]
  badPlace: string
  edit: (change: (document: VesselPack) => void) => void
}>()

const at = (name: string, label: string, max = 2000): Field => ({
  name,
  label,
  unit: 'mm',
  min: 0,
  max,
  step: 1,
  digits: 1,
})
const depth: Field = { name: 'depth', label: 'Out (−: in)', unit: 'mm', min: -10, max: 20, step: 0.1, digits: 2 }
const FIELDS: Record<Relief['kind'], Field[]> = {
  ring: [at('height', 'Height'), { ...at('width', 'Width'), min: 0.3, step: 0.5 }, depth],
  ribs: [
    at('bottom', 'From'),
    at('top', 'To'),
    { name: 'count', label: 'Around', unit: 'ribs', min: 3, max: 200, step: 4, digits: 0 },
    depth,
  ],
  emboss: [
    at('centre_height', 'Middle height'),
    { name: 'centre_angle', label: 'Turned from the front', unit: '°', min: -180, max: 180, step: 5, digits: 0 },
    { ...at('width', 'Width'), min: 1 },
    depth,
    { name: 'edge', label: 'Sloping edge', unit: 'mm', min: 0.05, max: 5, step: 0.05, digits: 2 },
  ],
}
const TITLES: Record<Relief['kind'], (r: Relief) => string> = {
  ring: (r) => (r.depth < 0 ? 'groove' : 'ring'),
  ribs: (r) => (r.depth < 0 ? 'flutes' : 'ribs'),
  emboss: (r) => (r.depth < 0 ? 'debossed artwork' : 'embossed artwork'),
}
const list = computed(() => props.pack.form.body.relief ?? [])
const middle = computed(() => Math.round(props.height * 0.4))

function add(relief: Relief): void {
  props.edit((d) => (d.form.body.relief = [...(d.form.body.relief ?? []), relief]))
}
</script>

<template>
  <section v-for="(relief, index) in list" :key="index" class="item">
    <p class="row">
      <b>{{ TITLES[relief.kind](relief) }}</b><Button
        size="small"
        @click="edit((d) => d.form.body.relief!.splice(index, 1))"
        >Remove it</Button
      >
    </p>
    <p v-if="relief.kind === 'emboss'" class="row">
      <span>Artwork</span>
      <select
        :aria-label="`Artwork of relief ${index + 1}`"
        :value="relief.artwork"
        @change="
          (e) =>
            edit((d) => Object.assign(d.form.body.relief![index]!, { artwork: (e.target as HTMLSelectElement).value }))
        "
      >
        <option v-for="a in artwork" :key="a.id" :value="a.sha256">{{ a.filename }}</option>
      </select>
    </p>
    <FieldRows
      :fields="FIELDS[relief.kind]"
      :values="relief"
      :bad-place="badPlace"
      :place="`body.relief.${index}`"
      :prefix="`Relief ${index + 1}: `"
      @change="(name, v) => edit((d) => Object.assign(d.form.body.relief![index]!, { [name]: v }))"
    />
  </section>
  <div class="add">
    <Button size="small" @click="add({ kind: 'ring', height: middle, width: 3, depth: 1 })">Add a ring</Button>
    <Button
      size="small"
      @click="add({ kind: 'ribs', bottom: Math.max(middle - 20, 5), top: middle + 20, count: 24, depth: 0.8 })"
      >Add ribs</Button
    >
    <Button
      size="small"
      @click="add({ kind: 'ribs', bottom: Math.max(middle - 20, 5), top: middle + 20, count: 24, depth: -0.8 })"
      >Add flutes</Button
    >
    <Button
      size="small"
      :disabled="!artwork.length"
      @click="
        add({
          kind: 'emboss',
          artwork: artwork[0]!.sha256,
          centre_height: middle,
          centre_angle: 0,
          width: 30,
          depth: 0.6,
          edge: 0.3,
        })
      "
      >Emboss artwork</Button
    >
  </div>
  <p v-if="!artwork.length" class="hint">To emboss a logo, drop its file at Wrap first.</p>
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
  max-width: 160px;
}
.item {
  border-left: 3px solid #ddd4c0;
  padding-left: 8px;
  margin-bottom: 10px;
}
.add {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
</style>
