<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { PhotoSet, Plan } from '@/api/client'

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
  apart: []
  drop: [ids: string[]]
}>()

const crossing = computed(() => (props.plan?.stands ?? []).filter((s) => s.crosses.length).map((s) => s.id))
const gone = computed(() => Object.keys(props.plan?.gone ?? {}))
const members = computed(() => (props.lineUp ? props.set.line_ups?.[props.lineUp]?.standing : null) ?? null)

function choose(id: string, event: MouseEvent): void {
  const more = event.shiftKey || event.ctrlKey || event.metaKey
  const rest = props.chosen.filter((one) => one !== id)
  emit('choose', !more ? [id] : rest.length < props.chosen.length ? rest : [...props.chosen, id])
}
function join(id: string): void {
  const key = props.lineUp!
  emit('edit', (d) => {
    const way = d.line_ups![key]!
    way.standing = way.standing.includes(id) ? way.standing.filter((one) => one !== id) : [...way.standing, id]
  })
}
</script>

<template>
  <section aria-label="What stands">
    <h3>What stands</h3>
    <p v-if="!set.standing?.length" class="hint">Nothing yet: drag a pack from the plan's corner on the floor.</p>
    <ul>
      <li v-for="one in set.standing" :key="one.id" :class="{ chosen: chosen.includes(one.id) }">
        <input
          v-if="members"
          type="checkbox"
          :checked="members.includes(one.id)"
          :aria-label="`${names[one.id]} is in the line-up`"
          @change="join(one.id)"
        />
        <button type="button" :data-test="`standing-${one.id}`" @click="choose(one.id, $event)">
          {{ names[one.id] }}
        </button>
        <small v-if="gone.includes(one.id)" class="caution">pack is gone</small>
        <small v-else-if="crossing.includes(one.id)" class="caution">crosses</small>
        <small v-else-if="one.hidden">hidden</small>
      </li>
    </ul>
    <p v-if="crossing.length" class="caution" role="status" data-test="crossing">
      Some cross each other. <Button size="small" data-test="apart" @click="emit('apart')">Move them apart</Button>
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
