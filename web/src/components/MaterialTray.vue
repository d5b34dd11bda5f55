<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { answer, api, type Known, type Material, wordsFor } from '@/api/client'
import { carryMaterial, inHand } from '@/composables/materialInHand'
import { useMaterialLibrary } from '@/composables/materialLibrary'
import ColourInput from './ColourInput.vue'
import MaterialChip from './MaterialChip.vue'

/** Materials to choose from by their pictures; `kinds` are those that something can be made of. */
const props = defineProps<{ kinds: Material['kind'][]; label: string; chosen: string | null; colour: string }>()
const emit = defineEmits<{ choose: [material: Material]; close: [] }>()

const FINISHES = ['clear', 'frosted', 'matt', 'satin', 'gloss'] as const
const { all, lately, chose, favourites, favour, takeAway, bring } = useMaterialLibrary()
const words = ref('')
const family = ref('')
const finish = ref<(typeof FINISHES)[number] | ''>('')
const near = ref(false)
const colour = ref(props.colour)
const found = ref<Known[]>([])
const problem = ref('')
const search = ref<HTMLInputElement>()
const fits = (one: Known) => props.kinds.includes(one.material.kind)
const families = computed(() => [...new Set(all.value.map((one) => one.family))])
const recent = ref(lately())
const liked = ref(favourites())
const sought = computed(() => Boolean(words.value || family.value || finish.value || near.value))
const named = (keys: string[]) => keys.flatMap((key) => all.value.find((one) => one.key === key) ?? [])
/** What is wanted most often, as long as nothing is looked for. */
const before = computed(() =>
  [
    { name: 'Favourites', materials: named(liked.value) },
    { name: 'Chosen lately', materials: named(recent.value) },
  ].filter((group) => !sought.value && group.materials.length),
)
const groups = computed(() => {
  const shown = found.value
  if (near.value) return [{ name: 'The nearest first', materials: shown }]
  const own = [...new Set(shown.map((one) => one.family))].map((name) => {
    const its = shown.filter((one) => one.family === name)
    return { name, materials: [...its.filter(fits), ...its.filter((one) => !fits(one))] }
  })
  const some = (group: (typeof own)[number]) => fits(group.materials[0]!)
  return [...before.value, ...own.filter(some), ...own.filter((group) => !some(group))]
})
const own = computed(() => all.value.some((one) => one.own))

let turn = 0
watch(
  [words, family, finish, near, colour, all],
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

function like(one: Known): void {
  favour(one.key)
  liked.value = favourites()
}
async function tried(work: Promise<void>): Promise<void> {
  try {
    await work
    problem.value = ''
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
function brought(event: Event): void {
  const input = event.target as HTMLInputElement
  if (input.files?.[0]) void tried(bring(input.files[0]))
  input.value = ''
}
const picture = (one: Known) => `/api/material-library/${one.key}.webp`
let justCarried = false
function carry(event: PointerEvent, one: Known): void {
  const what = { material: one.material as Material, name: one.name, picture: picture(one) }
  carryMaterial(event, what, (carried) => {
    justCarried = carried
    if (!carried) return
    chose(one.key)
    recent.value = lately()
  })
}
function choose(one: Known): void {
  if (justCarried) return void (justCarried = false)
  if (!fits(one)) return
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
        <label
          class="aside bring"
          title="Materials as a studio hands them on, or MaterialX: alone, or in an archive with their pictures"
        >
          Bring …<input
            type="file"
            accept=".json,.zip,.mtlx,application/json,application/zip"
            data-test="bring-materials"
            @change="brought"
          />
        </label>
        <a v-if="own" class="aside" href="/api/own-materials-file" download data-test="hand-on">Hand on ours</a>
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
                :class="{ misfit: !fits(one) }"
                :title="
                  fits(one) ? one.source : `${label} cannot be ${one.material.kind}: carry it onto a part that can`
                "
                :data-test="`material-${one.key}`"
                @pointerdown="carry($event, one)"
                @click="choose(one)"
              >
                <MaterialChip :one="one" :width="84" :height="63" />
                {{ one.name }}
              </button>
              <button
                type="button"
                class="like"
                :aria-pressed="liked.includes(one.key)"
                :aria-label="`${one.name}: favourite`"
                @click="like(one)"
              >
                {{ liked.includes(one.key) ? '♥' : '♡' }}
              </button>
              <button
                v-if="one.own"
                type="button"
                class="away"
                :aria-label="`Take ${one.name} away`"
                title="Take it out of the studio's own. What is made of it stays as it is."
                @click="tried(takeAway(one))"
              >
                ✕
              </button>
            </li>
          </ul>
        </section>
        <p class="hint">Click to make it of that, or carry a picture onto any part of the pack.</p>
        <p v-if="all.length && !groups.length" class="hint" data-test="nothing-found">
          Nothing is called that. Try another word, family or finish.
        </p>
      </div>
    </div>
  </Teleport>
  <Teleport to="body">
    <div v-if="inHand.carried" class="in-hand" :style="{ left: `${inHand.x}px`, top: `${inHand.y}px` }" role="status">
      <img :src="inHand.picture" alt="" width="56" height="42" />
      <span>{{ inHand.says || inHand.name }}</span>
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
.bring input {
  display: none;
}
.in-hand {
  position: fixed;
  z-index: 50;
  display: flex;
  gap: 6px;
  align-items: center;
  transform: translate(10px, 8px);
  border: 1.5px solid var(--kraft);
  background: var(--card);
  padding-right: 8px;
  font-size: 13px;
  pointer-events: none;
}
ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(92px, 1fr));
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  position: relative;
}
li .like,
li .away {
  position: absolute;
  top: 2px;
  width: 22px;
  padding: 0;
  line-height: 22px;
  background: none;
  opacity: 0;
}
li .like {
  right: 4px;
}
li .away {
  left: 4px;
}
li:hover .like,
li:hover .away,
li .like:focus-visible,
li .away:focus-visible,
li .like[aria-pressed='true'] {
  opacity: 1;
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
.misfit {
  opacity: 0.6;
}
img {
  background: #d9d3c6;
}
</style>
