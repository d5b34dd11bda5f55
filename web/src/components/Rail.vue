<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { without } from '@/composables/records'
import { type Station, stations } from '@/router'

defineProps<{ slug: string; open: Station }>()

const route = useRoute()
/** What is open stays open at the next station. */
const onwards = computed(() => without(route.query, 'start'))

const words: Record<Station, [string, string]> = {
  form: ['Form', 'its shape'],
  wrap: ['Wrap', 'its artwork'],
  set: ['Set', 'its scene'],
  shoot: ['Shoot', 'its picture'],
  show: ['Show', 'its client'],
}
</script>

<template>
  <nav class="rail" aria-label="Stations">
    <RouterLink
      v-for="station in stations"
      :key="station"
      class="tag"
      :class="{ out: station === open }"
      :to="{ path: `/jobs/${slug}/${station}`, query: onwards }"
      :aria-current="station === open ? 'page' : undefined"
    >
      <span class="hole" aria-hidden="true" />
      <strong>{{ words[station][0] }}</strong>
      <small>{{ words[station][1] }}</small>
    </RouterLink>
  </nav>
</template>

<style scoped>
.rail {
  display: flex;
  flex-direction: column;
  gap: 9px;
  padding: 16px 0 0;
  background: var(--kraft);
  width: 84px;
}
.tag {
  position: relative;
  display: block;
  margin-left: 0;
  width: 76px;
  padding: 9px 16px 9px 8px;
  text-decoration: none;
  color: var(--ink);
  background: #eae2d0;
  clip-path: polygon(0 0, 80% 0, 100% 26%, 100% 74%, 80% 100%, 0 100%);
  transition: width 0.12s;
}
.tag strong {
  display: block;
  font-family: var(--title);
  font-size: 15px;
  line-height: 1.15;
}
.tag small {
  font-size: 10.5px;
  color: #5c5a54;
  white-space: nowrap;
}
.tag:hover {
  background: #f3ecdd;
}
.tag.out {
  width: 84px;
  background: var(--card);
}
.tag.out strong {
  color: var(--ribbon);
}
.hole {
  position: absolute;
  right: 7px;
  top: 50%;
  width: 7px;
  height: 7px;
  margin-top: -3.5px;
  border-radius: 50%;
  background: var(--kraft);
}
.tag.out .hole {
  background: var(--ribbon);
}
</style>
