<script lang="ts">
/** What is seen over a proof. */
export type Shows = 'nothing' | 'brightness' | 'cut off'
</script>

<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'

import type { ProofSize } from '@/composables/proofSize'

/** What the proof shows and how: its size, a part of it only, against how it was before, or held. */
defineProps<{
  shows: Shows
  size: ProofSize
  /** Whether a part alone is refined, and whether the hand is saying which. */
  partly: boolean
  choosing: boolean
  /** Whether a proof is kept to be seen against, and whether there is one that could be. */
  before: boolean
  keepable: boolean
  held: boolean
}>()
defineEmits<{
  'update:shows': [what: Shows]
  'update:size': [size: ProofSize]
  'update:choosing': [on: boolean]
  whole: []
  keep: []
  'drop-before': []
  'go-back': []
  hold: [still: boolean]
}>()

const SHOWS = [
  { value: 'nothing', label: 'As it is' },
  { value: 'brightness', label: 'By brightness' },
  { value: 'cut off', label: 'What is cut off' },
]
const SIZES = [
  { value: 'small', label: 'Small' },
  { value: 'medium', label: 'Medium' },
  { value: 'large', label: 'Large' },
]
</script>

<template>
  <div class="tools" role="toolbar" aria-label="Proof">
    <div>
      <Segmented
        :value="shows"
        size="small"
        :options="SHOWS"
        data-test="shows"
        @change="(v) => $emit('update:shows', v as Shows)"
      />
      <Button class="hold" size="small" data-test="hold" @click="$emit('hold', !held)">{{
        held ? 'Go on' : 'Hold'
      }}</Button>
    </div>
    <div>
      <Segmented
        :value="size"
        size="small"
        :options="SIZES"
        data-test="proof-size"
        @change="(v) => $emit('update:size', v as ProofSize)"
      />
      <Button v-if="partly" size="small" data-test="whole" @click="$emit('whole')">All of it again</Button>
      <Button
        v-else
        size="small"
        :type="choosing ? 'primary' : 'default'"
        :aria-pressed="choosing"
        data-test="part"
        @click="$emit('update:choosing', !choosing)"
        >{{ choosing ? 'Drag over a part …' : 'Only a part' }}</Button
      >
      <template v-if="before">
        <Button
          size="small"
          data-test="go-back"
          title="Have set and camera as they were before"
          @click="$emit('go-back')"
          >Go back</Button
        >
        <Button size="small" data-test="drop-before" aria-label="Stop comparing" @click="$emit('drop-before')"
          >✕</Button
        >
      </template>
      <Button v-else size="small" :disabled="!keepable" data-test="keep-before" @click="$emit('keep')"
        >Keep as before</Button
      >
    </div>
  </div>
</template>

<style scoped>
.tools {
  display: grid;
  gap: 6px;
  padding: 0 12px 10px;
}
.tools > div {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
}
.hold {
  margin-left: auto;
}
</style>
