<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Made, type Received, type ReceivedPart, wordsFor } from '@/api/client'
import MaterialSentence from '@/components/MaterialSentence.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { ROLES } from './words'

/** The parts of a received model: what they are called, are of the pack, and are made of. */
const props = defineProps<{
  received: Received
  /** Along how many rings parts are open, by their names. */
  open: Record<string, number>
  selected: string
  badPlace: string
  locked: (name: string) => boolean
  edit: (change: (received: Received) => void) => void
}>()
const emit = defineEmits<{ select: [name: string]; rename: [from: string, to: string] }>()

const KINDS = ['opaque', 'clear', 'metal', 'cloudy'] as const
const marked = ref<Set<string>>(new Set())
const problem = ref('')
const chosen = computed(() => props.received.parts.find((part) => part.name === props.selected) ?? null)
const chosenIndex = computed(() => props.received.parts.findIndex((part) => part.name === props.selected))

function change(name: string, change: Partial<ReceivedPart>): void {
  props.edit((r) =>
    Object.assign(
      r.parts.find((part) => part.name === name)!,
      change,
    ),
  )
}
function mark(name: string): void {
  const next = new Set(marked.value)
  if (!next.delete(name)) next.add(name)
  marked.value = next
}
async function remade(how: 'split' | 'merge', parts: number[]): Promise<void> {
  problem.value = ''
  try {
    const body = { received: props.received, parts }
    const made = await answer(api.POST(`/api/received/${how}`, { body }))
    props.edit((r) => Object.assign(r, made))
    marked.value = new Set()
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
const merge = () =>
  remade(
    'merge',
    props.received.parts.flatMap((part, i) => (marked.value.has(part.name) ? [i] : [])),
  )
</script>

<template>
  <ul class="parts" aria-label="Parts of the model">
    <li v-for="part in received.parts" :key="part.name" :class="{ chosen: part.name === selected }">
      <input
        type="checkbox"
        :checked="marked.has(part.name)"
        :aria-label="`Mark ${part.name}`"
        @change="mark(part.name)"
      />
      <button
        type="button"
        class="name"
        :class="{ out: part.role === 'left out' }"
        :data-test="`received-${part.name.replaceAll(' ', '-')}`"
        :aria-pressed="part.name === selected"
        @click="emit('select', part.name === selected ? '' : part.name)"
      >
        {{ part.name }}
      </button>
      <small>{{ part.role === 'part' ? '' : ROLES[part.role ?? 'part'] }}</small>
      <template v-if="part.name === selected && chosen">
        <fieldset class="details" :disabled="locked(part.name)">
          <p class="sentence">
            Called
            <input
              class="title"
              :value="part.name"
              maxlength="120"
              aria-label="Name of the part"
              data-test="part-name"
              @change="(e) => emit('rename', part.name, (e.target as HTMLInputElement).value.trim())"
            />
            it is
            <select
              :value="part.role"
              aria-label="What the part is of the pack"
              data-test="part-role"
              @change="
                (e) => change(part.name, { role: (e.target as HTMLSelectElement).value as ReceivedPart['role'] })
              "
            >
              <option v-for="(words, role) in ROLES" :key="role" :value="role">{{ words }}</option></select
            >.
          </p>
          <p class="sentence">
            Made of
            <MaterialSentence
              :material="part.material as Made"
              :kinds="[...KINDS]"
              :label="part.name"
              :part="part.name"
              :unwrapped="Boolean(part.sheet)"
              @change="(m) => change(part.name, { material: m as ReceivedPart['material'] })"
            />
          </p>
          <label v-if="part.role === 'container'" class="check">
            <input
              type="checkbox"
              data-test="part-wall"
              :checked="part.wall !== null && part.wall !== undefined"
              @change="change(part.name, { wall: part.wall ? null : 2 })"
            />
            It has no inside: give it a wall<template v-if="part.wall">
              of
              <QuantityInput
                label="Wall given to the container"
                unit="mm"
                :value="part.wall"
                :min="0.2"
                :max="20"
                :step="0.2"
                :refused="badPlace.endsWith('.wall')"
                @change="(v) => change(part.name, { wall: v })"
              />
            </template>
          </label>
          <label v-if="open[part.name] || part.closed" class="check">
            <input
              type="checkbox"
              data-test="part-closed"
              :checked="part.closed"
              @change="change(part.name, { closed: !part.closed })"
            />
            Close what is open ({{ open[part.name] ? `${open[part.name]} rings` : 'done' }})
          </label>
          <label class="check">
            <input type="checkbox" :checked="part.turned" @change="change(part.name, { turned: !part.turned })" />
            Its faces turned round
          </label>
          <Button
            v-if="part.bodies.length > 1"
            size="small"
            data-test="part-split"
            @click="remade('split', [chosenIndex])"
            >Split it into its {{ part.bodies.length }} pieces</Button
          >
        </fieldset>
      </template>
    </li>
  </ul>
  <Button v-if="marked.size > 1" size="small" data-test="part-merge" @click="merge"
    >Take {{ marked.size }} parts as one</Button
  >
  <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
</template>

<style scoped>
.parts {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 2px 7px;
  align-items: center;
  padding: 3px 0;
  border-bottom: 1px dashed #ddd4c0;
  font-size: 13px;
}
li.chosen {
  background: #f6efe2;
}
.name {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  text-align: left;
  color: var(--ink);
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
}
.name[aria-pressed='true'] {
  font-weight: 600;
}
.name.out {
  text-decoration: line-through;
  color: #6d6a63;
}
.details {
  grid-column: 1 / -1;
  padding: 4px 4px 6px;
}
.title {
  width: 130px;
  border: 0;
  border-bottom: 1px solid var(--kraft);
  background: #fffdf8;
  font: inherit;
}
.check {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: baseline;
  margin: 4px 0;
}
</style>
