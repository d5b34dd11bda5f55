<script setup lang="ts">
import { Dropdown, Menu, MenuItem } from 'ant-design-vue'

import type { LabelKind, Pack } from '@/api/client'
import type { Sheet } from './printed'

/** What is printed on a pack, one of which is worked on, and what labels may be added. */
defineProps<{ sheets: Sheet[]; which: number; kind: Pack['form']['kind']; closed: boolean }>()
defineEmits<{ open: [index: number]; add: [kind: LabelKind]; pick: [] }>()

const KINDS: { kind: LabelKind; words: string; closure?: boolean }[] = [
  { kind: 'around', words: 'Around the pack' },
  { kind: 'sleeve', words: 'A sleeve over all of it' },
  { kind: 'seal', words: 'A seal over the top' },
  { kind: 'closure', words: 'Around the closure', closure: true },
  { kind: 'top', words: 'On top of the closure', closure: true },
]
const name = (sheet: Sheet, sheets: Sheet[]) => {
  if (sheet.kind === 'blank') return `Blank${sheets.length > 1 ? ` of the ${sheet.panel.name}` : ''}`
  return sheet.panel.name
}
</script>

<template>
  <div class="tabs" role="toolbar" aria-label="Labels of this pack">
    <button
      v-for="(sheet, index) in sheets"
      :key="index"
      type="button"
      :aria-pressed="index === which"
      :data-test="`panel-${index}`"
      @click="$emit('open', index)"
    >
      {{ name(sheet, sheets) }}
    </button>
    <button v-if="kind !== 'vessel'" type="button" data-test="add-panel" @click="$emit('pick')">Add a label</button>
    <Dropdown v-else :trigger="['click']">
      <button type="button" data-test="add-panel" @click.prevent>Add a label ▾</button>
      <template #overlay>
        <Menu>
          <MenuItem
            v-for="one in KINDS"
            :key="one.kind"
            :disabled="one.closure && !closed"
            :data-test="`add-${one.kind}`"
            @click="$emit('add', one.kind)"
            >{{ one.words }}</MenuItem
          >
          <MenuItem key="pick" data-test="add-pick" @click="$emit('pick')">Where I click on the pack</MenuItem>
        </Menu>
      </template>
    </Dropdown>
  </div>
</template>

<style scoped>
.tabs {
  position: absolute;
  z-index: 1;
  left: 10px;
  top: 8px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
button {
  border: 0;
  border-bottom: 3px solid transparent;
  background: var(--card);
  padding: 3px 10px;
  font: inherit;
  font-size: 13px;
  cursor: pointer;
}
[aria-pressed='true'] {
  border-color: var(--ribbon);
  font-weight: 600;
}
</style>
