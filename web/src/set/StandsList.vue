<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Arrangement, PhotoSet, Plan } from '@/api/client'
import { showNumber } from '@/composables/quantity'
import { outermost, RESTS_MM } from './moving'

type Fault = Plan['faults'][number]

/** `line_up` is the key of the one that the shot shows, if it shows a choice. */
const props = defineProps<{
  set: PhotoSet
  plan: Plan | null
  lineUp: string | null
  chosen: string[]
  names: Record<string, string>
}>()
const emit = defineEmits<{
  choose: [ids: string[]]
  edit: [change: (document: PhotoSet) => void]
  arrange: [how: Arrangement]
  drop: [ids: string[]]
  /** The camera framing what stands by itself. */
  fit: []
}>()

const open = ref<string[]>([])
const crossing = computed(() => (props.plan?.stands ?? []).filter((s) => s.crosses.length).map((s) => s.id))
const inBoxes = computed(() => new Set((props.set.standing ?? []).filter((s) => s.inside).map((s) => s.id)))
const air = computed(() =>
  Object.fromEntries(
    (props.plan?.stands ?? [])
      .filter((s) => Math.abs(s.air) > RESTS_MM && !inBoxes.value.has(s.id) && !s.crosses.length)
      .map((s) => [s.id, s.air]),
  ),
)
/** What is wrong with where something is: in words, what mends it, and what that is called. */
const FAULTS: Record<
  Fault['what'],
  { words: (fault: Fault, thing: string, light: string) => string; cure: string; how: Arrangement | null }
> = {
  light: {
    words: (_, thing, light) => `“${light}” hangs inside of ${thing}.`,
    cure: 'Move it out',
    how: { kind: 'clear-lights' },
  },
  camera: { words: (_, thing) => `The camera is inside of ${thing}.`, cure: 'Step back', how: null },
  beyond: {
    words: ({ by }, thing) => `${thing} reaches ${showNumber(by, 0)} mm beyond the sweep.`,
    cure: 'Widen the sweep',
    how: { kind: 'widen-sweep' },
  },
  curve: {
    words: (_, thing) => `${thing} is in the sweep’s curve.`,
    cure: 'Widen the sweep',
    how: { kind: 'widen-sweep' },
  },
}
/** One of each kind is told; what mends it mends the others. */
const faults = computed(() => {
  const all = props.plan?.faults ?? []
  return (Object.keys(FAULTS) as Fault['what'][]).flatMap((what) => {
    const [first, ...more] = all.filter((fault) => fault.what === what)
    if (!first) return []
    const light = first.light === null ? '' : props.set.lights[first.light]!.name
    const words = FAULTS[what].words(first, props.names[first.thing] ?? first.thing, light)
    return [{ what, said: words, more: more.length, cure: FAULTS[what].cure, how: FAULTS[what].how }]
  })
})
const gone = computed(() => Object.keys(props.plan?.gone ?? {}))
const members = computed(() => (props.lineUp ? props.set.line_ups?.[props.lineUp]?.standing : null) ?? null)
/** A line for each thing that stands alone, and one for each group, its things below it when it is open. */
const rows = computed(() => {
  const found: { key: string; group: string | null; ids: string[] }[] = []
  for (const { id } of props.set.standing ?? []) {
    const { group } = outermost(props.set, id)
    const there = group && found.find((row) => row.group === group)
    if (there) there.ids.push(id)
    else found.push({ key: group ?? id, group, ids: [id] })
  }
  return found.flatMap((row) =>
    row.group && open.value.includes(row.group)
      ? [row, ...row.ids.map((id) => ({ key: id, group: null, ids: [id] }))]
      : [row],
  )
})
function said(ids: string[]): string {
  if (ids.some((id) => gone.value.includes(id))) return 'pack is gone'
  if (ids.some((id) => crossing.value.includes(id))) return 'crosses'
  const off = ids.map((id) => air.value[id]).find((mm) => mm !== undefined)
  return off === undefined ? '' : off > 0 ? 'floats' : 'sinks'
}
const hidden = (ids: string[]) => ids.every((id) => props.set.standing?.find((one) => one.id === id)?.hidden)

function choose(ids: string[], event: MouseEvent): void {
  const more = event.shiftKey || event.ctrlKey || event.metaKey
  const rest = props.chosen.filter((one) => !ids.includes(one))
  emit('choose', !more ? ids : rest.length < props.chosen.length ? rest : [...props.chosen, ...ids])
}
function unfold(group: string): void {
  const rest = open.value.filter((key) => key !== group)
  open.value = rest.length < open.value.length ? rest : [...open.value, group]
}
function join(ids: string[]): void {
  const key = props.lineUp!
  emit('edit', (d) => {
    const way = d.line_ups![key]!
    const rest = way.standing.filter((one) => !ids.includes(one))
    way.standing = rest.length < way.standing.length ? rest : [...way.standing, ...ids]
  })
}
</script>

<template>
  <section aria-label="What stands">
    <h3>What stands</h3>
    <p v-if="!set.standing?.length" class="hint">Nothing yet: drag a pack from the plan's corner on the floor.</p>
    <ul>
      <li v-for="row in rows" :key="row.key" :class="{ chosen: row.ids.every((id) => chosen.includes(id)) }">
        <input
          v-if="members"
          type="checkbox"
          :checked="row.ids.every((id) => members!.includes(id))"
          :aria-label="`${row.group ? set.groups![row.group]!.name : names[row.key]} is in the line-up`"
          @change="join(row.ids)"
        />
        <button
          v-if="row.group"
          type="button"
          :aria-expanded="open.includes(row.group)"
          :aria-label="`What is in ${set.groups![row.group]!.name}`"
          @click="unfold(row.group)"
        >
          {{ open.includes(row.group) ? '▾' : '▸' }}
        </button>
        <button
          type="button"
          :data-test="row.group ? `group-${row.group}` : `standing-${row.key}`"
          @click="choose(row.ids, $event)"
        >
          {{ row.group ? set.groups![row.group]!.name : names[row.key] }}
        </button>
        <small v-if="said(row.ids)" class="caution">{{ said(row.ids) }}</small>
        <small v-else-if="hidden(row.ids)">hidden</small>
      </li>
    </ul>
    <p v-if="crossing.length" class="caution" role="status" data-test="crossing">
      Some cross each other.
      <Button size="small" data-test="apart" @click="emit('arrange', { kind: 'apart' })">Move them apart</Button>
    </p>
    <p v-if="Object.keys(air).length" class="caution" role="status" data-test="off">
      {{ Object.keys(air).length === 1 ? 'One does' : `${Object.keys(air).length} do` }} not rest on anything.
      <Button size="small" data-test="rest-all" @click="emit('arrange', { kind: 'rest', ids: Object.keys(air) })"
        >Let {{ Object.keys(air).length === 1 ? 'it' : 'them' }} rest</Button
      >
    </p>
    <p v-for="one in faults" :key="one.what" class="caution" role="status" :data-test="`fault-${one.what}`">
      {{ one.said }} <template v-if="one.more">So it is with {{ one.more }} more.</template>
      <Button size="small" @click="one.how ? emit('arrange', one.how) : emit('fit')">{{ one.cure }}</Button>
    </p>
    <p v-if="gone.length" class="caution" role="alert" data-test="gone">
      {{ plan!.gone[gone[0]!] }} <Button size="small" @click="emit('drop', gone)">Take it away</Button>
    </p>
    <p v-if="(set.standing?.length ?? 0) > 1" class="hint">Hold Shift to choose several.</p>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 190px;
  overflow-y: auto;
}
li {
  display: flex;
  gap: 6px;
  align-items: baseline;
  border-left: 3px solid transparent;
  padding-left: 6px;
}
.chosen {
  border-color: var(--ribbon);
}
button {
  border: 0;
  background: none;
  padding: 1px 0;
  font: inherit;
  font-size: 13px;
  text-align: left;
  cursor: pointer;
}
.hint {
  margin: 2px 0 0;
}
</style>
