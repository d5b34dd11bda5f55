<script setup lang="ts">
import { inject, ref } from 'vue'

import { answer, api, type SetUpWords } from '@/api/client'
import type { Live } from '@/composables/live'

/** Lights that belong together, each with a picture of what stands in it; one takes the place of all that hang
 *  there. */
const emit = defineEmits<{ choose: [what: SetUpWords['what']] }>()

const live = inject<Live>('live')!
const all = ref<SetUpWords[]>([])
const problem = ref('')
async function open(event: Event): Promise<void> {
  if (!(event.target as HTMLDetailsElement).open) return
  live.lightAll()
  if (all.value.length) return
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
        <button type="button" :title="one.words" :data-test="`set-up-${one.what}`" @click="emit('choose', one.what)">
          <span class="picture">
            <img
              v-if="live.setUps.value[one.what]"
              :src="live.setUps.value[one.what]"
              :alt="`What stands, in: ${one.title}`"
              :data-test="`lit-by-${one.what}`"
            />
          </span>
          {{ one.title }}
          <small>{{ one.neutral ? 'neutral' : 'coloured' }}</small>
        </button>
      </li>
    </ul>
  </details>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 6px 0;
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
button {
  display: flex;
  flex-direction: column;
  align-items: stretch;
  text-align: center;
  width: 100%;
  height: 100%;
  padding: 2px;
  border: 1px solid transparent;
  background: none;
  font: inherit;
  font-size: 12px;
  line-height: 1.25;
  cursor: pointer;
}
button:hover,
button:focus-visible {
  border-color: var(--ribbon);
}
.picture {
  display: block;
  aspect-ratio: 4 / 5;
  margin-bottom: 3px;
  background: #777;
}
img {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
small {
  display: block;
  opacity: 0.75;
}
</style>
