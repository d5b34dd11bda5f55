<script setup lang="ts">
import { Button, Slider } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { AnyShape, Pack, PartState } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import type { Offer } from '@/composables/materialInHand'
import { usePalette } from '@/composables/palette'
import { useCarried } from '@/stores/carried'
import { materialOf, setMaterial } from './materials'
import { answerTo, takeOffer, titleOf } from './offers'

const props = defineProps<{
  pack: Pack
  shape: AnyShape | null
  badPlace: string
  edit: (change: (document: Pack) => void) => void
}>()

const marked = ref<Set<string>>(new Set())
const carry = useCarried()
const carried = computed(() => carry.material?.what ?? null)
const parts = computed(() => props.shape?.parts ?? [])
const stateOf = (name: string): PartState =>
  props.pack.parts?.[name] ?? { title: '', hidden: false, locked: false, group: '' }
const title = (name: string) => titleOf(props.pack, name)
const palette = usePalette()
function offered(name: string, event: Event, taken: boolean): void {
  const { detail } = event as CustomEvent<Offer>
  const chosen = answerTo(detail, props.pack, parts.value, name)
  if (taken && chosen) takeOffer(detail, props.pack, name, chosen, palette, props.edit)
}
/** Contents take the shape of what they are in, and have no copies. */
const poured = computed(() => {
  const models = props.pack.form.kind === 'received' ? [props.pack.form] : []
  return new Set([
    'contents',
    ...models.flatMap((m) => m.parts.filter((p) => p.role === 'contents').map((p) => p.name)),
  ])
})
/** A vessel can stand upside down. */
const vessel = computed(() => (props.pack.form.kind === 'vessel' ? props.pack.form : null))
function turnOver(): void {
  props.edit((d) => {
    if (d.form.kind === 'vessel') d.form.stands_on = d.form.stands_on === 'closure' ? 'base' : 'closure'
  })
}
const groups = computed(() => [...new Set(parts.value.map((p) => stateOf(p).group).filter(Boolean))])
/** A part and all that are grouped with it. */
const together = (name: string) => {
  const { group } = stateOf(name)
  return group ? parts.value.filter((p) => stateOf(p).group === group) : [name]
}

function change(names: string[], change: Partial<PartState>): void {
  props.edit((d) => {
    const states = { ...(d.parts ?? {}) }
    for (const name of names) states[name] = { ...stateOf(name), ...change }
    d.parts = Object.fromEntries(Object.entries(states).filter(([, s]) => s.title || s.hidden || s.locked || s.group))
  })
}
function group(): void {
  change([...marked.value], { group: groupName() })
  marked.value = new Set()
}
function groupName(): string {
  for (let n = 1; ; n++) if (!groups.value.includes(`group ${n}`)) return `group ${n}`
}
function mark(name: string): void {
  const next = new Set(marked.value)
  if (!next.delete(name)) next.add(name)
  marked.value = next
}
function duplicate(name: string): void {
  const { shape } = props
  const across = shape?.kind === 'vessel' ? shape.facts.diameter : (shape?.facts.size[0] ?? 60)
  const beside = across * 1.2 + 30 * (props.pack.copies?.length ?? 0)
  props.edit(
    (d) =>
      (d.copies = [
        ...(d.copies ?? []),
        { of: name, x: Math.round(-beside), y: 0, z: 0, turn: 0, tilt: 0, title: '', material: null },
      ]),
  )
}
function paint(name: string): void {
  if (carried.value) props.edit((d) => setMaterial(d, name, carried.value!))
}
</script>

<template>
  <ul class="parts" aria-label="Parts">
    <li
      v-for="name in parts"
      :key="name"
      :data-test="`part-${name}`"
      :class="{ hidden: stateOf(name).hidden }"
      @material-over="offered(name, $event, false)"
      @material-drop="offered(name, $event, true)"
    >
      <input type="checkbox" :checked="marked.has(name)" :aria-label="`Mark ${title(name)}`" @change="mark(name)" />
      <input
        class="title"
        :value="title(name)"
        :disabled="stateOf(name).locked"
        :aria-label="`Name of ${name}`"
        maxlength="60"
        @change="(e) => change([name], { title: (e.target as HTMLInputElement).value.trim() })"
      />
      <button
        type="button"
        :aria-pressed="stateOf(name).hidden"
        :disabled="stateOf(name).locked"
        @click="change(together(name), { hidden: !stateOf(name).hidden })"
      >
        {{ stateOf(name).hidden ? 'show' : 'hide' }}
      </button>
      <button
        type="button"
        :aria-pressed="stateOf(name).locked"
        @click="change(together(name), { locked: !stateOf(name).locked })"
      >
        {{ stateOf(name).locked ? 'unlock' : 'lock' }}
      </button>
      <span class="more">
        <button
          v-if="materialOf(pack, name)"
          type="button"
          :aria-label="`Take the material of ${title(name)}`"
          @click="carry.material = { what: materialOf(pack, name)!, from: title(name) }"
        >
          take material
        </button>
        <button
          v-if="carried && materialOf(pack, name)"
          type="button"
          :disabled="stateOf(name).locked"
          :aria-label="`Give ${title(name)} the material`"
          @click="paint(name)"
        >
          give it
        </button>
        <button
          v-if="!poured.has(name)"
          type="button"
          :aria-label="`Duplicate ${title(name)}`"
          @click="duplicate(name)"
        >
          duplicate
        </button>
        <small v-if="stateOf(name).group">{{ stateOf(name).group }}</small>
      </span>
    </li>
  </ul>
  <p v-if="marked.size > 1">
    <Button size="small" @click="group">Group {{ marked.size }} parts</Button>
  </p>
  <p v-for="g in groups" :key="g" class="row">
    <span>{{ g }}</span><Button
      size="small"
      @click="
        change(
          parts.filter((p) => stateOf(p).group === g),
          { group: '' },
        )
      "
      >Ungroup</Button
    >
  </p>
  <section v-for="(copy, index) in pack.copies ?? []" :key="index" class="copy">
    <p class="row">
      <b>another {{ title(copy.of) }}</b
      ><Button size="small" @click="edit((d) => d.copies!.splice(index, 1))">Remove it</Button>
    </p>
    <p class="row">
      <QuantityInput
        :label="`Copy ${index + 1} to the right`"
        unit="mm"
        :value="copy.x"
        :min="-2000"
        :max="2000"
        :step="5"
        @change="(v) => edit((d) => (d.copies![index]!.x = v))"
      />
      right,
      <QuantityInput
        :label="`Copy ${index + 1} back`"
        unit="mm"
        :value="copy.y"
        :min="-2000"
        :max="2000"
        :step="5"
        @change="(v) => edit((d) => (d.copies![index]!.y = v))"
      />
      back,
    </p>
    <p class="row">
      turned
      <QuantityInput
        :label="`Copy ${index + 1} turn`"
        unit="°"
        :value="copy.turn"
        :min="-360"
        :max="360"
        :step="15"
        :digits="0"
        @change="(v) => edit((d) => (d.copies![index]!.turn = v))"
      />, leaning
      <QuantityInput
        :label="`Copy ${index + 1} lean`"
        unit="°"
        :value="copy.tilt"
        :min="-180"
        :max="180"
        :step="15"
        :digits="0"
        @change="(v) => edit((d) => (d.copies![index]!.tilt = v))"
      />
    </p>
  </section>
  <div class="explode">
    <span>Drawn apart</span>
    <Slider
      :value="pack.exploded"
      :min="0"
      :max="80"
      :step="1"
      aria-label="Draw the parts apart"
      @change="(v) => edit((d) => (d.exploded = Number(v)))"
    />
    <QuantityInput
      label="Drawn apart"
      unit="mm"
      :value="pack.exploded"
      :min="0"
      :max="500"
      :step="2"
      :digits="0"
      @change="(v) => edit((d) => (d.exploded = v))"
    />
  </div>
  <label v-if="vessel" class="check"
    ><input type="checkbox" :checked="vessel.stands_on === 'closure'" @change="turnOver" /> It stands on its
    closure</label
  >
</template>

<style scoped>
.parts {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
.parts li {
  display: grid;
  grid-template-columns: auto 1fr auto auto;
  gap: 4px 6px;
  align-items: center;
  padding: 3px 0;
  border-bottom: 1px dashed #ddd4c0;
  font-size: 13px;
}
.parts .hidden .title {
  opacity: 0.55;
  text-decoration: line-through;
}
.title {
  border: 0;
  border-bottom: 1px solid transparent;
  background: none;
  font: inherit;
  min-width: 0;
  color: var(--ink);
}
.title:hover,
.title:focus {
  border-bottom-color: var(--kraft);
  background: #fffdf8;
}
.more {
  grid-column: 2 / -1;
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
.parts button {
  border: 0;
  background: none;
  padding: 0 2px;
  font: inherit;
  font-size: 12.5px;
  color: #97213a;
  cursor: pointer;
  text-decoration: underline;
  text-underline-offset: 2px;
}
.parts button:disabled {
  color: #6d6a63 !important;
  cursor: not-allowed;
}
.row {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 6px;
  margin: 4px 0;
  font-size: 13px;
}
.copy {
  border-left: 3px solid #ddd4c0;
  padding-left: 8px;
  margin-bottom: 8px;
}
.explode {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 8px;
  align-items: center;
  font-size: 13px;
}
.check {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
}
</style>
