<script setup lang="ts">
import { computed, inject, onBeforeUnmount, ref, type Ref, watch } from 'vue'

import type { Fade, Film, Grain, Material, Pictures, StartingMaterials, SurfacePicture } from '@/api/client'
import { grainInHand, type GrainPlace, holdGrain, letGoOfGrain } from '@/composables/grain'
import { slugOf } from '@/composables/slug'
import ColourInput from './ColourInput.vue'
import QuantityInput from './QuantityInput.vue'
import ShareInput from './ShareInput.vue'
import SurfacePictures from './SurfacePictures.vue'

/** What is done to a material: a pattern on or through it, a fade along the height, a thin film. */
const props = defineProps<{ material: Material; label: string; place?: GrainPlace; unwrapped?: boolean }>()
const emit = defineEmits<{ change: [part: { grain?: Grain | null; fade?: Fade | null; film?: Film | null }] }>()

const FADE: Fade = { begins: 10, whole: 40, colour: '#ffffff', cover: 1, gloss: 0.6 }
/** Pictures as they begin: 40 mm wide, heights a fiftieth of that. */
const PICTURED = { scale: 40, lies: 'around', turn: 0, colour: '#000000', share: 1, depth: 0, brushed: 0 } as const
const RISE = 0.02
const FROM_FILES = 'pictures'
const FILM: Film = { thickness: 300, refractive_index: 2.3 }
const starting = inject<Ref<StartingMaterials | null>>('materials')!
const grain = computed(() => props.material.grain ?? null)
const fade = computed(() => props.material.fade ?? null)
const film = computed(() => props.material.film ?? null)
const slug = computed(() => slugOf(props.label))
const chosen = (event: Event) => (event.target as HTMLSelectElement).value

const pictures = computed(() => {
  const pattern = grain.value?.pattern
  return pattern && typeof pattern === 'object' ? pattern : null
})
const pattern = computed(() => (pictures.value ? FROM_FILES : ((grain.value?.pattern as string | undefined) ?? '')))
const files = ref<InstanceType<typeof SurfacePictures>>()

/** Another pattern, as it begins, or pictures, once they have been chosen. */
function choose(event: Event): void {
  const wanted = chosen(event)
  if (wanted === FROM_FILES) {
    ;(event.target as HTMLSelectElement).value = pattern.value
    files.value?.choose(null)
    return
  }
  const found = starting.value?.grains.find((one) => one.pattern === wanted)
  emit('change', { grain: found ? { ...found } : null })
}
/** Other pictures; relief that has just come is as deep as it says. */
function picture(pattern: Pictures | null, brought: SurfacePicture[]): void {
  if (!pattern) return emit('change', { grain: null })
  const before = pictures.value ? grain.value! : PICTURED
  const relief = brought.find((one) => one.part === 'relief')
  const depth = relief ? Math.round(1000 * before.scale * (relief.depth || RISE)) / 1000 : before.depth
  emit('change', { grain: { ...before, pattern, depth: Math.min(depth, 20) } })
}
const turnGrain = (part: Partial<Grain>) => emit('change', { grain: { ...grain.value!, ...part } })
/** Whether the way of its grain is shown on the pack, to be turned there. */
const me = Symbol()
const shown = computed(() => grainInHand.held?.of === me)
function show(): void {
  if (props.place && grain.value) holdGrain(me, props.place, grain.value, (degrees) => turnGrain({ turn: degrees }))
}
watch(
  () => [grain.value, props.place],
  () => shown.value && (grain.value ? show() : letGoOfGrain(me)),
)
onBeforeUnmount(() => letGoOfGrain(me))
/** Larger pictures rise higher: what leans keeps its slope. */
function scale(to: number): void {
  const { scale, depth } = grain.value!
  turnGrain(
    pictures.value ? { scale: to, depth: Math.min(Math.round((1000 * depth * to) / scale) / 1000, 20) } : { scale: to },
  )
}
const turnFade = (part: Partial<Fade>) => emit('change', { fade: { ...fade.value!, ...part } })
const turnFilm = (part: Partial<Film>) => emit('change', { film: { ...film.value!, ...part } })
</script>

<template>
  <span class="work">
    Pattern:
    <select
      class="kind"
      :value="pattern"
      :aria-label="`${label}: pattern`"
      :data-test="`pattern-${slug}`"
      @change="choose"
    >
      <option value="">none</option>
      <option v-for="one in starting?.grains" :key="String(one.pattern)" :value="one.pattern">{{ one.pattern }}</option>
      <option :value="FROM_FILES">pictures …</option></select
    ><SurfacePictures ref="files" :pictures="pictures" :label="label" @change="picture" />
    <template v-if="grain">
      {{ pictures ? 'as wide as' : 'of' }}
      <QuantityInput
        :label="`${label} pattern scale`"
        unit="mm"
        :value="grain.scale"
        :min="0.02"
        :max="5000"
        :step="grain.scale < 1 ? 0.05 : 0.5"
        :digits="2"
        @change="scale"
      />
      <select
        class="kind"
        :value="grain.lies"
        :aria-label="`${label}: how the pattern lies`"
        @change="turnGrain({ lies: chosen($event) as Grain['lies'] })"
      >
        <option value="around">around it</option>
        <option value="over">over each side</option>
        <option value="through">through it</option>
        <option v-if="unwrapped || grain.lies === 'unwrapped'" value="unwrapped">as it was unwrapped</option></select
      >, turned
      <QuantityInput
        :label="`${label} pattern turn`"
        unit="°"
        :value="grain.turn"
        :min="-360"
        :max="360"
        :step="15"
        :digits="0"
        @change="(v) => turnGrain({ turn: v })"
      /><button
        v-if="place && grain.lies !== 'unwrapped'"
        type="button"
        class="way"
        :aria-pressed="shown"
        :data-test="`turn-${slug}`"
        title="Show the way of the grain on the pack, and turn it there"
        :aria-label="`${label}: turn the grain on the pack`"
        @click="shown ? letGoOfGrain(me) : show()"
      >
        ⤢</button
      >,
      <template v-if="!pictures || pictures.colour">
        <ShareInput :label="`${label} pattern share`" :value="grain.share" @change="(v) => turnGrain({ share: v })" />
        {{ pictures ? 'of its colours,' : 'in' }}
      </template>
      <template v-if="!pictures">
        <ColourInput
          :label="`${label} pattern colour`"
          :value="grain.colour"
          @change="(v) => turnGrain({ colour: v })"
        />,
      </template>
      <template v-if="!pictures || pictures.relief">
        <QuantityInput
          :label="`${label} pattern depth`"
          unit="mm"
          :value="grain.depth"
          :min="0"
          :max="20"
          :step="0.02"
          :digits="3"
          @change="(v) => turnGrain({ depth: v })"
        />
        deep,
      </template>
      <ShareInput
        :label="`${label} pattern combed`"
        :value="grain.brushed"
        @change="(v) => turnGrain({ brushed: v })"
      />
      combed</template
    >.
    <template v-if="fade">
      From
      <QuantityInput
        :label="`${label} fade begins`"
        unit="mm"
        :value="fade.begins"
        :min="-2000"
        :max="5000"
        :step="1"
        @change="(v) => turnFade({ begins: v })"
      />
      to
      <QuantityInput
        :label="`${label} fade whole`"
        unit="mm"
        :value="fade.whole"
        :min="-2000"
        :max="5000"
        :step="1"
        @change="(v) => turnFade({ whole: v })"
      />
      above its foot it fades to
      <ColourInput :label="`${label} fade colour`" :value="fade.colour" @change="(v) => turnFade({ colour: v })" />,
      <ShareInput :label="`${label} fade covers`" :value="fade.cover" @change="(v) => turnFade({ cover: v })" />
      covering,
      <ShareInput :label="`${label} fade gloss`" :value="fade.gloss" @change="(v) => turnFade({ gloss: v })" /> gloss
      <button type="button" class="aside" @click="emit('change', { fade: null })">No fade</button>
    </template>
    <template v-if="film">
      Under a film of
      <QuantityInput
        :label="`${label} film thickness`"
        unit="nm"
        :value="film.thickness"
        :min="10"
        :max="2000"
        :step="10"
        :digits="0"
        @change="(v) => turnFilm({ thickness: v })"
      />, index
      <QuantityInput
        :label="`${label} film index`"
        unit=""
        :value="film.refractive_index"
        :min="1.2"
        :max="3"
        :step="0.05"
        :digits="2"
        @change="(v) => turnFilm({ refractive_index: v })"
      />
      <button type="button" class="aside" @click="emit('change', { film: null })">No film</button>
    </template>
    <button
      v-if="!fade"
      type="button"
      class="aside"
      :data-test="`fade-${slug}`"
      title="Sprayed or dipped: another look that sets in along the height"
      @click="emit('change', { fade: { ...FADE } })"
    >
      Fade
    </button>
    <button
      v-if="!film"
      type="button"
      class="aside"
      :data-test="`film-${slug}`"
      title="Pearl, lustre, coated glass: colours of a thin film"
      @click="emit('change', { film: { ...FILM } })"
    >
      Film
    </button>
  </span>
</template>

<style scoped>
.way {
  border: 1px solid var(--kraft);
  border-radius: 3px;
  background: #fffdf8;
  color: var(--ink);
  font-size: 13px;
  line-height: 20px;
  cursor: pointer;
}
.way[aria-pressed='true'] {
  background: var(--ribbon);
  border-color: var(--ribbon);
  color: #fffdf8;
}
</style>
