<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, inject, ref } from 'vue'

import { answer, api, type Arrangement, type OwnSetUp, type PhotoSet, type SetUpWords, wordsFor } from '@/api/client'
import type { Live } from '@/composables/live'

/** Lights that belong together, each with a picture of what stands in it; one takes the place of all that hang
 *  there. `shown` is the set as it has arranged itself, for something of a reach in mm. */
const props = defineProps<{ shown: PhotoSet; reach: number }>()
const emit = defineEmits<{ choose: [how: Arrangement] }>()

const live = inject<Live>('live')!
const all = ref<SetUpWords[]>([])
const own = ref<OwnSetUp[]>([])
const name = ref('')
const problem = ref('')
const every = computed(() => [
  ...own.value.map((one) => ({
    key: `own-${one.number}`,
    number: one.number,
    title: one.name,
    words: 'Kept by the studio',
    neutral: one.neutral,
    how: one.how as Arrangement,
  })),
  ...all.value.map((one) => ({
    key: one.what,
    number: null,
    title: one.title,
    words: one.words,
    neutral: one.neutral,
    how: { kind: 'set-up', what: one.what } as Arrangement,
  })),
])
async function doing(work: () => Promise<void>): Promise<void> {
  problem.value = ''
  try {
    await work()
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
const open = (event: Event) =>
  doing(async () => {
    if (!(event.target as HTMLDetailsElement).open) return
    live.lightAll()
    own.value = await answer(api.GET('/api/own-set-ups'))
    if (!all.value.length) all.value = await answer(api.GET('/api/set-ups'))
  })
const keep = () =>
  doing(async () => {
    const { lights, surround } = props.shown
    const how = { kind: 'hang-lights' as const, lights, surround, made_for: Math.max(props.reach, 1) }
    own.value = await answer(api.POST('/api/own-set-ups', { body: { name: name.value.trim(), how } }))
    name.value = ''
    live.lightAll()
  })
const drop = (number: number) =>
  doing(async () => {
    own.value = await answer(api.DELETE('/api/own-set-ups/{number}', { params: { path: { number } } }))
  })
</script>

<template>
  <details data-test="set-ups" @toggle="open">
    <summary>Set-ups: lights for a purpose</summary>
    <p v-if="problem" class="caution" role="alert">{{ problem }}</p>
    <ul>
      <li v-for="one in every" :key="one.key">
        <button
          type="button"
          class="lights"
          :title="one.words"
          :data-test="`set-up-${one.key}`"
          @click="emit('choose', one.how)"
        >
          <span class="picture">
            <img
              v-if="live.setUps.value[one.key]"
              :src="live.setUps.value[one.key]"
              :alt="`What stands, in: ${one.title}`"
              :data-test="`lit-by-${one.key}`"
            />
          </span>
          {{ one.title }}
          <small>{{ one.neutral ? 'neutral' : 'coloured' }}</small>
        </button>
        <button v-if="one.number !== null" type="button" class="drop" @click="drop(one.number)">take away</button>
      </li>
    </ul>
    <form class="sentence" @submit.prevent="keep">
      Keep these lights as
      <input v-model="name" class="plain" aria-label="Name of the set-up" maxlength="120" data-test="set-up-name" />
      <Button size="small" html-type="submit" :disabled="!name.trim()" data-test="keep-set-up">Keep</Button>
    </form>
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
.lights {
  display: flex;
  flex-direction: column;
  align-items: stretch;
  text-align: center;
  width: 100%;
  padding: 2px;
  border: 1px solid transparent;
  background: none;
  font: inherit;
  font-size: 12px;
  line-height: 1.25;
  cursor: pointer;
}
.lights:hover,
.lights:focus-visible {
  border-color: var(--ribbon);
}
.drop {
  display: block;
  margin: 0 auto;
  border: 0;
  background: none;
  font-size: 11px;
  text-decoration: underline;
  cursor: pointer;
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
