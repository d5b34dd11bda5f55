<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { computed } from 'vue'

import type { Light } from '@/api/client'
import { leftOut, toggled } from './lights'

/** What a light falls on, and what mirrors it: of each thing, and of each kind of part. */
const props = defineProps<{ light: Light; names: Record<string, string> }>()
const emit = defineEmits<{ change: [change: (light: Light) => void] }>()

type Chosen = Light['untouched'][number]
const PARTS: { part: NonNullable<Chosen['part']>; words: string }[] = [
  { part: 'body', words: 'bodies of all' },
  { part: 'contents', words: 'contents of all' },
  { part: 'closure', words: 'closures of all' },
  { part: 'labels', words: 'labels of all' },
  { part: 'props', words: 'all props' },
]
const rows = computed<{ key: string; words: string; one: Chosen }[]>(() => [
  { key: 'sweep', words: 'the sweep', one: { part: 'sweep' } },
  ...Object.entries(props.names).map(([id, words]) => ({ key: id, words, one: { standing: id } })),
  ...PARTS.map(({ part, words }) => ({ key: part, words, one: { part } })),
])
function toggle(which: 'untouched' | 'unreflected', one: Chosen): void {
  const all = rows.value.map((row) => row.one)
  emit('change', (l) => (l[which] = toggled(l[which], one, all)))
}
</script>

<template>
  <table>
    <thead>
      <tr>
        <th />
        <th scope="col">lit</th>
        <th scope="col">mirrors it</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.key">
        <th scope="row">{{ row.words }}</th>
        <td v-for="which in ['untouched', 'unreflected'] as const" :key="which">
          <Checkbox
            :checked="!leftOut(light[which], row.one)"
            :aria-label="`${light.name} ${which === 'untouched' ? 'lights' : 'is mirrored by'} ${row.words}`"
            :data-test="`${which}-${row.key}`"
            @change="toggle(which, row.one)"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13.5px;
}
th {
  font-weight: 400;
  text-align: left;
}
thead th,
td {
  text-align: center;
  width: 5em;
}
thead th:first-child {
  width: auto;
}
</style>
