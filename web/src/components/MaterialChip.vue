<script setup lang="ts">
import { computed, onUnmounted, ref, watch } from 'vue'

import type { Known } from '@/api/client'

/** The picture of a material. One that has just been saved has it in a moment, and shows its colour until then. */
const props = defineProps<{ one: Known; width: number; height: number }>()

const NOTHING = 'data:image/gif;base64,R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7'
const AGAIN_MS = 2000
const MOST_TRIES = 60

const tries = ref(0)
const waiting = ref(false)
let timer = 0
const address = computed(() => `/api/material-library/${props.one.key}.webp${tries.value ? `?${tries.value}` : ''}`)
const colour = computed(() => ('colour' in props.one.material ? props.one.material.colour : undefined))

function lookAgain(): void {
  if (waiting.value || tries.value >= MOST_TRIES) return
  waiting.value = true
  timer = window.setTimeout(() => {
    tries.value += 1
    waiting.value = false
  }, AGAIN_MS)
}
watch(
  () => props.one.key,
  () => {
    clearTimeout(timer)
    tries.value = 0
    waiting.value = false
  },
)
onUnmounted(() => clearTimeout(timer))
</script>

<template>
  <img
    :src="waiting ? NOTHING : address"
    alt=""
    :width="width"
    :height="height"
    loading="lazy"
    draggable="false"
    :style="{ background: colour }"
    @error="lookAgain"
  />
</template>
