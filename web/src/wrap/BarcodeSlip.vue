<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'

import type { BarcodeIn } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'

/** A barcode to be made and laid on what is worked on. */
defineProps<{ busy: boolean; problem: string }>()
defineEmits<{ make: [barcode: BarcodeIn] }>()

const KINDS: Record<BarcodeIn['kind'], { words: string; says: string }> = {
  'ean-13': { words: 'EAN-13', says: '12 or 13 digits' },
  'ean-8': { words: 'EAN-8', says: '7 or 8 digits' },
  'upc-a': { words: 'UPC-A', says: '11 or 12 digits' },
  qr: { words: 'QR code', says: 'what it says' },
  'data-matrix': { words: 'Data Matrix', says: 'what it says' },
}
const kind = ref<BarcodeIn['kind']>('ean-13')
const text = ref('')
const magnification = ref(1)
</script>

<template>
  <details data-test="slip-barcode">
    <summary>Barcode</summary>
    <p class="sentence">
      <select v-model="kind" class="plain" aria-label="Kind of barcode" data-test="barcode-kind">
        <option v-for="(one, key) in KINDS" :key="key" :value="key">{{ one.words }}</option>
      </select>
      of
      <input
        v-model="text"
        class="text figures"
        maxlength="5000"
        :placeholder="KINDS[kind].says"
        aria-label="What the barcode says"
        data-test="barcode-text"
        @keydown.enter="$emit('make', { kind, text, magnification })"
      />
      at
      <QuantityInput
        label="Magnification"
        unit="%"
        :value="100 * magnification"
        :min="50"
        :max="1000"
        :step="5"
        :digits="0"
        @change="(v) => (magnification = v / 100)"
      />
      of its usual size.
    </p>
    <p v-if="problem" class="caution" role="alert" data-test="barcode-problem">{{ problem }}</p>
    <Button size="small" :loading="busy" data-test="make-barcode" @click="$emit('make', { kind, text, magnification })"
      >Put it on</Button
    >
  </details>
</template>

<style scoped>
.text {
  font: inherit;
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: none;
  width: 15ch;
}
</style>
