<script setup lang="ts">
import { Button, Segmented, Slider } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import {
  answer,
  api,
  type AroundMap as MapOf,
  type Panorama,
  type PhotoSet,
  send,
  type StartingSurround,
  type Surround,
  wordsFor,
} from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { latest } from '@/composables/latest'
import AroundMap from './AroundMap.vue'
import CardsSentence from './CardsSentence.vue'
import SkySentence from './SkySentence.vue'
import { sunWords, surroundOf, type Uneven } from './surrounds'

/** What light comes from all around the set. `turning`: whether a drag in the picture turns it. */
const props = defineProps<{ set: PhotoSet; turning: boolean }>()
const emit = defineEmits<{ edit: [change: (document: PhotoSet) => void]; turning: [on: boolean] }>()

const surround = computed(() => props.set.surround)
const uneven = computed<Uneven | null>(() => (surround.value.kind === 'even' ? null : surround.value))
const change = (how: (surround: Surround) => void) => emit('edit', (d) => how(d.surround))
const put = (fields: Partial<Record<string, unknown>>) => change((s) => Object.assign(s, fields))
/** Another surround. One that is light enough by itself puts the lamps out, as they were hung for another. */
function take(one: Surround): void {
  const burning = props.set.lights.some((light) => light.on && light.kind !== 'card')
  notes.value =
    one.kind !== 'even' && burning ? ['The lamps were switched off: tick those that are to shine as well.'] : []
  emit('edit', (d) => {
    d.surround = JSON.parse(JSON.stringify(one)) as Surround
    if (one.kind !== 'even') for (const light of d.lights) if (light.kind !== 'card') light.on = false
  })
}

const all = ref<StartingSurround[]>([])
const problem = ref('')
const notes = ref<string[]>([])
const busy = ref('')
async function open(event: Event): Promise<void> {
  if (!(event.target as HTMLDetailsElement).open || all.value.length) return
  try {
    all.value = await answer(api.GET('/api/starting-surrounds'))
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
const chooser = ref<HTMLInputElement>()
async function bring(files: File[]): Promise<void> {
  const file = files[0]
  if (!file) return
  problem.value = ''
  notes.value = []
  busy.value = file.name
  const form = new FormData()
  form.append('file', file)
  try {
    const response = await send('/api/panoramas', { method: 'POST', body: form })
    const facts = (await response.json()) as Panorama
    take(surroundOf(facts))
    notes.value = [...notes.value, ...facts.notes]
  } catch (error) {
    problem.value = wordsFor(error)
  }
  busy.value = ''
}
function chosen(event: Event): void {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  void bring(files)
}

/** What the map is drawn from: everything but its turn and its strength, which the page and the eye see to. */
const source = computed(() => (uneven.value ? JSON.stringify({ ...uneven.value, turn: 0, held: 'world' }) : ''))
const drawn = ref<MapOf | null>(null)
const draw = latest(
  (now: string) => answer(api.POST('/api/surround-map', { body: { surround: JSON.parse(now) as Surround } })),
  (map) => {
    drawn.value = map
    problem.value = ''
  },
  (error) => (problem.value = wordsFor(error)),
)
watch(source, (now) => now && draw(now), { immediate: true })

/** The light card that is chosen. */
const card = ref(0)
const HELD = [
  { value: 'world', label: 'with the set' },
  { value: 'camera', label: 'with the camera' },
]
const title = computed(
  () =>
    ({
      even: 'Even light from everywhere.',
      picture: `“${surround.value.kind === 'picture' ? surround.value.name : ''}”, a picture of light.`,
      studio: 'Light cards all around.',
      sky: 'The sky and its sun.',
    })[surround.value.kind],
)
</script>

<template>
  <h3>All around</h3>
  <p class="sentence" data-test="around-is">{{ title }}</p>
  <details data-test="starting-surrounds" @toggle="open">
    <summary>Choose another</summary>
    <ul class="gallery">
      <li v-for="one in all" :key="one.key">
        <button type="button" :data-test="`surround-${one.key}`" :title="one.words" @click="take(one.surround)">
          <img :src="one.picture" alt="" />
          <span>{{ one.title }}</span>
        </button>
      </li>
    </ul>
  </details>
  <p class="acts">
    <Button size="small" :loading="busy !== ''" data-test="bring-surround" @click="chooser?.click()">{{
      busy ? `Reading ${busy} …` : 'Your own HDR or EXR …'
    }}</Button>
    <input
      ref="chooser"
      type="file"
      accept=".hdr,.exr,.pic"
      hidden
      aria-label="A picture of everything around"
      data-test="surround-file"
      @change="chosen"
    />
  </p>
  <p v-if="problem" role="alert" class="caution" data-test="around-problem">{{ problem }}</p>
  <p v-for="note in notes" :key="note" role="status" class="note">{{ note }}</p>
  <template v-if="uneven">
    <div @dragover.prevent @drop.prevent="bring([...($event.dataTransfer?.files ?? [])])">
      <AroundMap
        v-if="drawn"
        :surround="uneven"
        :picture="drawn.picture"
        :chosen="card"
        @change="change"
        @choose="card = $event"
      />
    </div>
    <p v-if="drawn?.sun" class="note" data-test="sun-is">{{ sunWords(drawn.sun) }}</p>
  </template>
  <p class="sentence">
    It gives
    <QuantityInput
      label="Surround strength"
      unit="%"
      :value="surround.strength * 100"
      :min="0"
      :max="10000"
      :step="2"
      :digits="0"
      @change="(v) => put({ strength: v / 100 })"
    />
    {{ uneven ? 'of its own light' : 'of paper white' }}, seen through
    <ColourInput label="Tint of the surround" :value="surround.tint" @change="(v) => put({ tint: v })" />.
  </p>
  <template v-if="uneven">
    <Slider
      :value="surround.strength"
      :min="0"
      :max="Math.max(2, surround.strength)"
      :step="0.01"
      :tooltip-open="false"
      aria-label-for-handle="Surround strength"
      @change="(v) => put({ strength: Number(v) })"
    />
    <p class="sentence">
      It is turned by
      <QuantityInput
        label="Surround turn"
        unit="°"
        :value="uneven.turn ?? 0"
        :min="-180"
        :max="180"
        :step="5"
        @change="(v) => put({ turn: v })"
      />
      and stays
      <Segmented
        size="small"
        :value="uneven.held ?? 'world'"
        :options="HELD"
        data-test="surround-held"
        @change="(v) => put({ held: v })"
      />
      <Button
        size="small"
        :type="turning ? 'primary' : 'default'"
        :aria-pressed="turning"
        data-test="turn-around"
        @click="emit('turning', !turning)"
        >{{ turning ? 'Drag the picture …' : 'Turn it in the picture' }}</Button
      >
    </p>
    <SkySentence v-if="surround.kind === 'sky'" :sky="surround" @put="put" />
    <CardsSentence
      v-if="surround.kind === 'studio'"
      :studio="surround"
      :chosen="card"
      @put="put"
      @change="change"
      @choose="card = $event"
    />
    <details>
      <summary>Colours, contrast and blur</summary>
      <p class="sentence">
        Its colours are
        <QuantityInput
          label="Surround saturation"
          unit="%"
          :value="(uneven.saturation ?? 1) * 100"
          :min="0"
          :max="300"
          :step="10"
          :digits="0"
          @change="(v) => put({ saturation: v / 100 })"
        />
        strong, its contrast is
        <QuantityInput
          label="Surround contrast"
          unit="%"
          :value="(uneven.contrast ?? 1) * 100"
          :min="20"
          :max="300"
          :step="10"
          :digits="0"
          @change="(v) => put({ contrast: v / 100 })"
        />
        of its own, and it is blurred by
        <QuantityInput
          label="Surround blur"
          unit="°"
          :value="uneven.blur ?? 0"
          :min="0"
          :max="90"
          @change="(v) => put({ blur: v })"
        />.
      </p>
    </details>
  </template>
</template>

<style scoped>
.gallery {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
  padding: 0;
  margin: 6px 0;
  list-style: none;
}
.gallery button {
  width: 100%;
  padding: 0 0 4px;
  border: 1px solid var(--line, #d8cfbf);
  background: #fff;
  font: inherit;
  font-size: 12.5px;
  text-align: left;
  cursor: pointer;
}
.gallery button:hover {
  border-color: var(--ribbon);
}
.gallery img {
  display: block;
  width: 100%;
  aspect-ratio: 2;
}
.gallery span {
  display: block;
  padding: 3px 6px 0;
}
.note {
  margin: 2px 0;
  font-size: 12.5px;
}
.acts {
  margin: 4px 0;
}
</style>
