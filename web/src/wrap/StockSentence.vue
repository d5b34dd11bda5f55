<script setup lang="ts">
import { computed } from 'vue'

import type { Label, Material, Panel } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import MaterialChoice from '@/components/MaterialChoice.vue'
import MaterialSentence from '@/components/MaterialSentence.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { printOn, STOCK_KINDS } from '@/form/materials'
import { STOCKS, takeStock } from './run'

/** What a label is printed on. `deepest` is the darkest colour that its shine leaves. */
const props = defineProps<{
  panel: Panel
  deepest: string | null
  edit: (change: (panel: Panel) => void) => void
}>()
const WORDS = { opaque: 'Paper', metal: 'Metallised film', clear: 'Clear film', bare: 'Straight on the container' }
const TEETH = { smooth: 'smooth', laid: 'laid, ribbed', felt: 'felt-marked, soft', kraft: 'kraft, full of fibres' }
/** The stock, where it is something that the library may have. */
const own = computed(() => {
  const { stock } = props.panel
  return stock.kind === 'bare' || stock.kind === 'linked' ? null : (stock as Material)
})
/** The stock with something changed, if it is the panel's own. */
const setStock = (change: object) => props.edit((p) => p.stock.kind !== 'linked' && Object.assign(p.stock, change))
</script>

<template>
  <p v-if="panel.stock.kind === 'linked'" class="sentence">
    On
    <MaterialSentence
      :material="panel.stock"
      :kinds="STOCK_KINDS"
      label="Stock"
      @change="(one) => edit((p) => printOn(p as Label, one))"
    />
  </p>
  <p v-else class="sentence">
    <select
      :value="panel.stock.kind"
      aria-label="Stock"
      data-test="stock"
      @change="(e) => edit((p) => takeStock(p, (e.target as HTMLSelectElement).value as keyof typeof STOCKS))"
    >
      <option v-for="(words, kind) in WORDS" :key="kind" :value="kind">{{ words }}</option>
    </select>
    <template v-if="own">
      <MaterialChoice
        :material="own"
        :kinds="STOCK_KINDS"
        label="Stock"
        @choose="(one) => edit((p) => printOn(p as Label, one))"
      />,
    </template>
    <template v-if="panel.stock.kind === 'opaque'">
      in
      <ColourInput label="Stock colour" :value="panel.stock.colour" @change="(v) => setStock({ colour: v })" />,
      <select
        :value="panel.tooth"
        aria-label="How the stock feels"
        data-test="tooth"
        @change="(e) => edit((p) => (p.tooth = (e.target as HTMLSelectElement).value as Panel['tooth']))"
      >
        <option v-for="(words, tooth) in TEETH" :key="tooth" :value="tooth">{{ words }}</option>
      </select>
    </template>
    <template v-if="panel.stock.kind === 'opaque' || panel.stock.kind === 'metal'">
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
      gloss,
    </template>
    <template v-if="panel.stock.kind !== 'bare'">
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
      thick</template
    >.
  </p>
  <p v-if="deepest" class="hint">
    Under its shine black shows as <span class="figures" data-test="deepest">{{ deepest }}</span>, and no print is
    darker.
  </p>
</template>
