<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { onMounted, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { answer, api, type Job, type Picture, wordsFor } from '@/api/client'

interface Entry extends Job {
  picture: Picture | null
}

const router = useRouter()
const jobs = ref<Entry[] | null>(null)
const name = ref('')
const client = ref('')
const problem = ref('')
const busy = ref(false)
const room = ref('')

onMounted(async () => {
  try {
    room.value = (await answer(api.GET('/api/session'))).room
    const found = await answer(api.GET('/api/jobs'))
    jobs.value = await Promise.all(
      found.map(async (job) => {
        const pictures = await answer(api.GET('/api/jobs/{slug}/pictures', { params: { path: { slug: job.slug } } }))
        return { ...job, picture: pictures[0] ?? null }
      }),
    )
  } catch (error) {
    problem.value = wordsFor(error)
  }
})

async function start(): Promise<void> {
  if (!name.value.trim()) {
    problem.value = 'Give the job a name first, such as the product.'
    return
  }
  busy.value = true
  try {
    const job = await answer(api.POST('/api/jobs', { body: { name: name.value, client: client.value } }))
    await router.push({ path: `/jobs/${job.slug}/form`, query: { start: 'yes' } })
  } catch (error) {
    problem.value = wordsFor(error)
  }
  busy.value = false
}
</script>

<template>
  <div class="page">
    <header>
      <h1>Giftwrap</h1>
      <p>From label artwork to a picture your client says yes to.</p>
      <p v-if="room" class="caution" role="alert" data-test="room">{{ room }}</p>
    </header>
    <main>
      <form class="new" @submit.prevent="start">
        <h2>Start a job</h2>
        <label
          >What is it? <Input v-model:value="name" placeholder="Pear balm, 50 ml jar" name="name" :maxlength="120"
        /></label>
        <label
          >For whom? <Input v-model:value="client" placeholder="The client's name" name="client" :maxlength="120"
        /></label>
        <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
        <Button type="primary" html-type="submit" :loading="busy">Start the job</Button>
        <p class="hint">It opens with packs to start from; a lit set and a camera are there already.</p>
      </form>
      <section aria-label="Jobs" class="jobs">
        <p v-if="jobs === null && !problem" class="hint">Fetching the jobs …</p>
        <RouterLink v-for="job in jobs ?? []" :key="job.slug" class="job" :to="`/jobs/${job.slug}/form`">
          <div class="picture">
            <img
              v-if="job.picture"
              :src="`/api/pictures/${job.picture.id}.jpg`"
              :alt="`Newest picture of ${job.name}`"
            />
            <span v-else>No picture yet</span>
          </div>
          <strong>{{ job.name }}</strong><small>{{ job.client }}</small>
        </RouterLink>
      </section>
    </main>
  </div>
</template>

<style scoped>
.page {
  height: 100%;
  overflow-y: auto;
  background: var(--mat);
  background-image:
    linear-gradient(var(--mat-line) 1px, transparent 1px), linear-gradient(90deg, var(--mat-line) 1px, transparent 1px);
  background-size: 40px 40px;
}
header {
  padding: 34px 48px 22px;
  background: var(--card);
  border-bottom: 1.5px dashed #cfc6b3;
}
header h1 {
  color: var(--ribbon);
  font-size: 34px;
}
header p {
  margin: 4px 0 0;
}
main {
  display: flex;
  gap: 36px;
  padding: 32px 48px;
  align-items: flex-start;
  flex-wrap: wrap;
}
.new {
  background: var(--card);
  width: 300px;
  padding: 20px 22px;
  border-top: 4px solid var(--ribbon);
  display: grid;
  gap: 12px;
}
.new label {
  display: grid;
  gap: 3px;
  font-size: 13px;
}
.new p {
  margin: 0;
}
.jobs {
  display: flex;
  flex-wrap: wrap;
  gap: 22px;
  flex: 1;
}
.job {
  display: grid;
  width: 230px;
  background: var(--card);
  padding: 10px 10px 14px;
  text-decoration: none;
  color: var(--ink);
  border: 1px solid transparent;
}
.job:hover {
  border-color: var(--ribbon);
}
.job small {
  color: #5c5a54;
}
.picture {
  background: var(--grey);
  height: 262px;
  display: grid;
  place-items: center;
  margin-bottom: 10px;
  overflow: hidden;
}
.picture span {
  background: var(--card);
  padding: 2px 8px;
}
.picture img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
</style>
