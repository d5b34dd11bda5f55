<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Arrangement, PhotoSet, Plan, Pose } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { showNumber } from '@/composables/quantity'
import { outermost, RESTS_MM } from './moving'
import PropSlip from './PropSlip.vue'

const props = defineProps<{
  set: PhotoSet
  plan: Plan | null
  chosen: string[]
  names: Record<string, string>
  /** What stands there and is a box. */
  boxes: string[]
}>()
const emit = defineEmits<{
  arrange: [how: Arrangement]
  edit: [change: (document: PhotoSet) => void]
  choose: [ids: string[]]
}>()

const gap = ref(12)
const copies = ref(1)
const radius = ref(400)
const one = computed(() =>
  props.chosen.length === 1 ? props.set.standing?.find((s) => s.id === props.chosen[0]) : null,
)
const pose = computed(() => ({ x: 0, y: 0, z: 0, turn: 0, lean: 0, nod: 0, ...one.value?.pose }))
const drawn = computed(() => props.plan?.stands.find((s) => s.id === one.value?.id) ?? null)
/** What is wrong with how it rests. */
const off = computed(() => {
  const { air = 0, crosses = [] } = drawn.value ?? {}
  if (crosses.length) return `It crosses ${props.names[crosses[0]!] ?? crosses[0]}.`
  if (Math.abs(air) < RESTS_MM) return ''
  return `${air > 0 ? 'It floats' : 'It sinks'} ${showNumber(Math.abs(air), 1)} mm.`
})
const grouped = computed(() => props.chosen.some((id) => outermost(props.set, id).group))
/** What a group is called of which all is chosen. */
const groupName = computed(() => {
  const keys = new Set(props.chosen.map((id) => outermost(props.set, id).group))
  const [key] = keys
  if (keys.size !== 1 || !key) return null
  const all = (props.set.standing ?? []).filter((s) => outermost(props.set, s.id).group === key)
  return all.length === props.chosen.length ? props.set.groups![key]!.name : null
})
const group = computed(() => (one.value ? outermost(props.set, one.value.id).group : null))
/** What it can be put into: cartons that stand here and are not chosen. */
const around = computed(() =>
  (props.set.standing ?? []).filter((s) => props.boxes.includes(s.id) && !props.chosen.includes(s.id)),
)
const inside = computed(() => (props.set.standing ?? []).filter((s) => props.chosen.includes(s.id) && s.inside))
function putIn(event: Event): void {
  const select = event.target as HTMLSelectElement
  if (select.value) emit('arrange', { kind: 'put-in', ids: props.chosen, box: select.value })
  select.value = ''
}
/** How things are put in line. */
const LINES = {
  left: 'their left sides',
  middle: 'one behind the other',
  right: 'their right sides',
  front: 'their fronts',
  centre: 'side by side',
  back: 'their backs',
} as const
function align(event: Event): void {
  const select = event.target as HTMLSelectElement
  if (select.value) emit('arrange', { kind: 'align', ids: props.chosen, to: select.value as keyof typeof LINES })
  select.value = ''
}
const hidden = computed(() => (props.set.standing ?? []).filter((s) => s.hidden))

function move(change: Partial<Pose>): void {
  const { id } = one.value!
  emit('edit', (d) => {
    const its = d.standing!.find((s) => s.id === id)!
    its.pose = { ...its.pose, ...change }
  })
}
function hide(ids: string[], out: boolean): void {
  emit('edit', (d) => d.standing!.filter((s) => ids.includes(s.id)).forEach((s) => (s.hidden = out)))
}
</script>

<template>
  <section v-if="chosen.length" class="standing" aria-label="What is chosen">
    <h2>{{ one ? names[one.id] : (groupName ?? `${chosen.length} things`) }}</h2>
    <PropSlip v-if="one?.of.kind === 'prop'" :id="one.id" :set="set" @edit="(change) => emit('edit', change)" />
    <template v-if="one">
      <p v-if="group" class="hint">
        In the group “{{ set.groups![group]!.name }}”: dragged, it takes the others along.
      </p>
      <p class="sentence">
        <QuantityInput
          label="Across"
          unit="mm"
          :value="pose.x"
          :min="-5000"
          :max="5000"
          :step="5"
          @change="(v) => move({ x: v })"
        />
        to the right,
        <QuantityInput
          label="Back"
          unit="mm"
          :value="pose.y"
          :min="-5000"
          :max="5000"
          :step="5"
          @change="(v) => move({ y: v })"
        />
        back, turned
        <QuantityInput
          label="Turn"
          unit="°"
          :value="pose.turn"
          :min="-360"
          :max="360"
          :step="5"
          @change="(v) => move({ turn: v })"
        />.
      </p>
      <details>
        <summary>Lifted, leaning</summary>
        <p class="sentence">
          <QuantityInput
            label="Lifted"
            unit="mm"
            :value="pose.z"
            :min="-5000"
            :max="5000"
            :step="1"
            @change="(v) => move({ z: v })"
          />
          up, leaning
          <QuantityInput
            label="Leaning"
            unit="°"
            :value="pose.lean"
            :min="-360"
            :max="360"
            :step="5"
            @change="(v) => move({ lean: v })"
          />
          to the right and
          <QuantityInput
            label="Nodding"
            unit="°"
            :value="pose.nod"
            :min="-360"
            :max="360"
            :step="5"
            @change="(v) => move({ nod: v })"
          />
          back.
        </p>
      </details>
      <p v-if="drawn && !inside.length && off" class="caution" data-test="lifted">
        {{ off }}
        <Button size="small" data-test="rest" @click="emit('arrange', { kind: 'rest', ids: chosen })"
          >Put it on what is there</Button
        >
      </p>
    </template>
    <p v-if="inside.length" class="sentence" data-test="stands-in">
      Stands in the {{ names[inside[0]!.inside!] }}.
      <Button
        size="small"
        data-test="take-out"
        @click="emit('arrange', { kind: 'take-out', ids: inside.map((s) => s.id) })"
        >Take it out</Button
      >
    </p>
    <p v-else-if="around.length" class="sentence">
      <select class="plain" value="" aria-label="Put into a box" data-test="put-in" @change="putIn">
        <option value="">Put into …</option>
        <option v-for="s in around" :key="s.id" :value="s.id">{{ names[s.id] }}</option>
      </select>
    </p>
    <p class="sentence">
      <Button
        size="small"
        data-test="copy-standing"
        @click="emit('arrange', { kind: 'copies', ids: chosen, count: copies, gap })"
        >Copy</Button
      >
      {{ ' ' }}
      <QuantityInput
        label="Copies"
        unit="×"
        :value="copies"
        :min="1"
        :max="60"
        :step="1"
        :digits="0"
        @change="(v) => (copies = Math.round(v))"
      />
      with
      <QuantityInput label="Gap" unit="mm" :value="gap" :min="-500" :max="2000" :step="2" @change="(v) => (gap = v)" />
      between.
    </p>
    <div v-if="chosen.length > 1" class="buttons">
      <Button size="small" data-test="row" @click="emit('arrange', { kind: 'row', ids: chosen, gap, turn: 0 })"
        >In a row</Button
      >
      <Button size="small" data-test="arc" @click="emit('arrange', { kind: 'arc', ids: chosen, gap, radius })"
        >On an arc</Button
      >
      <QuantityInput
        label="Radius of the arc"
        unit="mm"
        :value="radius"
        :min="10"
        :max="5000"
        :step="20"
        @change="(v) => (radius = v)"
      />
      <Button size="small" @click="emit('arrange', { kind: 'gather', ids: chosen, name: 'Group' })">Group</Button>
    </div>
    <div v-if="chosen.length > 1" class="buttons">
      <Button size="small" data-test="stack" @click="emit('arrange', { kind: 'stack', ids: chosen })">Stack</Button>
      <select class="plain" value="" aria-label="Put in line" data-test="align" @change="align">
        <option value="">In line …</option>
        <option v-for="(words, to) in LINES" :key="to" :value="to">{{ words }}</option>
      </select>
      <template v-if="chosen.length > 2">
        <Button
          size="small"
          data-test="spread"
          @click="emit('arrange', { kind: 'spread', ids: chosen, along: 'across' })"
          >Same air between</Button
        >
      </template>
    </div>
    <div class="buttons">
      <Button size="small" data-test="face-camera" @click="emit('arrange', { kind: 'face-camera', ids: chosen })"
        >Face the camera</Button
      >
      <Button v-if="grouped" size="small" @click="emit('arrange', { kind: 'part', ids: chosen })">Ungroup</Button>
      <Button size="small" @click="(hide(chosen, true), emit('choose', []))">Hide</Button>
      <Button
        size="small"
        data-test="take-away"
        @click="(emit('arrange', { kind: 'take-away', ids: chosen }), emit('choose', []))"
        >Take away</Button
      >
    </div>
  </section>
  <p v-if="hidden.length" class="hint">
    Hidden:
    <template v-for="s in hidden" :key="s.id"
      ><Checkbox :checked="false" @change="hide([s.id], false)">show {{ names[s.id] }}</Checkbox></template
    >
  </p>
</template>

<style scoped>
.standing {
  margin-bottom: 16px;
  padding-bottom: 12px;
  border-bottom: 1.5px dashed #cfc6b3;
}
.buttons {
  align-items: baseline;
  margin-top: 6px;
}
</style>
