<script setup lang="ts">
import { Button, Checkbox, Segmented, Slider } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import {
  answer,
  api,
  type AroundMap as MapOf,
  type Panorama,
  type PhotoSet,
  send,
  type StartingSurround,
  type StudioCard,
  type Surround,
  wordsFor,
} from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { latest } from '@/composables/latest'
import AroundMap from './AroundMap.vue'
import { anotherCard, sunWords, surroundOf, type Uneven } from './surrounds'

/** What light comes from all around the set. `turning`: whether a drag in the picture turns it. */
const props = defineProps<{ set: PhotoSet; turning: boolean }>()
const emit = defineEmits<{ edit: [change: (document: PhotoSet) => void]; turning: [on: boolean] }>()

const MOST_CARDS = 24
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

const card = ref(0)
const cards = computed<StudioCard[]>(() => (surround.value.kind === 'studio' ? (surround.value.cards ?? []) : []))
const its = computed(() => cards.value[card.value])
const editCards = (how: (cards: StudioCard[]) => void) =>
  change((s) => {
    if (s.kind === 'studio') how((s.cards ??= []))
  })
function addCard(): void {
  editCards((all) => all.push(anotherCard(all)))
  card.value = cards.value.length - 1
}
function dropCard(): void {
  editCards((all) => all.splice(card.value, 1))
  card.value = Math.max(card.value - 1, 0)
}
const onCard = (fields: Partial<StudioCard>) => editCards((all) => Object.assign(all[card.value]!, fields))
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
    <template v-if="surround.kind === 'sky'">
      <p class="sentence">
        It is the sky at
        <QuantityInput
          label="Latitude"
          unit="°"
          :value="surround.latitude ?? 0"
          :min="-90"
          :max="90"
          @change="(v) => put({ latitude: v })"
        />
        north,
        <QuantityInput
          label="Longitude"
          unit="°"
          :value="surround.longitude ?? 0"
          :min="-180"
          :max="180"
          @change="(v) => put({ longitude: v })"
        />
        east, on
        <input
          type="date"
          aria-label="Day"
          :value="surround.day"
          data-test="sky-day"
          @change="(e) => (e.target as HTMLInputElement).value && put({ day: (e.target as HTMLInputElement).value })"
        />
        at
        <QuantityInput
          label="Hour"
          unit="h"
          :value="surround.hour ?? 12"
          :min="0"
          :max="24"
          :step="0.5"
          :digits="2"
          @change="(v) => put({ hour: v })"
        />, the clock
        <QuantityInput
          label="Ahead of universal time"
          unit="h"
          :value="surround.zone ?? 0"
          :min="-12"
          :max="14"
          @change="(v) => put({ zone: v })"
        />
        ahead of universal time.
      </p>
      <Slider
        :value="surround.hour ?? 12"
        :min="0"
        :max="24"
        :step="0.1"
        :tooltip-open="false"
        aria-label-for-handle="Hour of the day"
        @change="(v) => put({ hour: Number(v) })"
      />
      <p class="sentence">
        Its haze is
        <QuantityInput
          label="Haze"
          unit=""
          :value="surround.haze ?? 3"
          :min="2"
          :max="10"
          :step="0.5"
          @change="(v) => put({ haze: v })"
        />
        (2 is the clearest air, 10 a white sky).
        <Checkbox :checked="surround.sun ?? true" data-test="sky-sun" @change="put({ sun: !(surround.sun ?? true) })"
          >The sun is there</Checkbox
        >
      </p>
    </template>
    <template v-if="surround.kind === 'studio'">
      <p class="sentence">
        Between the cards it is
        <QuantityInput
          label="Between the cards"
          unit="%"
          :value="(surround.base ?? 0) * 100"
          :min="0"
          :max="1000"
          :digits="1"
          @change="(v) => put({ base: v / 100 })"
        />
        of paper white.
        <Button size="small" :disabled="cards.length >= MOST_CARDS" data-test="add-card" @click="addCard"
          >Add a card</Button
        >
      </p>
      <p v-if="its" class="sentence" data-test="card-is">
        <strong>{{ its.name }}</strong> is
        <QuantityInput
          label="Card width"
          unit="°"
          :value="its.width"
          :min="1"
          :max="170"
          @change="(v) => onCard({ width: v })"
        />
        wide and
        <QuantityInput
          label="Card height"
          unit="°"
          :value="its.height"
          :min="1"
          :max="170"
          @change="(v) => onCard({ height: v })"
        />
        tall, at
        <QuantityInput
          label="Card azimuth"
          unit="°"
          :value="its.azimuth"
          :min="-180"
          :max="180"
          @change="(v) => onCard({ azimuth: v })"
        />
        from the camera and
        <QuantityInput
          label="Card elevation"
          unit="°"
          :value="its.elevation"
          :min="-90"
          :max="90"
          @change="(v) => onCard({ elevation: v })"
        />
        up, as bright as
        <QuantityInput
          label="Card brightness"
          unit="%"
          :value="(its.radiance ?? 1) * 100"
          :min="0"
          :max="10000"
          :step="10"
          :digits="0"
          @change="(v) => onCard({ radiance: v / 100 })"
        />
        of paper, soft over
        <QuantityInput
          label="Card softness"
          unit="%"
          :value="(its.soft ?? 0) * 100"
          :min="0"
          :max="100"
          :step="10"
          :digits="0"
          @change="(v) => onCard({ soft: v / 100 })"
        />
        of its half.
        <Button size="small" data-test="drop-card" @click="dropCard">Take it away</Button>
      </p>
    </template>
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
