<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { type Pack, type Colourway, type Contents, type Material, wordsFor } from '@/api/client'
import FieldTexts from '@/components/FieldTexts.vue'
import MaterialSentence from '@/components/MaterialSentence.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { without } from '@/composables/records'
import { useJob } from '@/stores/job'

/** `compared` is the name of the one that is seen beside the open one. */
defineProps<{ compared: string }>()
const emit = defineEmits<{ open: [colourway: string]; compare: [colourway: string]; stopComparing: [] }>()

const job = useJob()
const problem = ref('')
const naming = ref(false)
const name = ref('')
const draft = computed(() => job.colourway)
const way = computed(() => draft.value?.document ?? null)
const entries = computed(() => job.palette.entries as Record<string, Material>)
const unknown = computed(() => Object.keys(way.value?.entries ?? {}).filter((entry) => !(entry in entries.value)))
/** Packs that stand here and hold something. */
const filled = computed(() => job.packs.filter((pack) => pack.saved.key in job.standing && contentsOf(pack.document)))
/** Artwork on the packs that stand here. */
const used = computed(() => {
  const shas = Object.values(job.standing).flatMap((pack) => {
    const prints = pack.form.kind === 'carton' ? Object.values(pack.form.prints ?? {}) : []
    return [...(pack.panels ?? []).map((panel) => panel.placements ?? []), ...prints].flat().map((p) => p.artwork)
  })
  return [...new Set(shas)]
})
const contentsOf = (pack: Pack) => (pack.form.kind === 'vessel' ? (pack.form.contents ?? null) : null)
/** Texts that may be filled on what stands here, with what stands there otherwise. */
const fields = computed(() => {
  const files = used.value.map((sha) => job.artwork.find((a) => a.sha256 === sha))
  return Object.assign({}, ...files.map((file) => file?.fields ?? {})) as Record<string, string>
})
const fileName = (sha: string) => job.artwork.find((a) => a.sha256 === sha)?.filename ?? 'a missing file'
const lost = computed(() => job.removed.filter((row) => row.kind === 'colourway'))
const chosen = (event: Event) => (event.target as HTMLSelectElement).value

const edit = (change: (document: Colourway) => void) => draft.value?.edit(change)
async function act(work: () => Promise<unknown>): Promise<void> {
  problem.value = ''
  try {
    await work()
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
const add = () => act(async () => emit('open', await job.addRow('colourways', { copy_of: draft.value?.saved.id })))
function rename(): void {
  const wanted = name.value.trim()
  if (wanted && draft.value) void act(() => job.renameRow('colourways', draft.value!.saved.id, wanted))
  naming.value = false
}
function remove(): void {
  const { id } = draft.value!.saved
  emit('open', '')
  void act(() => job.removeRow('colourways', id))
}
/** Replace an entry, or leave it as it is. */
function replace(entry: string, material: Material | null): void {
  edit((d) => {
    const rest = without(d.entries, entry)
    d.entries = (material ? { ...rest, [entry]: material } : rest) as Colourway['entries']
  })
}
function fillWith(key: string, contents: Contents | null): void {
  edit((d) => {
    const rest = without(d.contents, key)
    d.contents = contents ? { ...rest, [key]: contents } : rest
  })
}
function fillTo(key: string, level: number): void {
  edit((d) => (d.fill = { ...d.fill, [key]: level }))
}
function swap(sha: string, other: string): void {
  edit((d) => {
    const rest = without(d.artwork, sha)
    d.artwork = other ? { ...rest, [sha]: other } : rest
  })
}
function fillText(field: string, text: string | null): void {
  edit((d) => {
    const rest = without(d.texts, field)
    d.texts = text === null ? rest : { ...rest, [field]: text }
  })
}
const kindsFor = (material: Material): Material['kind'][] =>
  material.kind === 'metal' ? ['metal', 'opaque'] : ['clear', 'cloudy', 'opaque', 'metal']
</script>

<template>
  <details class="colourway" :open="Boolean(way)">
    <summary>Colourway</summary>
    <p class="sentence">
      Shown
      <select
        :value="draft?.saved.key ?? ''"
        aria-label="Colourway"
        data-test="colourway"
        @change="emit('open', chosen($event))"
      >
        <option value="">as it is</option>
        <option v-for="one in job.colourways" :key="one.saved.id" :value="one.saved.key">{{ one.saved.name }}</option>
      </select>
      {{ ' ' }}
      <Button size="small" data-test="add-colourway" @click="add">{{ way ? 'Copy it' : 'Make a colourway' }}</Button>
    </p>
    <p v-if="compared" class="sentence">
      Seen beside “{{ compared }}”.
      <Button size="small" data-test="stop-comparing" @click="emit('stopComparing')">Stop comparing</Button>
    </p>
    <p v-else-if="job.colourways.length" class="sentence">
      Compare with
      <select value="-" aria-label="Compare with" data-test="compare" @change="emit('compare', chosen($event))">
        <option value="-" disabled>choose</option>
        <option v-if="draft" value="">as it is</option>
        <option v-for="one in job.colourways.filter((c) => c !== draft)" :key="one.saved.id" :value="one.saved.key">
          {{ one.saved.name }}
        </option>
      </select>
    </p>
    <template v-if="way && draft">
      <form v-if="naming" class="naming" @submit.prevent="rename" @keydown.esc="naming = false">
        <input v-model="name" maxlength="120" aria-label="Name of the colourway" data-test="colourway-name" />
        <Button size="small" html-type="submit" type="primary">Call it that</Button>
      </form>
      <div v-else class="buttons">
        <Button size="small" data-test="rename-colourway" @click="((naming = true), (name = draft.saved.name))"
          >Rename</Button
        >
        <Button size="small" @click="remove">Take away</Button>
      </div>
      <p v-if="!Object.keys(entries).length && !filled.length && !used.length" class="hint">
        Put a material into the palette at Form: then a colourway can replace it.
      </p>
      <p v-for="(material, entry) in entries" :key="entry" class="sentence">
        “{{ entry }}”
        <template v-if="way.entries?.[entry]">
          becomes
          <MaterialSentence
            :label="String(entry)"
            :material="way.entries[entry] as Material"
            :kinds="kindsFor(material)"
            plain
            @change="(m) => replace(String(entry), m as Material)"
          />
          <button type="button" class="aside" @click="replace(String(entry), null)">as it is</button>
        </template>
        <button
          v-else
          type="button"
          class="aside"
          :data-test="`replace-${entry}`"
          @click="replace(String(entry), material)"
        >
          replace it
        </button>
      </p>
      <p v-for="entry in unknown" :key="entry" class="caution" role="alert">
        It replaces “{{ entry }}”, which the palette does not have any more.
        <Button size="small" @click="replace(entry, null)">Take it out</Button>
      </p>
      <p v-for="pack in filled" :key="pack.saved.id" class="sentence">
        {{ pack.saved.name }} is filled
        <template v-if="way.contents?.[pack.saved.key]">
          with
          <MaterialSentence
            :label="`${pack.saved.name} contents`"
            :material="way.contents[pack.saved.key]!.material"
            :kinds="['clear', 'cloudy', 'opaque']"
            plain
            @change="
              (m) =>
                fillWith(pack.saved.key, { ...way!.contents![pack.saved.key]!, material: m as Contents['material'] })
            "
          />
          <button type="button" class="aside" @click="fillWith(pack.saved.key, null)">as it is</button>
        </template>
        <button
          v-else
          type="button"
          class="aside"
          :data-test="`fill-${pack.saved.key}`"
          @click="fillWith(pack.saved.key, contentsOf(pack.document) as Contents)"
        >
          with something else
        </button>
        to
        <QuantityInput
          :label="`${pack.saved.name} fill height`"
          unit="mm"
          :value="way.fill?.[pack.saved.key] ?? contentsOf(pack.document)!.fill_height"
          :min="0"
          :max="5000"
          :step="1"
          @change="(v) => fillTo(pack.saved.key, v)"
        />.
      </p>
      <FieldTexts :fields="fields" :texts="way.texts ?? {}" label="In this colourway, text of" @fill="fillText" />
      <p v-for="sha in used" :key="sha" class="sentence">
        {{ fileName(sha) }}
        <select
          :value="way.artwork?.[sha] ?? ''"
          :aria-label="`In place of ${fileName(sha)}`"
          :data-test="`swap-${fileName(sha)}`"
          @change="swap(sha, chosen($event))"
        >
          <option value="">stays</option>
          <option
            v-for="other in job.artwork.filter((a) => a.sha256 !== sha)"
            :key="other.sha256"
            :value="other.sha256"
          >
            becomes {{ other.filename }}
          </option>
        </select>
      </p>
    </template>
    <p v-for="row in lost" :key="row.id" class="hint">
      “{{ row.name }}” was taken away.
      <button type="button" class="aside" @click="act(() => job.fetchRowBack('colourways', row.id))">fetch back</button>
    </p>
    <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  </details>
</template>

<style scoped>
select {
  max-width: 190px;
}
.naming,
.buttons {
  margin-bottom: 6px;
}
</style>
