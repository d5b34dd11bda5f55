<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import { type Carton, type ReadBlank, send, wordsFor } from '@/api/client'

const props = defineProps<{ file: File }>()
const emit = defineEmits<{ take: [carton: Carton]; cancel: [] }>()

const KINDS = { cut: 'cut', crease: 'crease', perforation: 'perforation', none: 'left out' }
const read = ref<ReadBlank | null>(null)
const kinds = ref<string[]>([])
const problem = ref('')
const busy = ref(false)

async function look(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    const body = new FormData()
    body.append('file', props.file)
    const response = await send(`/api/blank/read?kinds=${kinds.value.join(',')}`, { method: 'POST', body })
    read.value = (await response.json()) as ReadBlank
    kinds.value = read.value.groups.map((group) => (group.kind && group.kind in KINDS ? group.kind : 'none'))
  } catch (error) {
    problem.value = wordsFor(error)
  }
  busy.value = false
}
function say(index: number, kind: string): void {
  kinds.value[index] = kind
  void look()
}
watch(
  () => props.file,
  () => ((kinds.value = []), look()),
  { immediate: true },
)
</script>

<template>
  <div class="reader" role="region" aria-label="A blank read from a file">
    <h2>{{ file.name }}</h2>
    <p v-if="problem" class="refused" role="alert" data-test="blank-problem">{{ problem }}</p>
    <template v-if="read">
      <p>
        {{ read.carton.own?.panels.length }} panels, {{ read.carton.own?.creases?.length }} creases. Which lines are
        what?
      </p>
      <ul>
        <li v-for="(group, index) in read.groups" :key="index">
          <i
            :style="{ borderColor: group.colour.startsWith('#') ? group.colour : undefined }"
            :class="{ dashed: group.dashed }"
          ></i>
          <b>{{ group.called || group.colour || 'unnamed' }}</b>
          <span class="figures">{{ group.lines }}</span> lines
          <select
            :value="kinds[index]"
            :aria-label="`What ${group.called || group.colour} is`"
            :data-test="`kind-${index}`"
            @change="(e) => say(index, (e.target as HTMLSelectElement).value)"
          >
            <option v-for="(words, kind) in KINDS" :key="kind" :value="kind">{{ words }}</option>
          </select>
        </li>
      </ul>
      <p v-for="note in read.notes" :key="note" class="caution">{{ note }}</p>
    </template>
    <div class="buttons">
      <Button
        type="primary"
        size="small"
        :disabled="!read || busy || Boolean(problem)"
        data-test="take-blank"
        @click="emit('take', read!.carton)"
        >Fold it</Button
      >
      <Button size="small" @click="emit('cancel')">Leave it</Button>
    </div>
  </div>
</template>

<style scoped>
.reader {
  position: absolute;
  inset: 0;
  padding: 16px;
  overflow-y: auto;
  background: var(--card);
  z-index: 4;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 6px 0;
}
li i {
  width: 28px;
  border-top: 2px solid var(--ink);
}
li i.dashed {
  border-top-style: dashed;
}
li select {
  margin-left: auto;
}
</style>
