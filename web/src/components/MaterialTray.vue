<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { answer, api, type Known, type Material, wordsFor } from '@/api/client'
import { useMaterialLibrary } from '@/composables/materialLibrary'
import ColourInput from './ColourInput.vue'

/** Materials to choose from by their pictures; `kinds` are those that something can be made of. */
const props = defineProps<{ kinds: Material['kind'][]; label: string; chosen: string | null; colour: string }>()
const emit = defineEmits<{ choose: [material: Material]; close: [] }>()

const FINISHES = ['clear', 'frosted', 'matt', 'satin', 'gloss'] as const
const { all, lately, chose } = useMaterialLibrary()
const words = ref('')
const family = ref('')
const finish = ref<(typeof FINISHES)[number] | ''>('')
const near = ref(false)
const colour = ref(props.colour)
const found = ref<Known[]>([])
const problem = ref('')
const search = ref<HTMLInputElement>()
const fits = (one: Known) => props.kinds.includes(one.material.kind)
const families = computed(() => [...new Set(all.value.filter(fits).map((one) => one.family))])
const recent = ref(lately())
const before = computed(() =>
  words.value || family.value || finish.value || near.value
    ? []
    : recent.value.flatMap((key) => all.value.find((one) => one.key === key && fits(one)) ?? []),
)
const groups = computed(() => {
  const shown = found.value.filter(fits)
  if (near.value) return [{ name: 'The nearest first', materials: shown }]
  const own = [...new Set(shown.map((one) => one.family))].map((name) => ({
    name,
    materials: shown.filter((one) => one.family === name),
  }))
  return before.value.length ? [{ name: 'Chosen lately', materials: before.value }, ...own] : own
})

let turn = 0
watch(
  [words, family, finish, near, colour],
  async () => {
    const mine = ++turn
    const query = {
      words: words.value,
      family: family.value,
      finish: finish.value || null,
      near: near.value ? colour.value : null,
    }
    try {
      const answered = await answer(api.GET('/api/material-library', { params: { query } }))
      if (mine === turn) [found.value, problem.value] = [answered, '']
    } catch (error) {
      if (mine === turn) problem.value = wordsFor(error)
    }
  },
  { immediate: true },
)

function choose(one: Known): void {
  chose(one.key)
  emit('choose', JSON.parse(JSON.stringify(one.material)) as Material)
}
const leave = (event: KeyboardEvent) => event.key === 'Escape' && emit('close')
onMounted(() => {
  search.value?.focus()
  window.addEventListener('keydown', leave)
})
onBeforeUnmount(() => window.removeEventListener('keydown', leave))
</script>

<template>
  <Teleport to=".fold-area .flat">
    <div class="tray" role="dialog" :aria-label="`${label}: what it is made of`" data-test="material-tray">
      <div class="find">
        <h2>{{ label }}: made of …</h2>
        <input
          ref="search"
          v-model="words"
          type="search"
          placeholder="amber, matt cap …"
          aria-label="Find a material by words"
          data-test="find-material"
        />
        <select v-model="family" aria-label="Family of materials">
          <option value="">every family</option>
          <option v-for="one in families" :key="one" :value="one">{{ one }}</option>
        </select>
        <select v-model="finish" aria-label="Finish of materials">
          <option value="">any finish</option>
          <option v-for="one in FINISHES" :key="one" :value="one">{{ one }}</option>
        </select>
        <label><input v-model="near" type="checkbox" data-test="near" /> near</label>
        <ColourInput v-if="near" label="Colour to be near" :value="colour" @change="(v) => (colour = v)" />
        <Button size="small" class="done" data-test="close-tray" @click="emit('close')">Done</Button>
      </div>
      <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
      <div class="groups">
        <section v-for="group in groups" :key="group.name" :aria-label="group.name">
          <h3>{{ group.name }}</h3>
          <ul>
            <li v-for="one in group.materials" :key="one.key">
              <button
                type="button"
                :aria-pressed="one.key === chosen"
                :title="one.source"
                :data-test="`material-${one.key}`"
                @click="choose(one)"
              >
                <img :src="`/api/material-library/${one.key}.webp`" alt="" width="84" height="63" loading="lazy" />
                {{ one.name }}
              </button>
            </li>
          </ul>
        </section>
        <p v-if="all.length && !groups.length" class="hint" data-test="nothing-found">
          Nothing is called that. Try another word, family or finish.
        </p>
      </div>
    </div>
  </Teleport>
</template>

<style scoped>
.tray {
  position: absolute;
  inset: 0;
  z-index: 6;
  display: flex;
  flex-direction: column;
  background: var(--card);
}
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 10px;
  align-items: center;
  padding: 12px 14px;
  border-bottom: 1.5px dashed #cfc6b3;
}
.find h2 {
  flex-basis: 100%;
  margin: 0;
}
.find input[type='search'] {
  width: 150px;
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  font: inherit;
}
.find input[type='search'],
.find select {
  height: 26px;
  padding: 0 6px;
}
.done {
  margin-left: auto;
}
.groups {
  overflow-y: auto;
  padding: 4px 14px 14px;
}
h3 {
  margin: 12px 0 6px;
  font-size: 13px;
}
ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(92px, 1fr));
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li button {
  display: grid;
  gap: 3px;
  justify-items: center;
  width: 100%;
  border: 1.5px solid transparent;
  background: none;
  padding: 3px;
  font: inherit;
  font-size: 12px;
  line-height: 1.25;
  color: var(--ink);
  cursor: pointer;
}
li button:hover,
li button:focus-visible {
  border-color: var(--kraft);
}
li button[aria-pressed='true'] {
  border-color: var(--ribbon);
}
img {
  background: #d9d3c6;
}
</style>
