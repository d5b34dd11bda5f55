<script setup lang="ts">
import { Button, Checkbox, Dropdown, Menu, MenuItem, Slider } from 'ant-design-vue'
import { computed } from 'vue'

import type { Arrangement, Light, PhotoSet, Plan } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import LightFace from './LightFace.vue'
import LightPlace from './LightPlace.vue'
import LightReach from './LightReach.vue'
import SetUps from './SetUps.vue'
import { pointedFor, type Pointing } from './pointing'
import { NEW_LIGHTS, type NewLight, setStrength, sides, strengthOf } from './lights'

/** `shown` is the set as it has grown or shrunk with what stands. */
const props = defineProps<{
  set: PhotoSet
  shown: PhotoSet
  plan: Plan | null
  selected: number
  /** The light that is seen alone, if one is. */
  alone: number | null
  /** What of the selected light's highlight the hand says. */
  pointing: Pointing | null
  names: Record<string, string>
}>()
const emit = defineEmits<{
  select: [index: number]
  edit: [change: (document: PhotoSet) => void]
  /** A change by hand: sweep and lights keep their places and sizes from now on. */
  arrange: [change: (document: PhotoSet) => void]
  follow: []
  hang: [what: NewLight]
  arrangeAll: [how: Arrangement]
  alone: [index: number | null]
  point: [what: Pointing | null]
}>()

/** As many as a set holds. */
const MOST = 16
/** Of what a light may be kept: what is strewn in a group is told as props, not one by one. */
const told = computed(() =>
  Object.fromEntries(
    (props.set.standing ?? [])
      .filter((one) => one.of.kind !== 'prop' || !one.group)
      .map((one) => [one.id, props.names[one.id] ?? one.id]),
  ),
)
const lights = computed(() => props.shown.lights)
const chosen = computed(() => lights.value[props.selected])
const light = (index: number, change: (light: Light) => void) => emit('edit', (d) => change(d.lights[index]!))
const place = (index: number, change: (light: Light) => void) => emit('arrange', (d) => change(d.lights[index]!))
const most = (light: Light) => (light.kind === 'sun' ? 20 : 30)
/** Power is said for the size that is shown. */
function power(index: number, value: number): void {
  const area = (one: Light) => sides(one)[0] * sides(one)[1]
  const share = area(props.set.lights[index]!) / area(lights.value[index]!)
  light(index, (l) => setStrength(l, Number((value * share).toFixed(4))))
}
function twice(): void {
  emit('edit', (d) => {
    const copy = JSON.parse(JSON.stringify(d.lights[props.selected])) as Light
    const taken = new Set(d.lights.map((l) => l.name))
    const stem = copy.name.replace(/ \d+$/, '')
    for (let n = 2; taken.has(copy.name); n++) copy.name = `${stem} ${n}`
    if ('azimuth' in copy) copy.azimuth = -copy.azimuth
    d.lights.push(copy)
  })
  emit('select', props.set.lights.length)
}
function drop(): void {
  emit('edit', (d) => d.lights.splice(props.selected, 1))
  emit('select', Math.max(props.selected - 1, 0))
}
function rename(name: string): void {
  const said = name.trim()
  if (said) light(props.selected, (l) => (l.name = said))
}
</script>

<template>
  <h3>
    Lights
    <Dropdown :trigger="['click']">
      <Button size="small" data-test="hang-light">Hang a light …</Button>
      <template #overlay>
        <Menu>
          <MenuItem
            v-for="one in NEW_LIGHTS"
            :key="one.what"
            :data-test="`hang-${one.what}`"
            @click="emit('hang', one.what)"
            >{{ one.words }}</MenuItem
          >
        </Menu>
      </template>
    </Dropdown>
  </h3>
  <SetUps :shown="shown" :reach="plan?.reach ?? 240" @choose="(how) => emit('arrangeAll', how)" />
  <p v-if="!lights.length" class="sentence">No light hangs here: without one, only the room around lights the set.</p>
  <div
    v-for="(one, index) in lights"
    :key="index"
    class="light"
    :class="{ chosen: index === selected }"
    @focusin="emit('select', index)"
    @click="emit('select', index)"
  >
    <div class="name">
      <Checkbox :checked="one.on" :data-test="`on-${index}`" @change="light(index, (l) => (l.on = !l.on))">{{
        one.name
      }}</Checkbox>
      <QuantityInput
        v-if="strengthOf(one)"
        :label="`${one.name} strength`"
        :unit="strengthOf(one)!.unit"
        :value="strengthOf(one)!.value"
        :min="0"
        :max="one.kind === 'sun' ? 1000 : 10000"
        :step="0.5"
        :digits="2"
        @change="(v) => power(index, v)"
      />
      <span v-else class="kind">gives no light of its own</span>
    </div>
    <Slider
      v-if="strengthOf(one)"
      :value="strengthOf(one)!.value"
      :min="0"
      :max="Math.max(most(one), strengthOf(one)!.value)"
      :step="0.1"
      :tooltip-open="false"
      :aria-label-for-handle="`${one.name} strength`"
      @change="(v) => power(index, Number(v))"
    />
  </div>
  <template v-if="chosen">
    <p class="acts">
      <Button
        v-for="way in pointedFor(chosen)"
        :key="way.what"
        size="small"
        :type="pointing === way.what ? 'primary' : 'default'"
        :aria-pressed="pointing === way.what"
        :data-test="way.what"
        @click="emit('point', pointing === way.what ? null : way.what)"
        >{{ pointing === way.what ? way.doing : way.offers }}</Button
      >
      <Button
        v-if="strengthOf(chosen)"
        size="small"
        :type="alone === selected ? 'primary' : 'default'"
        :aria-pressed="alone === selected"
        data-test="alone"
        @click="emit('alone', alone === selected ? null : selected)"
        >{{ alone === selected ? 'See all lights' : 'See it alone' }}</Button
      >
      <Button size="small" data-test="twice" :disabled="lights.length >= MOST" @click="twice"
        >Copy to the other side</Button
      >
      <Button size="small" data-test="drop-light" @click="drop">Take it away</Button>
    </p>
    <details>
      <summary>{{ chosen.name }}: place, size and colour</summary>
      <label class="called"
        >Called
        <input
          :value="chosen.name"
          maxlength="120"
          data-test="light-name"
          @change="rename(($event.target as HTMLInputElement).value)"
      /></label>
      <LightPlace :light="chosen" @change="(change) => place(selected, change)" />
      <LightFace :light="chosen" @change="(change) => place(selected, change)" />
      <Checkbox
        :checked="chosen.hidden_from_camera"
        @change="light(selected, (l) => (l.hidden_from_camera = !l.hidden_from_camera))"
        >The camera does not see it</Checkbox
      >
    </details>
    <details v-if="strengthOf(chosen)">
      <summary>{{ chosen.name }}: what it lights and where it is mirrored</summary>
      <LightReach :light="chosen" :names="told" @change="(change) => light(selected, change)" />
    </details>
  </template>
  <p class="sentence">
    <template v-if="set.scaled_for">Lights and sweep grow and shrink with what stands.</template>
    <Checkbox v-else :checked="false" data-test="lights-follow" @change="emit('follow')"
      >Lights and sweep grow and shrink with what stands</Checkbox
    >
  </p>
</template>

<style scoped>
h3 {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.light {
  padding: 2px 0 0 8px;
  border-left: 3px solid transparent;
}
.light.chosen {
  border-color: var(--ribbon);
}
.name {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.kind {
  font-size: 12.5px;
  opacity: 0.75;
}
.light :deep(.ant-slider) {
  margin: 4px 6px 8px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 4px 0 8px;
}
.called {
  display: block;
  margin: 4px 0;
}
.called input {
  font: inherit;
  width: 60%;
}
</style>
