<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { type Artwork, send, type Shot, wordsFor } from '@/api/client'
import ShareInput from '@/components/ShareInput.vue'
import { useJob } from '@/stores/job'
import { MOST_REFERENCES, type Reference } from './references'

/** Pictures to work towards: which there are, and how they lie beside or over what the camera sees. */
const props = defineProps<{ shot: Shot; seen: boolean }>()
const emit = defineEmits<{ edit: [change: (shot: Shot) => void]; seen: [seen: boolean] }>()

const LIES = [
  { value: 'beside', label: 'beside the picture' },
  { value: 'over', label: 'over it' },
  { value: 'under', label: 'under it' },
  { value: 'wipe', label: 'over its left, to be wiped' },
] as const
const job = useJob()
const problem = ref('')
const pinned = computed(() => props.shot.references ?? [])
const library = computed(() => job.artwork.filter((one) => !pinned.value.some((own) => own.picture === one.sha256)))

function pin(one: Pick<Artwork, 'sha256' | 'filename'>): void {
  const fresh: Reference = { picture: one.sha256, name: one.filename, lies: 'beside', strength: 0.5 }
  emit('edit', (d) => (d.references = [...(d.references ?? []), fresh]))
}
function choose(event: Event): void {
  const select = event.target as HTMLSelectElement
  const one = library.value.find((artwork) => artwork.sha256 === select.value)
  if (one) pin(one)
  select.value = ''
}
async function bring(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  problem.value = ''
  if (!file) return
  try {
    const form = new FormData()
    form.append('file', file)
    const response = await send(`/api/jobs/${job.slug}/artwork`, { method: 'POST', body: form })
    const artwork = (await response.json()) as Artwork
    await job.loadArtwork()
    pin(artwork)
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
const change = (index: number, fields: Partial<Reference>) =>
  emit('edit', (d) => Object.assign(d.references![index]!, fields))
const drop = (index: number) => emit('edit', (d) => d.references!.splice(index, 1))
</script>

<template>
  <h3>To work towards</h3>
  <p v-for="(one, index) in pinned" :key="one.picture" class="sentence" :data-test="`reference-${index}`">
    {{ one.name }} lies
    <select
      :aria-label="`Where ${one.name} lies`"
      :value="one.lies"
      :data-test="`reference-lies-${index}`"
      @change="(e) => change(index, { lies: (e.target as HTMLSelectElement).value as Reference['lies'] })"
    >
      <option v-for="way in LIES" :key="way.value" :value="way.value">{{ way.label }}</option></select
    ><template v-if="one.lies === 'over' || one.lies === 'under'"
      >, seen by
      <ShareInput
        :label="`Strength of ${one.name}`"
        :value="one.strength"
        @change="(v) => change(index, { strength: v })" /></template
    >.
    <Button size="small" @click="drop(index)">Take it off</Button>
  </p>
  <p v-if="pinned.length < MOST_REFERENCES" class="sentence">
    <label class="bring"
      >Pin a picture: <input type="file" accept="image/*,.pdf,.svg" data-test="pin-reference" @change="bring" /></label
    ><template v-if="library.length"
      >or
      <select class="plain" value="" aria-label="Pin a picture of the library" data-test="pin-known" @change="choose">
        <option value="">one of the library …</option>
        <option v-for="one in library" :key="one.sha256" :value="one.sha256">{{ one.filename }}</option>
      </select></template
    >
  </p>
  <p v-if="pinned.length" class="sentence">
    <Checkbox :checked="seen" data-test="references-seen" @change="emit('seen', !seen)">Show them</Checkbox>
  </p>
  <p v-if="problem" class="caution" role="alert">{{ problem }}</p>
</template>

<style scoped>
.bring input {
  max-width: 190px;
  font-size: 12px;
}
</style>
