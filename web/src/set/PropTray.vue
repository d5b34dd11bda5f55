<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Arrangement, PropKind } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { pictureOf, usePropKinds } from './props'

/** Props to be put down or strewn: by their pictures, category by category. */
defineProps<{ reading: boolean }>()
const emit = defineEmits<{ arrange: [how: Arrangement]; model: [file: File]; close: [] }>()

const MOST_KINDS = 6
const kinds = usePropKinds()
const sought = ref('')
const strewing = ref(false)
const picked = ref<PropKind['what'][]>([])
const count = ref(24)
const across = ref(420)
const deep = ref(260)
const varies = ref(30)
const seed = ref(0)
const categories = computed(() => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  const found: Record<string, PropKind[]> = {}
  for (const one of kinds.value) {
    const said = `${one.title} ${one.category}`.toLowerCase()
    if (words.every((word) => said.includes(word))) (found[one.category] ??= []).push(one)
  }
  return found
})

function lift(event: DragEvent, one: PropKind): void {
  event.dataTransfer?.setData('text/plain', `prop:${one.what}`)
}
function take(one: PropKind): void {
  if (!strewing.value) return emit('arrange', { kind: 'stand-prop', what: one.what })
  const rest = picked.value.filter((what) => what !== one.what)
  picked.value = rest.length < picked.value.length ? rest : [...rest, one.what].slice(-MOST_KINDS)
}
function strew(): void {
  emit('arrange', {
    kind: 'scatter',
    what: picked.value,
    count: count.value,
    x: 0,
    y: 0,
    across: across.value,
    deep: deep.value,
    varies: varies.value / 100,
    turns: 180,
    seed: seed.value++,
  })
}
function send(event: Event): void {
  const input = event.target as HTMLInputElement
  if (input.files?.[0]) emit('model', input.files[0])
  input.value = ''
}
</script>

<template>
  <section class="props" aria-label="Props" data-test="props" @keydown.esc="emit('close')">
    <div class="top">
      <input v-model="sought" class="plain" type="search" placeholder="Look for a prop" aria-label="Look for a prop" />
      <Button size="small" aria-label="Close the props" @click="emit('close')">Close</Button>
    </div>
    <label class="many"
      ><input v-model="strewing" type="checkbox" data-test="strewing" /> Strew many, lying where they fall</label
    >
    <p v-if="strewing" class="sentence">
      Strew
      <QuantityInput
        label="How many"
        unit="×"
        :value="count"
        :min="1"
        :max="200"
        :step="4"
        :digits="0"
        @change="(v) => (count = Math.round(v))"
      />
      over
      <QuantityInput
        label="Strewn across"
        unit="mm"
        :value="across"
        :min="10"
        :max="5000"
        :step="20"
        @change="(v) => (across = v)"
      />
      by
      <QuantityInput
        label="Strewn deep"
        unit="mm"
        :value="deep"
        :min="10"
        :max="5000"
        :step="20"
        @change="(v) => (deep = v)"
      />, up to
      <QuantityInput
        label="Sizes differ"
        unit="%"
        :value="varies"
        :min="0"
        :max="80"
        :step="5"
        @change="(v) => (varies = v)"
      />
      larger or smaller.
      <Button size="small" type="primary" :disabled="!picked.length" data-test="strew" @click="strew">{{
        picked.length ? `Strew ${count}` : 'Choose what, below'
      }}</Button>
    </p>
    <p v-else class="hint">Click to stand one beside the others, or drag it to its place.</p>
    <div class="kinds">
      <template v-for="(some, category) in categories" :key="category">
        <h4>{{ category }}</h4>
        <div class="row">
          <button
            v-for="one in some"
            :key="one.what"
            type="button"
            :draggable="!strewing"
            :class="{ picked: strewing && picked.includes(one.what) }"
            :aria-pressed="strewing ? picked.includes(one.what) : undefined"
            :title="one.title"
            :data-test="`prop-${one.what}`"
            @dragstart="lift($event, one)"
            @click="take(one)"
          >
            <img :src="pictureOf(one.what)" alt="" width="84" height="63" draggable="false" />
            {{ one.title }}
          </button>
        </div>
      </template>
      <p v-if="kinds.length && !Object.keys(categories).length" class="hint">No prop is called that.</p>
    </div>
    <label class="own"
      >{{ reading ? 'Reading the model …' : 'Or a model of yours:' }}
      <input
        type="file"
        accept=".glb,.gltf,.obj,.ply,.stl,.step,.stp,.zip"
        :disabled="reading"
        aria-label="A model to stand there as a prop"
        @change="send"
    /></label>
  </section>
</template>

<style scoped>
.props {
  position: absolute;
  left: 10px;
  top: 10px;
  bottom: 48px;
  width: min(300px, calc(100% - 20px));
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 10px;
  background: var(--card);
  border: 1px solid #cfc6b3;
  box-shadow: 0 6px 18px rgb(35 38 43 / 18%);
  z-index: 3;
}
.top {
  display: flex;
  gap: 6px;
}
.top input {
  flex: 1;
  min-width: 0;
}
.many,
.own {
  font-size: 13px;
}
.own input {
  font-size: 12px;
  max-width: 100%;
}
.kinds {
  flex: 1;
  overflow-y: auto;
}
h4 {
  margin: 8px 0 2px;
  font: 600 13px var(--sans, inherit);
}
.row {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 4px;
}
button[draggable] {
  display: block;
  padding: 2px 2px 3px;
  border: 1px solid transparent;
  background: none;
  font: inherit;
  font-size: 11px;
  line-height: 1.2;
  cursor: grab;
}
button[draggable]:hover,
button[draggable]:focus-visible,
.picked {
  border-color: var(--ribbon) !important;
}
img {
  display: block;
  width: 100%;
  height: auto;
}
.sentence,
.hint {
  margin: 0;
}
</style>
