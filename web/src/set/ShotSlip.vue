<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { wordsFor } from '@/api/client'
import { download } from '@/api/download'
import { useJob } from '@/stores/job'

const job = useJob()
const problem = ref('')
const naming = ref<'line-up' | 'set' | null>(null)
const name = ref('')
const shot = computed(() => job.shot!.document)
const set = computed(() => job.photoSet!.document)
const others = computed(() =>
  job.shotsOf('sets', job.photoSet!.saved.key).filter((name) => name !== job.shot!.saved.name),
)
/** What stands here for use elsewhere, in the open colourway, as it is saved by then. */
async function saveScene(): Promise<void> {
  problem.value = ''
  const colourway = job.colourway?.saved.key
  const query = colourway ? `?colourway=${encodeURIComponent(colourway)}` : ''
  try {
    await job.flush()
    await download(`/api/shots/${job.shotId}/scene.glb${query}`, `${job.shot!.saved.key}.glb`)
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
const inLineUp = computed(() =>
  shot.value.line_up ? (set.value.line_ups?.[shot.value.line_up]?.standing ?? []) : null,
)

/** Take the picture of another pack. */
const show = (key: string) => job.shot!.edit((d) => (d.hero = key))
async function takeSet(key: string): Promise<void> {
  problem.value = ''
  try {
    const made =
      key === '=new'
        ? await job.addRow('sets')
        : key === '=copy'
          ? await job.addRow('sets', { copy_of: job.photoSet!.saved.id })
          : key
    job.shot!.edit((d) => Object.assign(d, { photo_set: made, line_up: null }))
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
function takeLineUp(key: string): void {
  if (key === '=new') {
    naming.value = 'line-up'
    name.value = ''
  } else job.shot!.edit((d) => (d.line_up = key || null))
}
/** A line-up of all that is to be seen now, or the set called something else. */
function callIt(): void {
  const wanted = name.value.trim()
  if (!wanted) return
  if (naming.value === 'set') {
    job.renameRow('sets', job.photoSet!.saved.id, wanted).catch((error) => (problem.value = wordsFor(error)))
  } else {
    const ways = set.value.line_ups ?? {}
    let key = 'line-up'
    for (let n = 2; key in ways; n++) key = `line-up-${n}`
    const standing = inLineUp.value ?? (set.value.standing ?? []).map((one) => one.id)
    job.photoSet!.edit((d) => (d.line_ups = { ...d.line_ups, [key]: { name: wanted, standing } }))
    void job.photoSet!.flush().then(() => job.shot!.edit((d) => (d.line_up = key)))
  }
  naming.value = null
}
</script>

<template>
  <section class="shot" aria-label="This shot">
    <p class="sentence">
      <template v-if="job.packs.length > 1">
        Of
        <select
          :value="job.hero?.saved.key"
          aria-label="Pack the picture is of"
          data-test="hero"
          @change="show(chosen($event))"
        >
          <option v-for="one in job.packs" :key="one.saved.id" :value="one.saved.key">{{ one.saved.name }}</option>
        </select>
        on
      </template>
      <template v-else>On</template>
      {{ ' ' }}
      <select :value="job.photoSet!.saved.key" aria-label="Set" data-test="which-set" @change="takeSet(chosen($event))">
        <option v-for="one in job.sets" :key="one.saved.id" :value="one.saved.key">{{ one.saved.name }}</option>
        <option value="=copy">a copy of this set</option>
        <option value="=new">a new set</option>
      </select>
      <button type="button" class="aside" @click="((naming = 'set'), (name = job.photoSet!.saved.name))">rename</button
      >, showing
      <select :value="shot.line_up ?? ''" aria-label="Line-up" data-test="line-up" @change="takeLineUp(chosen($event))">
        <option value="">all that stands</option>
        <option v-for="(one, key) in set.line_ups" :key="key" :value="key">{{ one.name }}</option>
        <option value="=new">a new line-up …</option></select
      >.
    </p>
    <form v-if="naming" class="naming" @submit.prevent="callIt" @keydown.esc="naming = null">
      <input
        v-model="name"
        maxlength="120"
        :aria-label="`Name of the ${naming}`"
        :placeholder="naming === 'set' ? 'Studio' : 'Bottles'"
      />
      <Button size="small" html-type="submit" type="primary">Call it that</Button>
    </form>
    <p v-if="others.length" class="hint" data-test="shared">
      What changes on this set changes in
      {{ others.length === 1 ? `“${others[0]}”` : `${others.length} more shots` }} too.
    </p>
    <p class="hint">
      <button type="button" class="aside" data-test="save-scene" @click="saveScene">Save what stands here as GLB</button
      >, with its camera and a turntable.
    </p>
    <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.shot {
  margin-bottom: 12px;
}
select {
  max-width: 170px;
}
</style>
