<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useLocalStorage } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'

import { answer, api, type ClientPage, Refused, wordsFor } from '@/api/client'
import { pinsOf, VERDICTS, verdictOf } from '@/components/answers'
import PinnedPicture from '@/components/PinnedPicture.vue'

const props = defineProps<{ token: string }>()

const page = ref<ClientPage | null>(null)
const problem = ref('')
const chosen = ref<number | null>(null)
const name = useLocalStorage('giftwrap-client-name', '')
const remark = ref('')
const place = ref<{ x: number; y: number } | null>(null)
const said = ref('')
const refused = ref('')
const busy = ref(false)
const asking = ref(false)
const picture = computed(
  () => page.value?.pictures.find((p) => p.id === chosen.value) ?? page.value?.pictures[0] ?? null,
)
const pins = computed(() => {
  const own = pinsOf(picture.value?.answers ?? [])
  return place.value ? [...own, { ...place.value, mark: '+', words: 'the place you mean' }] : own
})
const address = (id: number, kind: string) => `/api/client/${props.token}/pictures/${id}.${kind}`
const title = (p: ClientPage['pictures'][number]) => (p.colourway ? `${p.shot}, ${p.colourway}` : p.shot)

async function load(): Promise<void> {
  page.value = await answer(api.GET('/api/client/{token}', { params: { path: { token: props.token } } }))
}
onMounted(async () => {
  try {
    await load()
    document.title = page.value!.job
  } catch (error) {
    problem.value =
      error instanceof Refused && error.status === 404
        ? 'This link does not work any more. Ask your designer for a new one.'
        : wordsFor(error)
  }
})

function choose(id: number): void {
  chosen.value = id
  place.value = null
  said.value = refused.value = ''
}
async function send(verdict: 'approved' | 'changes'): Promise<void> {
  if (busy.value) return
  busy.value = true
  said.value = refused.value = ''
  try {
    const newest = Math.max(...page.value!.pictures.map((p) => p.id))
    const body = {
      verdict,
      name: name.value.trim(),
      remark: remark.value.trim(),
      newest,
      x: null,
      y: null,
      ...place.value,
    }
    const path = { token: props.token, picture_id: picture.value!.id }
    await answer(api.POST('/api/client/{token}/pictures/{picture_id}/answers', { params: { path }, body }))
    said.value = verdict === 'approved' ? 'Thank you: the studio knows that you approve it.' : 'Sent to the studio.'
    remark.value = ''
    place.value = null
    asking.value = false
    chosen.value = picture.value!.id
    await load()
  } catch (error) {
    refused.value = wordsFor(error)
    if (error instanceof Refused && error.status === 409) await load().catch(() => undefined)
  }
  busy.value = false
}
function point(x: number, y: number): void {
  asking.value = true
  place.value = { x, y }
}
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
        <PinnedPicture
          v-if="picture"
          :src="address(picture.id, 'jpg')"
          :alt="`${title(picture)} of ${picture.pack}`"
          :width="picture.width"
          :height="picture.height"
          :pins="pins"
          asking
          data-test="client-picture"
          @point="point"
        />
        <p v-else>No pictures yet. They appear here as soon as they are taken.</p>
      </main>
      <aside v-if="picture" aria-label="What you think of it">
        <h2>{{ title(picture) }}</h2>
        <p class="hint">{{ picture.pack }}</p>
        <ol v-if="picture.answers.length" class="answers">
          <li v-for="(one, index) in picture.answers" :key="index">
            <b>{{ one.name }}</b> {{ VERDICTS[one.verdict] }}<template v-if="one.remark">: {{ one.remark }}</template>
          </li>
        </ol>
        <label>
          Your name
          <input v-model="name" maxlength="80" autocomplete="name" data-test="client-name" />
        </label>
        <label>
          {{ asking ? 'What should change' : 'Anything to say' }}
          <textarea v-model="remark" rows="3" maxlength="2000" data-test="client-remark" />
        </label>
        <p class="hint">
          {{ place ? 'It is pinned to the place you clicked.' : 'Click the picture to pin your words to a place.' }}
          <button v-if="place" type="button" class="aside" @click="place = null">Unpin</button>
        </p>
        <div class="buttons">
          <Button type="primary" :loading="busy" :disabled="!name.trim()" data-test="approve" @click="send('approved')"
            >Approve this picture</Button
          >
          <Button :disabled="busy || !name.trim() || !remark.trim()" data-test="ask-changes" @click="send('changes')"
            >Ask for changes</Button
          >
        </div>
        <p v-if="!name.trim()" class="hint">Your name first, so that the studio knows who answers.</p>
        <p v-if="said" role="status" class="said" data-test="client-said">{{ said }}</p>
        <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
        <a class="download" :href="address(picture.id, 'png')" download
          >Download PNG, {{ picture.width }} × {{ picture.height }} px</a
        >
      </aside>
      <footer v-if="page.pictures.length > 1">
        <nav aria-label="Pictures">
          <button
            v-for="p in page.pictures"
            :key="p.id"
            :class="{ chosen: p.id === picture?.id }"
            :aria-label="`${title(p)}${verdictOf(p.answers) ? `, ${VERDICTS[verdictOf(p.answers)!]}` : ''}`"
            :data-test="`client-pick-${p.shot_key}-${p.colourway_key || 'as-it-is'}`"
            @click="choose(p.id)"
          >
            <img :src="address(p.id, 'jpg')" alt="" />
            <small>{{ title(p) }}</small>
            <small v-if="verdictOf(p.answers)" class="verdict" :class="verdictOf(p.answers)">{{
              VERDICTS[verdictOf(p.answers)!]
            }}</small>
          </button>
        </nav>
      </footer>
    </template>
    <p v-else class="problem">Fetching the pictures …</p>
  </div>
</template>

<style scoped>
.client {
  height: 100%;
  display: grid;
  grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr) 300px;
  background: var(--grey);
  color: #fff;
}
header {
  grid-column: 1 / -1;
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
  position: relative;
  margin: 14px;
  display: grid;
  place-items: center;
  min-height: 0;
}
aside {
  display: flex;
  flex-direction: column;
  gap: 9px;
  padding: 18px 20px;
  background: var(--card);
  color: var(--ink);
  border-left: 1.5px dashed #cfc6b3;
  overflow-y: auto;
}
aside h2 {
  font-size: 18px;
}
aside p {
  margin: 0;
}
label {
  display: grid;
  gap: 3px;
  font-size: 13px;
}
input,
textarea {
  font: inherit;
  padding: 4px 7px;
  border: 1px solid var(--kraft);
  background: #fffdf8;
  resize: vertical;
}
.answers {
  margin: 0;
  padding-left: 20px;
  font-size: 13.5px;
  overflow-wrap: anywhere;
}
.buttons {
  display: grid;
  gap: 7px;
}
.download {
  margin-top: auto;
  color: #97213a;
}
.said {
  color: #2f6445;
  font-weight: 600;
}
footer {
  grid-column: 1 / -1;
  padding: 8px 20px;
  background: var(--card);
  color: var(--ink);
  border-top: 1.5px dashed #cfc6b3;
}
nav {
  display: flex;
  gap: 10px;
  overflow-x: auto;
}
nav button {
  display: grid;
  justify-items: center;
  flex: none;
  max-width: 120px;
  padding: 3px;
  border: 0;
  border-bottom: 3px solid transparent;
  background: none;
  font: inherit;
  cursor: pointer;
}
nav button.chosen {
  border-color: var(--ribbon);
}
nav img {
  height: 56px;
  display: block;
}
nav small {
  font-size: 11px;
  max-width: 110px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.verdict {
  font-weight: 600;
}
.approved {
  color: #2f6445;
}
.changes {
  color: #855208;
}
.problem {
  padding: 80px;
  background: var(--card);
  color: var(--ink);
  grid-column: 1 / -1;
  grid-row: 1 / -1;
}
@media (max-width: 800px) {
  .client {
    grid-template: auto minmax(50vh, 1fr) auto auto / minmax(0, 1fr);
    overflow-y: auto;
  }
}
</style>
