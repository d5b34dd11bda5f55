<script setup lang="ts">
import { computed, ref } from 'vue'

import { type Pictures, send, type SurfacePicture, wordsFor } from '@/api/client'
import { slugOf } from '@/composables/slug'

/** The pictures that a material shows: of its colour, its gloss, its relief. Several files may come at once. */
const props = defineProps<{ pictures: Pictures | null; label: string }>()
const emit = defineEmits<{ change: [pictures: Pictures | null, brought: SurfacePicture[]] }>()

type Part = SurfacePicture['part']
const PARTS: Part[] = ['colour', 'gloss', 'relief']
const TAKEN: Record<Part, SurfacePicture['taken'][]> = {
  colour: ['colours'],
  gloss: ['gloss', 'roughness', 'roughness in green'],
  relief: ['heights', 'normals up', 'normals down'],
}
const slug = computed(() => slugOf(props.label))
const chooser = ref<HTMLInputElement>()
const busy = ref('')
const said = ref<string[]>([])
const problem = ref('')
/** What was brought while this is open, so that it can be taken for something else. */
const known = ref<Partial<Record<Part, { file: File; facts: SurfacePicture }>>>({})
let wanted: Part | null = null

/** Choose files, for a part or for whatever they turn out to be. */
function choose(part: Part | null): void {
  wanted = part
  chooser.value?.click()
}
defineExpose({ choose })

async function bring(files: File[], part: Part | null, taken: SurfacePicture['taken'] | null): Promise<void> {
  const brought: SurfacePicture[] = []
  problem.value = ''
  said.value = []
  const query = new URLSearchParams({ ...(part && { part }), ...(taken && { taken }) })
  busy.value = files.map((file) => file.name).join(', ')
  const read = async (file: File) => {
    const form = new FormData()
    form.append('file', file)
    try {
      const response = await send(`/api/surface-pictures?${query}`, { method: 'POST', body: form })
      const facts = (await response.json()) as SurfacePicture
      known.value[facts.part] = { file, facts }
      said.value.push(...facts.notes)
      brought.push(facts)
    } catch (error) {
      problem.value = wordsFor(error)
    }
  }
  await Promise.all(files.map(read))
  busy.value = ''
  if (!brought.length) return
  const now = { ...props.pictures, ...Object.fromEntries(brought.map((one) => [one.part, one.sha256])) }
  emit('change', now, brought)
}
function chosen(event: Event): void {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  void bring(files, wanted, null)
}
function dropped(event: DragEvent, part: Part | null): void {
  void bring([...(event.dataTransfer?.files ?? [])], part, null)
}
function takeFor(part: Part, event: Event): void {
  const its = known.value[part]
  if (its) void bring([its.file], part, (event.target as HTMLSelectElement).value as SurfacePicture['taken'])
}
function without(part: Part): void {
  const left = { ...props.pictures, [part]: null }
  known.value = { ...known.value, [part]: undefined }
  problem.value = ''
  emit('change', PARTS.some((one) => left[one]) ? left : null, [])
}
/** How a picture of a part that was brought just now was taken, where it could have been otherwise. */
const takenFor = (part: Part) => {
  const its = known.value[part]
  return its && its.facts.sha256 === props.pictures?.[part] && TAKEN[part].length > 1 ? its.facts.taken : null
}
</script>

<template>
  <span class="pictures" @dragover.prevent @drop.prevent="dropped($event, null)">
    <input
      ref="chooser"
      type="file"
      multiple
      hidden
      accept="image/png,image/jpeg,image/tiff,image/webp,.exr"
      :data-test="`choose-pictures-${slug}`"
      @change="chosen"
    />
    <span v-if="pictures" class="row">
      <span v-for="part in PARTS" :key="part" class="slot" @drop.stop.prevent="dropped($event, part)">
        <button
          type="button"
          class="picture"
          :aria-label="`${label}: picture of ${part}`"
          :title="pictures[part] ? `Another picture of ${part}` : `A picture of ${part}; files can be dropped here`"
          :data-test="`picture-${part}-${slug}`"
          @click="choose(part)"
        >
          <img v-if="pictures[part]" :src="`/api/surface-pictures/${pictures[part]}.webp`" alt="" />
          <template v-else>＋</template>
        </button>
        <span>
          {{ part }}
          <button
            v-if="pictures[part]"
            type="button"
            class="aside"
            :aria-label="`${label}: no picture of ${part}`"
            :data-test="`no-picture-${part}-${slug}`"
            @click="without(part)"
          >
            ✕
          </button>
        </span>
        <select
          v-if="takenFor(part)"
          class="kind"
          :value="takenFor(part)"
          :aria-label="`${label}: what the picture of ${part} is`"
          :data-test="`taken-${part}-${slug}`"
          @change="takeFor(part, $event)"
        >
          <option v-for="one in TAKEN[part]" :key="one" :value="one">{{ one }}</option>
        </select>
      </span>
    </span>
    <span v-if="busy" role="status">Reading {{ busy }} …</span>
    <span v-for="note in said" :key="note" class="note" role="status">{{ note }}</span>
    <span v-if="problem" class="refused" role="alert">{{ problem }}</span>
  </span>
</template>

<style scoped>
.row {
  display: flex;
  gap: 8px;
  margin: 6px 0;
}
.slot {
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.slot .kind {
  max-width: 88px;
  font-size: 12px;
}
.picture {
  width: 58px;
  height: 58px;
  padding: 0;
  border: 1px solid var(--kraft);
  border-radius: 3px;
  background: var(--card);
  cursor: pointer;
  overflow: hidden;
}
.picture:hover,
.picture:focus-visible {
  border-color: var(--ribbon);
}
.picture img {
  width: 100%;
  height: 100%;
  object-fit: cover;
  display: block;
}
.note {
  display: block;
  font-size: 12px;
}
</style>
