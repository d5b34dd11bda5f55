<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { Carton, CartonPack, CartonShape, Made } from '@/api/client'
import MaterialSentence from '@/components/MaterialSentence.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { showNumber } from '@/composables/quantity'
import FitsSlip from './FitsSlip.vue'
import { keyOf, spotOn } from './panels'
import InsertSlip from './InsertSlip.vue'
import AreasSlip from './AreasSlip.vue'

const props = defineProps<{
  pack: CartonPack
  shape: CartonShape | null
  /** The blank that is looked at, and the panel that is chosen on it. */
  blank: string
  selected: string
  badPlace: string
  edit: (change: (document: CartonPack) => void) => void
}>()

const STYLES: Record<Exclude<Carton['style'], 'own'>, string> = {
  'straight-tuck': 'straight tuck carton',
  'reverse-tuck': 'reverse tuck carton',
  'crash-lock': 'crash-lock carton',
  sleeve: 'sleeve',
  'slotted-case': 'regular slotted case',
  tray: 'tray',
  'lid-and-base': 'lid and base',
  'hanging-card': 'hanging carton',
  shoulder: 'shoulder box',
  drawer: 'drawer box',
  book: 'book box',
  mailer: 'roll-end mailer',
  gable: 'gable box',
  pillow: 'pillow pack',
}
const SIDES = [
  { field: 'length', words: 'wide' },
  { field: 'width', words: 'deep' },
  { field: 'depth', words: 'high' },
] as const
const BOARD = [
  { field: 'outside', words: 'Outside' },
  { field: 'inside', words: 'Inside' },
  { field: 'core', words: 'Cut edges' },
] as const
const carton = computed(() => props.pack.form)
const looked = computed(() => props.shape?.blanks.filter((one) => one.name === props.blank) ?? [])
/** The crease that the chosen panel hangs on, and what flaps by hand call it. */
const crease = computed(() => {
  for (const blank of looked.value) {
    const found = blank.creases.find((one) => one.name === props.selected)
    if (found) return { ...found, key: keyOf(props.shape!, blank.name, found.name) }
  }
  return null
})
/** The chosen panel, and what windows call it. */
const chosenPanel = computed(() => {
  for (const blank of looked.value) {
    const panel = blank.panels.find((one) => one.name === props.selected)
    if (panel) return { panel, key: keyOf(props.shape!, blank.name, panel.name) }
  }
  return null
})
/** What the outside of the chosen panel is made of; null as the board's. */
function setFace(material: Carton['board']['outside'] | null): void {
  const { key } = chosenPanel.value!
  props.edit((d) => {
    const others = Object.entries(d.form.faces ?? {}).filter(([name]) => name !== key)
    const own = material ? [[key, JSON.parse(JSON.stringify(material)) as typeof material] as const] : []
    d.form.faces = Object.fromEntries([...others, ...own])
  })
}
/** Whether anything is only tucked in. */
const springs = computed(() => props.shape?.blanks.some((blank) => blank.creases.some((one) => one.springs)))
const ordered = computed(() => Boolean(crease.value && crease.value.key in (carton.value.order ?? {})))
const byHand = computed(() => Boolean(crease.value && crease.value.key in (carton.value.flaps ?? {})))

function chooseStyle(event: Event): void {
  const style = (event.target as HTMLSelectElement).value as Carton['style']
  props.edit((d) =>
    Object.assign(d.form, {
      style,
      own: null,
      insert: null,
      allowances: {},
      flaps: {},
      order: {},
      prints: {},
      windows: [],
      embossings: [],
      perforations: [],
    }),
  )
}
/** A record with one value set, or taken out. */
function having(record: Record<string, number> | undefined, key: string, value: number | null): Record<string, number> {
  const entries = Object.entries(record ?? {}).filter(([name]) => name !== key)
  return Object.fromEntries(value === null ? entries : [...entries, [key, value]])
}
const setAllowance = (name: string, value: number | null) =>
  props.edit((d) => (d.form.allowances = having(d.form.allowances, name, value)))
const setStep = (key: string, step: number | null) =>
  props.edit((d) => (d.form.order = having(d.form.order, key, step)))
const setFlap = (key: string, angle: number | null) =>
  props.edit((d) => (d.form.flaps = having(d.form.flaps, key, angle)))
</script>

<template>
  <p v-if="carton.own" class="sentence">
    A box from a blank of your own, {{ carton.own.panels.length }} panels.
    <select class="plain" value="" aria-label="Style" data-test="carton-style" @change="chooseStyle">
      <option value="">Another style …</option>
      <option v-for="(words, style) in STYLES" :key="style" :value="style">{{ words }}</option>
    </select>
  </p>
  <p v-else class="sentence">
    A
    <select class="plain" :value="carton.style" aria-label="Style" data-test="carton-style" @change="chooseStyle">
      <option v-for="(words, style) in STYLES" :key="style" :value="style">{{ words }}</option></select
    >, inside
    <template v-for="(side, index) in SIDES" :key="side.field">
      <QuantityInput
        :label="`Inside ${side.field}`"
        unit="mm"
        :value="carton[side.field]"
        :min="5"
        :max="2000"
        :refused="badPlace === side.field"
        @change="(v) => edit((d) => (d.form[side.field] = v))"
      />
      {{ side.words }}<template v-if="index < 2">, </template></template
    >.
  </p>
  <p class="sentence">
    Folded from board of
    <QuantityInput
      label="Caliper"
      unit="mm"
      :value="carton.board.caliper"
      :min="0.1"
      :max="12"
      :step="0.05"
      :digits="2"
      :refused="badPlace === 'board.caliper'"
      @change="(v) => edit((d) => (d.form.board.caliper = v))"
    />, its grain
    <select
      class="plain"
      :value="carton.board.grain"
      aria-label="Grain"
      @change="(e) => edit((d) => (d.form.board.grain = (e.target as HTMLSelectElement).value as 'around'))"
    >
      <option value="around">around</option>
      <option value="upright">upright</option></select
    >.
  </p>
  <p class="sentence fold">
    Closed
    <input
      type="range"
      min="0"
      max="100"
      step="1"
      :value="carton.closed * 100"
      aria-label="From flat to closed"
      data-test="fold"
      @input="(e) => edit((d) => (d.form.closed = Number((e.target as HTMLInputElement).value) / 100))"
    />
    <QuantityInput
      label="Closed"
      unit="%"
      :value="carton.closed * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => edit((d) => (d.form.closed = v / 100))"
    />
  </p>
  <p v-if="springs" class="sentence">
    What is only tucked in springs open by
    <QuantityInput
      label="Spring"
      unit="°"
      :value="carton.spring"
      :min="0"
      :max="30"
      @change="(v) => edit((d) => (d.form.spring = v))"
    />.
  </p>
  <template v-if="selected">
    <h3 data-test="chosen-panel">{{ selected }}</h3>
    <p v-if="crease?.follows" class="sentence">
      Folded {{ showNumber(crease.now, 0) }}°: it goes with the {{ crease.follows }}.
    </p>
    <p v-else-if="crease" class="sentence">
      Folded
      <QuantityInput
        :label="`Angle of the ${selected}`"
        unit="°"
        :value="crease.now"
        :min="-170"
        :max="170"
        :step="5"
        @change="(v) => setFlap(crease!.key, v)"
      />
      <template v-if="byHand">
        by hand. <Button size="small" @click="setFlap(crease.key, null)">Fold it with the others</Button>
      </template>
      <template v-else>in step</template>
      <QuantityInput
        v-if="!byHand"
        :label="`Step of the ${selected}`"
        unit="."
        :value="crease.step + 1"
        :min="1"
        :max="60"
        :step="1"
        :digits="0"
        @change="(v) => setStep(crease!.key, Math.round(v) - 1)"
      />
      <Button v-if="ordered" size="small" @click="setStep(crease.key, null)">As usual</Button>
    </p>
    <p v-else class="hint">Everything else is folded from it.</p>
    <p v-if="chosenPanel" class="sentence">
      <template v-if="carton.faces?.[chosenPanel.key]">
        Its outside:
        <MaterialSentence
          :key="chosenPanel.key"
          :label="`Outside of the ${chosenPanel.key}`"
          :kinds="['opaque']"
          :material="carton.faces[chosenPanel.key] as Made"
          :spot="spotOn(shape, blank, chosenPanel.panel.name)"
          @change="(m) => setFace(m as Carton['board']['outside'])"
        />
        <button type="button" class="aside" data-test="no-face" @click="setFace(null)">As the board</button>
      </template>
      <template v-else>
        Its outside is as the board's.
        <button type="button" class="aside" data-test="own-face" @click="setFace(carton.board.outside)">
          Make it of something else
        </button>
      </template>
    </p>
    <AreasSlip
      v-if="chosenPanel"
      :pack="pack"
      :panel="chosenPanel.panel"
      :name="chosenPanel.key"
      :bad-place="badPlace"
      :edit="edit"
    />
  </template>
  <slot />
  <FitsSlip v-if="!carton.own" :carton="carton" />
  <details data-test="slip-board">
    <summary>Board: what it is made of</summary>
    <p class="sentence">
      <label
        ><input
          type="checkbox"
          :checked="carton.board.wrapped"
          data-test="wrapped"
          @change="(e) => edit((d) => (d.form.board.wrapped = (e.target as HTMLInputElement).checked))"
        />
        covered with paper that goes on around its edges</label
      >
    </p>
    <p v-for="side in BOARD" :key="side.field" class="sentence">
      {{ side.words }}:
      <MaterialSentence
        :label="`Board ${side.field}`"
        :kinds="['opaque']"
        :material="carton.board[side.field] as Made"
        :spot="side.field === 'outside' ? spotOn(shape) : undefined"
        @change="(m) => edit((d) => (d.form.board[side.field] = m as Carton['board']['outside']))"
      />
    </p>
  </details>
  <details v-if="!carton.own" data-test="slip-insert">
    <summary>Insert</summary>
    <InsertSlip :pack="pack" :bad-place="badPlace" :edit="edit" />
  </details>
  <details v-if="!carton.own" data-test="slip-allowances">
    <summary>Allowances</summary>
    <p v-for="one in shape?.allowances ?? []" :key="one.name" class="sentence">
      <b>{{ one.name }}</b>: {{ one.words }},
      <QuantityInput
        :label="one.name"
        unit="mm"
        :value="one.value"
        :min="0"
        :max="2000"
        :step="0.5"
        :digits="2"
        :refused="badPlace === `allowances.${one.name}`"
        @change="(v) => setAllowance(one.name, v)"
      />
      <Button v-if="one.by_hand" size="small" @click="setAllowance(one.name, null)">As usual</Button>
    </p>
  </details>
</template>

<style scoped>
.fold {
  display: flex;
  align-items: center;
  gap: 8px;
}
.fold input[type='range'] {
  flex: 1;
  min-width: 60px;
  accent-color: var(--ribbon);
}
</style>
