<script setup lang="ts">
import { computed, inject, ref, type Ref } from 'vue'

import { type Made, type Material, type StartingMaterials, wordsFor } from '@/api/client'
import type { GrainPlace } from '@/composables/grain'
import { nameOf, useMaterialLibrary } from '@/composables/materialLibrary'
import { usePalette } from '@/composables/palette'
import { slugOf } from '@/composables/slug'
import ColourInput from './ColourInput.vue'
import MaterialChoice from './MaterialChoice.vue'
import QuantityInput from './QuantityInput.vue'
import SeenMatch from './SeenMatch.vue'
import ShareInput from './ShareInput.vue'
import WorkSentence from './WorkSentence.vue'

/** `plain` says it in full, whatever the palette has. */
const props = defineProps<{
  material: Made
  kinds: Material['kind'][]
  label: string
  plain?: boolean
  /** The part of the pack in the proof that is made of it. */
  part?: string
  /** Where its grain is shown, if not on that part. */
  spot?: GrainPlace
  /** Whether who made it unwrapped it for pictures. */
  unwrapped?: boolean
}>()
const emit = defineEmits<{ change: [material: Made] }>()

const WORDS: Record<Material['kind'], string> = { clear: 'clear', cloudy: 'cloudy', opaque: 'opaque', metal: 'metal' }
/** What each kind begins as, and the metals there are, by the core. */
const starting = inject<Ref<StartingMaterials | null>>('materials')!
const jobs = usePalette()
const palette = props.plain ? null : jobs
const { all, keepOwn } = useMaterialLibrary()
const slug = computed(() => slugOf(props.label))
/** What it is being named for. */
const naming = ref<'palette' | 'studio' | null>(null)
const problem = ref('')
const name = ref('')
const entry = computed(() => (props.material.kind === 'linked' ? props.material.entry : null))
/** What it is made of, said in full; none when the palette lacks it. */
const shown = computed<Material | null>(() =>
  props.material.kind === 'linked' ? (palette?.entries()[props.material.entry] ?? null) : props.material,
)
/** What is linked to its entry: changing one changes all. */
const used = computed(() => (entry.value === null ? '' : (palette?.usedOn(entry.value) ?? '')))
/** What the library calls it, if it is one of its materials to the last figure. */
const known = computed(() => (shown.value ? nameOf(shown.value, all.value) : null))
/** Entries of the palette that it can be made of. */
const entries = computed(() =>
  Object.entries(palette?.entries() ?? {})
    .filter(([, material]) => props.kinds.includes(material.kind))
    .map(([key]) => key),
)
/** Change it: of the palette's entry everything that is linked to it. */
function change(material: Material): void {
  if (entry.value !== null) palette?.change(entry.value, material)
  else emit('change', material)
}
/** The same material with one thing changed. */
function set(part: object): void {
  change({ ...shown.value, ...part } as Material)
}
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
/** Another kind, keeping the colour where both have one; or an entry of the palette. */
function turnInto(wanted: string): void {
  if (wanted.startsWith('=')) return emit('change', { kind: 'linked', entry: wanted.slice(1) })
  if (!starting.value) return
  const made = { ...starting.value[wanted as Material['kind']] } as Material
  if (shown.value && 'colour' in made && 'colour' in shown.value) made.colour = shown.value.colour
  change(made)
}
function nameIt(what: 'palette' | 'studio'): void {
  naming.value = what
  name.value = known.value?.name ?? entry.value ?? ''
}
async function keep(): Promise<void> {
  const wanted = name.value.trim()
  if (!wanted || !shown.value || !palette) return
  problem.value = ''
  try {
    if (naming.value === 'studio') await keepOwn(wanted, JSON.parse(JSON.stringify(shown.value)) as Material)
    else emit('change', { kind: 'linked', entry: palette.keep(wanted, shown.value) })
    naming.value = null
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
</script>

<template>
  <template v-if="entry !== null">“{{ entry }}” of the palette, </template>
  <MaterialChoice :material="shown" :kinds="kinds" :label="label" @choose="change" />,
  <select
    class="kind"
    :value="shown?.kind ?? ''"
    :aria-label="`${label}: what kind`"
    @change="turnInto(chosen($event))"
  >
    <option v-if="!shown" value="" disabled>not in the palette</option>
    <option v-for="kind in kinds" :key="kind" :value="kind">{{ WORDS[kind] }}</option>
    <optgroup v-if="entries.length" label="of the palette">
      <option v-for="key in entries" :key="key" :value="`=${key}`">{{ key }}</option>
    </optgroup>
  </select>
  {{ ' ' }}
  <template v-if="shown?.kind === 'clear'">
    coloured
    <ColourInput :label="`${label} colour`" :value="shown.colour" @change="(v) => set({ colour: v })" /> through
    <QuantityInput
      :label="`${label} colour depth`"
      unit="mm"
      :value="shown.depth"
      :min="0.1"
      :max="5000"
      :step="5"
      @change="(v) => set({ depth: v })"
    />,
    <QuantityInput
      :label="`${label} frost`"
      unit="%"
      :value="shown.frost * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ frost: v / 100 })"
    />
    frosted<template v-if="shown.frost"
      >,
      <select
        class="kind"
        :value="shown.frosted ?? 'both'"
        :aria-label="`${label}: frosted where`"
        @change="set({ frosted: chosen($event) })"
      >
        <option value="both">inside and out</option>
        <option value="outside">outside</option>
        <option value="inside">inside</option>
      </select></template
    >.
  </template>
  <template v-else-if="shown?.kind === 'opaque'">
    in <ColourInput :label="`${label} colour`" :value="shown.colour" @change="(v) => set({ colour: v })" />,
    <QuantityInput
      :label="`${label} gloss`"
      unit="%"
      :value="shown.gloss * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ gloss: v / 100 })"
    />
    gloss,
    <ShareInput :label="`${label} sheen`" :value="shown.sheen" @change="(v) => set({ sheen: v })" /> sheen; as a sheet
    it lets
    <ShareInput :label="`${label} passes`" :value="shown.passes" :most="90" @change="(v) => set({ passes: v })" />
    of light through.
  </template>
  <template v-else-if="shown?.kind === 'metal'">
    <select
      class="kind"
      :value="shown.metal"
      :aria-label="`${label}: which metal`"
      @change="set({ metal: chosen($event) })"
    >
      <option v-for="metal in starting?.metals" :key="metal" :value="metal">{{ metal }}</option>
    </select>
    tinted <ColourInput :label="`${label} tint`" :value="shown.tint" @change="(v) => set({ tint: v })" />,
    <QuantityInput
      :label="`${label} gloss`"
      unit="%"
      :value="shown.gloss * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ gloss: v / 100 })"
    />
    gloss, under
    <template v-if="shown.lacquer">
      lacquer of
      <ShareInput :label="`${label} lacquer`" :value="shown.lacquer" @change="(v) => set({ lacquer: v })" /> gloss.
    </template>
    <button v-else type="button" class="aside" :data-test="`lacquer-${slug}`" @click="set({ lacquer: 0.9 })">
      no lacquer</button
    ><template v-if="!shown.lacquer">.</template>
  </template>
  <template v-else-if="shown?.kind === 'cloudy'">
    in <ColourInput :label="`${label} colour`" :value="shown.colour" @change="(v) => set({ colour: v })" />, light
    wandering
    <QuantityInput
      :label="`${label} wander`"
      unit="mm"
      :value="shown.wander"
      :min="0.02"
      :max="50"
      :step="0.1"
      :digits="2"
      @change="(v) => set({ wander: v })"
    />
    in it,
    <QuantityInput
      :label="`${label} gloss`"
      unit="%"
      :value="shown.gloss * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ gloss: v / 100 })"
    />
    gloss.
  </template>
  <template v-if="shown">
    It weighs
    <QuantityInput
      :label="`${label} density`"
      unit="g/cm³"
      :value="shown.density"
      :min="0.01"
      :max="25"
      :step="0.05"
      :digits="3"
      @change="(v) => set({ density: v })"
    />.
  </template>
  <SeenMatch
    v-if="part && shown && shown.kind !== 'clear'"
    :material="shown"
    :part="part"
    :label="label"
    @change="change"
  />
  <WorkSentence
    v-if="shown"
    :material="shown"
    :label="label"
    :place="spot ?? (part ? { part } : undefined)"
    :unwrapped="unwrapped"
    @change="set"
  />
  <template v-if="palette">
    <form v-if="naming" class="naming" @submit.prevent="keep" @keydown.esc="naming = null">
      <input
        v-model="name"
        maxlength="120"
        :aria-label="`${label}: name in the ${naming}`"
        :placeholder="naming === 'studio' ? 'Our cap black' : 'Cap black'"
      />
      <button type="submit" class="aside">Keep</button>
    </form>
    <button v-else-if="entry === null" type="button" class="aside" @click="nameIt('palette')">
      Put in the palette
    </button>
    <template v-else-if="shown">
      <button
        type="button"
        class="aside"
        title="Give this part a copy of its own"
        @click="emit('change', { ...shown })"
      >
        Unlink
      </button>
      <span v-if="used" class="hint linked" data-test="linked">Linked: {{ used }}.</span>
    </template>
    <button
      v-if="!naming && shown && !known?.own"
      type="button"
      class="aside"
      :data-test="`save-${slug}`"
      title="For every job of the studio"
      @click="nameIt('studio')"
    >
      Save as our own
    </button>
    <span v-if="problem" class="refused" role="alert">{{ problem }}</span>
  </template>
</template>

<style scoped>
.linked {
  display: block;
  line-height: 1.4;
}
.naming {
  display: inline-flex;
}
.naming input {
  width: 110px;
  font-size: 13px;
}
</style>
