<script setup lang="ts">
import type { Panel } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'

/** What a label is printed on. `deepest` is the darkest colour that its shine leaves. */
const props = defineProps<{
  panel: Panel
  deepest: string | null
  edit: (change: (panel: Panel) => void) => void
}>()
/** The stock with something changed, if it is the panel's own. */
const setStock = (change: object) => props.edit((p) => p.stock.kind === 'opaque' && Object.assign(p.stock, change))
</script>

<template>
  <details>
    <summary>Stock</summary>
    <p v-if="panel.stock.kind === 'linked'" class="sentence">Whatever the palette has as “{{ panel.stock.entry }}”.</p>
    <p v-else class="sentence">
      Paper in
      <ColourInput label="Stock colour" :value="panel.stock.colour" @change="(v) => setStock({ colour: v })" />,
      <QuantityInput
        label="Stock thickness"
        unit="mm"
        :value="panel.stock_thickness"
        :min="0.05"
        :max="2"
        :step="0.01"
        :digits="2"
        @change="(v) => edit((p) => (p.stock_thickness = v))"
      />
      thick,
      <QuantityInput
        label="Stock gloss"
        unit="%"
        :value="panel.stock.gloss * 100"
        :min="0"
        :max="100"
        :step="5"
        :digits="0"
        @change="(v) => setStock({ gloss: v / 100 })"
      />
      gloss.
    </p>
    <p v-if="deepest" class="hint">
      Under its shine black shows as <span class="figures" data-test="deepest">{{ deepest }}</span>, and no print is
      darker.
    </p>
  </details>
</template>
