<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import { answer, api, type ClientPage, Refused, wordsFor } from '@/api/client'

const props = defineProps<{ token: string }>()

const page = ref<ClientPage | null>(null)
const problem = ref('')
const chosen = ref<number | null>(null)
const picture = computed(
  () => page.value?.pictures.find((p) => p.id === chosen.value) ?? page.value?.pictures[0] ?? null,
)
const address = (id: number, kind: string) => `/api/client/${props.token}/pictures/${id}.${kind}`

onMounted(async () => {
  try {
    page.value = await answer(api.GET('/api/client/{token}', { params: { path: { token: props.token } } }))
    document.title = page.value.job
  } catch (error) {
    problem.value =
      error instanceof Refused && error.status === 404
        ? 'This link does not work any more. Ask your designer for a new one.'
        : wordsFor(error)
  }
})
</script>

<template>
  <div class="client">
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template v-else-if="page">
      <header>
        <h1>{{ page.job }}</h1>
        <p v-if="page.client && page.client !== page.job">for {{ page.client }}</p>
      </header>
      <main>
        <img
          v-if="picture"
          class="large"
          :src="address(picture.id, 'jpg')"
          :alt="`${picture.shot} of ${picture.pack}`"
          data-test="client-picture"
        />
        <p v-else>No pictures yet. They appear here as soon as they are taken.</p>
      </main>
      <footer v-if="picture">
        <nav v-if="page.pictures.length > 1" aria-label="Pictures">
          <button
            v-for="(p, index) in page.pictures"
            :key="p.id"
            :class="{ chosen: p.id === picture.id }"
            :aria-label="`Picture ${page.pictures.length - index}`"
            @click="chosen = p.id"
          >
            <img :src="address(p.id, 'jpg')" alt="" />
          </button>
        </nav>
        <span>{{ picture.pack }} · {{ picture.shot }}</span>
        <a :href="address(picture.id, 'png')" download>Download PNG, {{ picture.width }} × {{ picture.height }} px</a>
      </footer>
    </template>
    <p v-else class="problem">Fetching the pictures …</p>
  </div>
</template>

<style scoped>
.client {
  height: 100%;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  background: var(--grey);
  color: #fff;
}
header {
  background: var(--card);
  color: var(--ink);
  padding: 14px 28px;
  display: flex;
  gap: 14px;
  align-items: baseline;
}
header h1 {
  font-size: 22px;
}
header p {
  margin: 0;
}
main {
  display: grid;
  place-items: center;
  padding: 18px;
  min-height: 0;
}
.large {
  max-width: 100%;
  max-height: 100%;
  object-fit: contain;
  min-height: 0;
}
footer {
  display: flex;
  gap: 18px;
  align-items: center;
  padding: 10px 28px;
  background: var(--card);
  color: var(--ink);
  flex-wrap: wrap;
}
footer a {
  margin-left: auto;
  color: #97213a;
}
nav {
  display: flex;
  gap: 6px;
}
nav button {
  padding: 0;
  border: 2px solid transparent;
  background: none;
  cursor: pointer;
}
nav button.chosen {
  border-color: var(--ribbon);
}
nav img {
  height: 44px;
  display: block;
}
.problem {
  padding: 80px;
  background: var(--card);
  color: var(--ink);
  grid-row: 1 / -1;
}
</style>
