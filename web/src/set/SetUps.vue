<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'

import { answer, api, type SetUpWords } from '@/api/client'

/** Lights that belong together; one takes the place of all that hang there. */
const emit = defineEmits<{ choose: [what: SetUpWords['what']] }>()

const all = ref<SetUpWords[]>([])
const problem = ref('')
async function open(event: Event): Promise<void> {
  if (!(event.target as HTMLDetailsElement).open || all.value.length) return
  try {
    all.value = await answer(api.GET('/api/set-ups'))
  } catch {
    problem.value = 'The set-ups did not come: close this and open it again.'
  }
}
</script>

<template>
  <details data-test="set-ups" @toggle="open">
    <summary>Set-ups: lights for a purpose</summary>
    <p v-if="problem" role="alert">{{ problem }}</p>
    <ul>
      <li v-for="one in all" :key="one.what">
        <Button size="small" :data-test="`set-up-${one.what}`" @click="emit('choose', one.what)">{{
          one.title
        }}</Button>
        <span class="kind">{{ one.neutral ? 'neutral' : 'coloured' }}</span>
        <p>{{ one.words }}</p>
      </li>
    </ul>
  </details>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 4px 0;
}
li {
  margin: 8px 0;
}
p {
  margin: 2px 0 0;
  font-size: 12.5px;
}
.kind {
  margin-left: 8px;
  font-size: 12.5px;
  opacity: 0.75;
}
</style>
