<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'

import { answer, api, type Picture, wordsFor } from '@/api/client'
import { pinsOf, VERDICTS, verdictOf } from '@/components/answers'
import PinnedPicture from '@/components/PinnedPicture.vue'
import StationFrame from '@/components/StationFrame.vue'
import { showNumber } from '@/composables/quantity'
import { showDuration } from '@/composables/time'
import { useJob } from '@/stores/job'

const job = useJob()
const chosen = ref<number | null>(null)
const picture = computed(() => job.pictures.find((p) => p.id === chosen.value) ?? job.pictures[0] ?? null)
/** Pictures by what they show: of each shot and colourway the newest first. */
const groups = computed(() => {
  const found = new Map<string, { key: string; name: string; pictures: Picture[] }>()
  for (const p of job.pictures) {
    const group = found.get(p.shot_key) ?? { key: p.shot_key, name: p.shot, pictures: [] }
    group.pictures.push(p)
    found.set(p.shot_key, group)
  }
  const order = job.shots.map((shot) => shot.saved.key)
  const place = (key: string) => (order.includes(key) ? order.indexOf(key) : order.length)
  for (const group of found.values())
    group.pictures.sort((a, b) => a.colourway.localeCompare(b.colourway) || b.id - a.id)
  return [...found.values()].sort((a, b) => place(a.key) - place(b.key))
})
const link = ref('')
const said = ref('')

const forJob = () => ({ params: { path: { slug: job.slug } } })

async function makeLink(fresh: boolean): Promise<void> {
  try {
    const call = fresh
      ? api.POST('/api/jobs/{slug}/client-link/renew', forJob())
      : api.POST('/api/jobs/{slug}/client-link', forJob())
    link.value = `${location.origin}/c/${(await answer(call)).token}`
    said.value = fresh ? 'The old link no longer works.' : ''
  } catch (error) {
    said.value = wordsFor(error)
  }
}
async function copy(): Promise<void> {
  try {
    await navigator.clipboard.writeText(link.value)
    said.value = 'Copied.'
  } catch {
    said.value = 'The browser did not allow copying: select the link and copy it by hand.'
  }
}
function when(created: string): string {
  return new Date(created).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
}
</script>

<template>
  <StationFrame name="show">
    <template #flat>
      <div class="sheet">
        <h2>Contact sheet</h2>
        <p v-if="!job.pictures.length" class="hint">
          No picture yet. <RouterLink :to="`/jobs/${job.slug}/shoot`">Shoot one</RouterLink> and it lies here.
        </p>
        <section v-for="group in groups" :key="group.key" :aria-label="group.name" :data-test="`group-${group.key}`">
          <h3>{{ group.name }}</h3>
          <div class="prints">
            <button
              v-for="p in group.pictures"
              :key="p.id"
              class="print"
              :class="{ chosen: p.id === picture?.id }"
              :data-test="`print-${p.id}`"
              @click="chosen = p.id"
            >
              <img :src="`/api/pictures/${p.id}.jpg`" :alt="`${p.shot}, ${when(p.created)}`" loading="lazy" />
              <span>{{ p.colourway || 'as it is' }}</span>
              <small class="figures">{{ p.width }} × {{ p.height }}</small>
              <small v-if="verdictOf(p.answers)" class="verdict" :class="verdictOf(p.answers)" data-test="verdict">{{
                VERDICTS[verdictOf(p.answers)!]
              }}</small>
            </button>
          </div>
        </section>
      </div>
    </template>
    <template #round>
      <div class="large">
        <PinnedPicture
          v-if="picture"
          :src="`/api/pictures/${picture.id}.jpg`"
          :alt="`${picture.shot} of ${picture.pack}`"
          :width="picture.width"
          :height="picture.height"
          :pins="pinsOf(picture.answers)"
          data-test="shown"
        />
      </div>
    </template>
    <template #slip>
      <h2>For the client</h2>
      <p class="hint">A client link opens this job's pictures, without signing in, and nothing else.</p>
      <template v-if="link">
        <input
          class="link figures"
          :value="link"
          readonly
          aria-label="Client link"
          data-test="client-link"
          @focus="($event.target as HTMLInputElement).select()"
        />
        <div class="buttons">
          <Button type="primary" size="small" @click="copy">Copy the link</Button>
          <a :href="link" target="_blank" rel="noopener">See what they see</a>
        </div>
        <details>
          <summary>Withdraw it</summary>
          <p class="hint">Makes a new link; whoever has the old one sees nothing any more.</p>
          <Button size="small" @click="makeLink(true)">Make a new link</Button>
        </details>
      </template>
      <Button v-else type="primary" data-test="make-link" @click="makeLink(false)">Get the client link</Button>
      <p v-if="said" role="status" class="said">{{ said }}</p>
      <template v-if="picture">
        <h3>This picture</h3>
        <p class="sentence">
          {{ picture.shot }} of {{ picture.pack }}, {{ when(picture.created) }}:
          <b class="figures">{{ picture.width }} × {{ picture.height }} px</b>,
          <b class="figures">{{ showNumber(picture.samples) }}</b> samples<template v-if="picture.seconds"
            >, {{ showDuration(picture.seconds) }}</template
          >.
        </p>
        <template v-if="picture.answers.length">
          <h3>What the client says</h3>
          <ol class="answers" data-test="answers">
            <li v-for="(one, index) in picture.answers" :key="index">
              <b>{{ one.name }}</b> {{ VERDICTS[one.verdict]
              }}<template v-if="one.remark">: “{{ one.remark }}”</template>
              <small>{{ when(one.created) }}</small>
            </li>
          </ol>
        </template>
        <a class="download" :href="`/api/pictures/${picture.id}.png`" download>Download PNG</a>
      </template>
    </template>
    <template #rule>
      <span
        >Pictures <b>{{ job.pictures.length }}</b></span
      >
      <span v-if="picture?.noise"
        >Noise before cleaning <b>{{ showNumber(picture.noise, 2) }} %</b></span
      >
    </template>
  </StationFrame>
</template>

<style scoped>
.verdict {
  font-weight: 600;
}
.approved {
  color: #2f6445;
}
.changes {
  color: #855208;
}
.answers {
  margin: 0 0 10px;
  padding-left: 20px;
  font-size: 13.5px;
  overflow-wrap: anywhere;
}
.answers small {
  display: block;
  color: #5c5a54;
}
section {
  margin-bottom: 14px;
}
.sheet {
  position: absolute;
  inset: 0;
  overflow-y: auto;
  padding: 22px 24px;
}
.prints {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 16px;
  margin-top: 14px;
}
.print {
  display: grid;
  gap: 2px;
  text-align: left;
  padding: 8px;
  border: 2px solid transparent;
  background: var(--card);
  cursor: pointer;
}
.print.chosen {
  border-color: var(--ribbon);
}
.print img {
  width: 100%;
  aspect-ratio: 4 / 5;
  object-fit: contain;
  background: var(--grey);
}
.print small {
  font-size: 11.5px;
  color: #5c5a54;
}
.large {
  position: absolute;
  inset: 12px;
  display: grid;
  place-items: center;
}
.large img {
  max-width: 100%;
  max-height: 100%;
  object-fit: contain;
}
.link {
  width: 100%;
  padding: 6px;
  border: 1px solid var(--kraft);
  background: #fffdf8;
  font-size: 12px;
}
.buttons {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-top: 8px;
}
.buttons a {
  color: #97213a;
}
.said {
  margin: 8px 0 0;
  font-size: 12.5px;
}
.download {
  display: inline-block;
  padding: 5px 12px;
  background: var(--ink);
  color: #fff;
  text-decoration: none;
}
</style>
