<script setup lang="ts">
import { Button } from 'ant-design-vue'

import type { Light } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'

/** Where a light is and how large. */
defineProps<{ light: Light }>()
const emit = defineEmits<{ change: [change: (light: Light) => void] }>()

const KINDS: Record<Light['kind'], string> = {
  softbox: 'A softbox',
  window: 'A window',
  table: 'A light table',
  spot: 'A spot',
  ball: 'A ball',
  sun: 'A sun',
  card: 'A card',
}
/** Change one number of a light that has it. */
function set(name: string, value: number): void {
  emit('change', (l) => Object.assign(l, { [name]: value }))
}
</script>

<template>
  <p class="sentence">
    {{ KINDS[light.kind] }}
    <template v-if="'width' in light">
      <QuantityInput
        label="Light width"
        unit="mm"
        :value="light.width"
        :min="5"
        :max="5000"
        :step="20"
        :digits="0"
        @change="(v) => set('width', v)"
      />
      ×
      <QuantityInput
        label="Light height"
        unit="mm"
        :value="light.height"
        :min="5"
        :max="5000"
        :step="20"
        :digits="0"
        @change="(v) => set('height', v)"
      />,
    </template>
    <template v-else-if="light.kind === 'sun'">
      <QuantityInput
        label="Sun width"
        unit="°"
        :value="light.diameter"
        :min="0.1"
        :max="60"
        :step="0.5"
        :digits="2"
        @change="(v) => set('diameter', v)"
      />
      across in the sky,
    </template>
    <template v-else>
      <QuantityInput
        label="Light diameter"
        unit="mm"
        :value="light.diameter"
        :min="1"
        :max="5000"
        :step="10"
        :digits="0"
        @change="(v) => set('diameter', v)"
      />
      across,
    </template>
    <template v-if="light.kind === 'table'">
      lying on the floor, turned
      <QuantityInput
        label="Light turn"
        unit="°"
        :value="light.turn"
        :min="-360"
        :max="360"
        :step="5"
        @change="(v) => set('turn', v)"
      />.
      <Button
        v-if="light.at"
        size="small"
        data-test="beneath"
        @click="emit('change', (l) => Object.assign(l, { at: null }))"
        >Beneath what stands</Button
      >
    </template>
    <template v-else>
      <template v-if="light.kind !== 'sun'">
        <QuantityInput
          label="Light distance"
          unit="mm"
          :value="light.distance"
          :min="20"
          :max="5000"
          :step="20"
          :digits="0"
          @change="(v) => set('distance', v)"
        />
        away,
      </template>
      <QuantityInput
        label="Light turn"
        unit="°"
        :value="light.azimuth"
        :min="-360"
        :max="360"
        :step="5"
        @change="(v) => set('azimuth', v)"
      />
      to the right,
      <QuantityInput
        label="Light elevation"
        unit="°"
        :value="light.elevation"
        :min="-90"
        :max="90"
        :step="5"
        @change="(v) => set('elevation', v)"
      />
      up<template v-if="light.kind !== 'sun' && light.kind !== 'ball'"
        >, tilted
        <QuantityInput
          label="Light tilt"
          unit="°"
          :value="light.roll"
          :min="-360"
          :max="360"
          :step="5"
          @change="(v) => set('roll', v)" /></template
      >.
      <template v-if="light.kind === 'spot'">
        Its beam is
        <QuantityInput
          label="Beam"
          unit="°"
          :value="light.beam"
          :min="1"
          :max="170"
          :step="5"
          @change="(v) => set('beam', v)"
        />
        wide,
        <QuantityInput
          label="Soft rim"
          unit="%"
          :value="light.rim * 100"
          :min="0"
          :max="100"
          :step="10"
          :digits="0"
          @change="(v) => set('rim', v / 100)"
        />
        of it soft.
      </template>
      <template v-if="light.kind !== 'sun'">
        <template v-if="light.aim">
          It is aimed at a place of its own.
          <Button size="small" data-test="aim-middle" @click="emit('change', (l) => Object.assign(l, { aim: null }))"
            >Aim at the middle</Button
          >
        </template>
        <template v-else>It is aimed at the middle of what stands.</template>
      </template>
    </template>
  </p>
</template>
