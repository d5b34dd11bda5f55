<script setup lang="ts">
import { computed } from 'vue'

import type { Body, Pack, Shape, VesselPack } from '@/api/client'
import MaterialSentence from '@/components/MaterialSentence.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { showNumber } from '@/composables/quantity'
import { ZONES } from './fields'
import { kindsOf } from './materials'

const props = defineProps<{
  pack: VesselPack
  shape: Shape | null
  badPlace: string
  edit: (change: (document: VesselPack) => void) => void
}>()

const zones = computed(
  () =>
    ZONES.map((name) => props.shape?.zones.find((z) => z.name === name)).filter(
      (z) => z && z.top - z.bottom > 0.05,
    ) as Shape['zones'],
)
type ZoneName = keyof Body['zone_walls'] & string

/** Values by zone with one of them set, or left to the rule. */
function changed(
  values: Record<string, number> | undefined,
  name: string,
  value: number | null,
): Record<string, number> {
  const others = Object.entries(values ?? {}).filter(([zone]) => zone !== name)
  return Object.fromEntries(value === null ? others : [...others, [name, value]])
}
function wall(name: string, value: number): void {
  props.edit((d) => {
    const same = Math.abs(value - d.form.body.wall_thickness) < 1e-6
    d.form.body.zone_walls = changed(d.form.body.zone_walls, name, same ? null : value)
  })
}
function top(name: string, value: number | null): void {
  props.edit((d) => (d.form.body.zone_tops = changed(d.form.body.zone_tops, name, value)))
}
const isOwn = (name: string) => name in (props.pack.form.body.zone_tops ?? {})
const key = (name: string) => name as ZoneName
</script>

<template>
  <p class="sentence">
    The wall is
    <QuantityInput
      label="Wall thickness"
      unit="mm"
      :value="pack.form.body.wall_thickness"
      :min="0.1"
      :max="100"
      :step="0.1"
      :digits="2"
      :refused="badPlace === 'body.wall_thickness'"
      @change="(v) => edit((d) => (d.form.body.wall_thickness = v))"
    />
    thick, the base
    <QuantityInput
      label="Base thickness"
      unit="mm"
      :value="pack.form.body.base_thickness"
      :min="0.1"
      :max="200"
      :step="0.5"
      :digits="2"
      :refused="badPlace === 'body.base_thickness'"
      @change="(v) => edit((d) => (d.form.body.base_thickness = v))"
    />, pushed up
    <QuantityInput
      label="Push-up"
      unit="mm"
      :value="pack.form.body.push_up"
      :min="0"
      :max="500"
      :step="1"
      :digits="2"
      :refused="badPlace === 'body.push_up'"
      @change="(v) => edit((d) => (d.form.body.push_up = v))"
    />
    in the middle. The rim is rolled
    <QuantityInput
      label="Rim roll"
      unit="mm"
      :value="pack.form.body.rim_roll"
      :min="0"
      :max="20"
      :step="0.1"
      :digits="2"
      @change="(v) => edit((d) => (d.form.body.rim_roll = v))"
    />
    outwards.
  </p>
  <p class="sentence">
    It is
    <MaterialSentence
      label="Body"
      part="body"
      :material="pack.form.body.material"
      :kinds="kindsOf(pack as Pack, 'body')"
      @change="(m) => edit((d) => (d.form.body.material = m as Body['material']))"
    />
  </p>
  <table v-if="zones.length" class="zones">
    <caption>
      Zones
    </caption>
    <thead>
      <tr>
        <th scope="col">zone</th>
        <th scope="col">up to</th>
        <th scope="col">wall</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr v-for="zone in zones" :key="zone.name">
        <th scope="row">{{ zone.name }}</th>
        <td>
          <QuantityInput
            v-if="zone.name !== 'finish'"
            :label="`Top of the ${zone.name}`"
            unit="mm"
            :value="zone.top"
            :min="0"
            :max="2000"
            :step="1"
            :refused="badPlace === `body.zone_tops.${zone.name}`"
            @change="(v) => top(zone.name, v)"
          />
          <span v-else class="figures">{{ showNumber(zone.top) }} mm</span>
        </td>
        <td>
          <QuantityInput
            :label="`Wall of the ${zone.name}`"
            unit="mm"
            :value="pack.form.body.zone_walls?.[key(zone.name)] ?? pack.form.body.wall_thickness"
            :min="0.1"
            :max="100"
            :step="0.1"
            :digits="2"
            :refused="badPlace === `body.zone_walls.${zone.name}`"
            @change="(v) => wall(zone.name, v)"
          />
        </td>
        <td>
          <button
            v-if="isOwn(zone.name)"
            type="button"
            class="reset"
            :aria-label="`Let the shape say where the ${zone.name} ends`"
            title="as the shape says"
            @click="top(zone.name, null)"
          >
            ↺
          </button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.zones {
  border-collapse: collapse;
  width: 100%;
  font-size: 13px;
  margin-top: 6px;
}
.zones caption {
  caption-side: top;
  color: var(--ink);
  text-align: left;
  font-weight: 600;
  padding-bottom: 2px;
}
.zones th {
  text-align: left;
  font-weight: 400;
  padding: 2px 6px 2px 0;
  color: #4d4b46;
}
.zones td {
  padding: 2px 0;
}
.reset {
  border: 0;
  background: none;
  cursor: pointer;
  color: #97213a;
  font-size: 15px;
}
</style>
