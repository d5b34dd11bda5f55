<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, defineAsyncComponent, onBeforeUnmount, onMounted, provide, ref, toRef, watchEffect } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'

import { answer, api, wordsFor } from '@/api/client'
import PackSwitch from '@/stations/PackSwitch.vue'
import Rail from '@/components/Rail.vue'
import TopLine from '@/components/TopLine.vue'
import { useLive } from '@/composables/live'
import { without } from '@/composables/records'
import { PALETTE } from '@/composables/palette'
import type { Station } from '@/router'
import { type Draft, type Steps, Together } from '@/stores/documents'
import { useJob } from '@/stores/job'
import { paletteOf } from '@/stores/palette'

const props = defineProps<{ slug: string; station: Station }>()

const pages = {
  form: defineAsyncComponent(() => import('@/stations/FormStation.vue')),
  wrap: defineAsyncComponent(() => import('@/stations/WrapStation.vue')),
  set: defineAsyncComponent(() => import('@/stations/SetStation.vue')),
  shoot: defineAsyncComponent(() => import('@/stations/ShootStation.vue')),
  show: defineAsyncComponent(() => import('@/stations/ShowStation.vue')),
}

const job = useJob()
const route = useRoute()
const router = useRouter()
const user = ref('')
const problem = ref('')
const live = useLive(
  props.slug,
  (event) => void job.hear(event),
  () => void job.catchUp(),
)
/** Photographs that packs are traced from, and pictures that were taken. */
const picturesOfJob = () => [
  ...job.packs.flatMap(({ saved, document: { form } }) =>
    form.kind === 'vessel' && form.tracing
      ? [{ name: `photograph of ${saved.name}`, address: `/api/photos/${form.tracing.picture}.jpg` }]
      : [],
  ),
  ...job.pictures.map((one) => ({ name: `${one.shot} as taken`, address: `/api/pictures/${one.id}.png` })),
]
provide('live', live)
provide('materials', toRef(job, 'materials'))
provide(
  PALETTE,
  paletteOf(
    () => job.paletteDraft,
    () => ({
      all: job.packs.map((draft) => ({ name: draft.saved.name, document: draft.document })),
      open: job.pack?.saved.name ?? '',
    }),
    { artwork: () => job.artwork, pictures: picturesOfJob },
  ),
)

const isAtPack = computed(() => props.station === 'form' || props.station === 'wrap')
watchEffect(() => {
  job.openKey = String(route.query.pack ?? '')
  job.shotKey = String(route.query.shot ?? '')
  job.colourwayKey = String(route.query.colourway ?? '')
  job.atSet = !isAtPack.value
})
/** Open another pack, a fresh one where it is chosen what it starts from; the way back leads to the one before. */
function openPack(key: string, fresh = false): void {
  const path = `/jobs/${props.slug}/${fresh ? 'form' : props.station}`
  void router.push({ path, query: { ...without(route.query, 'start'), pack: key, ...(fresh ? { start: 'yes' } : {}) } })
}
/** Open the pack, or from Set on the shot, so many places further on. */
function turnPage(by: number): void {
  if (isAtPack.value) {
    const next = job.packs[job.packs.findIndex((draft) => draft === job.pack) + by]
    if (next) openPack(next.saved.key)
  } else {
    const next = job.shots[job.shots.findIndex((draft) => draft === job.shot) + by]
    if (next) void router.push({ query: { ...route.query, shot: next.saved.key } })
  }
}

/** What undo and redo step at this station. */
const shown = computed<Steps | null>(() => {
  const [pack, photoSet, shot] = [job.pack, job.photoSet, job.shot] as (Draft<object> | null)[]
  const [palette, colourway] = [job.paletteDraft, job.colourway] as (Draft<object> | null)[]
  const all = (...drafts: (Draft<object> | null | undefined)[]) => new Together(drafts.filter((d) => d != null))
  if (isAtPack.value) return pack ? all(pack, palette) : null
  if (props.station === 'set' && photoSet && shot) return all(photoSet, shot, colourway)
  return props.station === 'shoot' ? (shot ?? null) : null
})
const stale = computed(() => job.drafts.find((d) => d.state === 'stale') ?? null)
const subject = computed(() => (isAtPack.value ? '' : (job.shot?.saved.name ?? '')))

onMounted(async () => {
  try {
    user.value = (await answer(api.GET('/api/session'))).user
    await job.open(props.slug)
  } catch (error) {
    problem.value = wordsFor(error)
  }
  addEventListener('keydown', shortcuts)
  addEventListener('beforeunload', warn)
})
onBeforeUnmount(() => {
  removeEventListener('keydown', shortcuts)
  removeEventListener('beforeunload', warn)
  void job.flush()
})

function shortcuts(event: KeyboardEvent): void {
  const typing = event.target instanceof HTMLInputElement && event.target.type !== 'color'
  if (!typing && (event.key === 'PageDown' || event.key === 'PageUp')) {
    event.preventDefault()
    turnPage(event.key === 'PageDown' ? 1 : -1)
    return
  }
  if (typing || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
  event.preventDefault()
  void (event.shiftKey ? shown.value?.redo() : shown.value?.undo())
}

function warn(event: BeforeUnloadEvent): void {
  if (job.drafts.some((d) => d.state !== 'saved' && d.state !== 'refused')) {
    void job.flush()
    event.preventDefault()
  }
}
</script>

<template>
  <div v-if="problem" class="problem">
    <h1>This job cannot be opened</h1>
    <p role="alert">{{ problem }}</p>
    <RouterLink to="/">Go to the jobs</RouterLink>
  </div>
  <div v-else class="bench">
    <Rail :slug="slug" :open="station" />
    <div class="work">
      <TopLine
        :job="job.detail?.name ?? ''"
        :subject="subject"
        :station="station"
        :draft="shown"
        :user="user"
        :connected="live.connected.value"
        :room="live.room.value"
      >
        <PackSwitch v-if="isAtPack && job.pack" @open="openPack" />
      </TopLine>
      <div v-if="stale" class="stale" role="alert">
        <span>{{ stale.message }}</span>
        <Button size="small" @click="stale.settle(true)">Go on with mine</Button>
        <Button size="small" @click="stale.settle(false)">Take theirs</Button>
      </div>
      <div class="station">
        <component :is="pages[station]" v-if="job.detail" />
        <p v-else class="hint waiting">Opening the job …</p>
      </div>
    </div>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  height: 100%;
}
.work {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}
.station {
  flex: 1;
  min-height: 0;
}
.stale {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 7px 14px;
  background: #f6e7c8;
}
.waiting,
.problem {
  padding: 60px;
}
</style>
