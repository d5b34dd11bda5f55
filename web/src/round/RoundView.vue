<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import * as THREE from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { Pack, Shape } from '@/api/client'
import { dispose, packMesh } from './packMesh'
import { Stage } from './stage'

const props = defineProps<{ pack: Pack; shape: Shape; pictures: (THREE.Texture | null)[]; turning?: boolean; label: string }>()
const emit = defineEmits<{ held: [] }>()

const LATE_MS = 90
const LATE_FRAMES = 4

const holder = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const broken = ref('')
let stage: Stage | null = null
let group: THREE.Group | null = null
let controls: OrbitControls | null = null
let turn: number | undefined
let waiting = false
let late = 0
let framed = { middle: 0, reach: 1 }

function rebuild(): void {
  if (!stage) return
  if (group) {
    stage.scene.remove(group)
    dispose(group)
  }
  group = packMesh(props.pack, props.shape, props.pictures)
  stage.scene.add(group)
  const { middle, reach } = extent()
  const grown = Math.abs(Math.log(reach / framed.reach)) > 0.12 || Math.abs(middle - framed.middle) > 0.15 * reach
  if (controls && grown) frame()
  stage.redraw()
}

/** The middle and the reach of everything that stands there. */
function extent(): { middle: number; reach: number } {
  const box = new THREE.Box3().setFromObject(group!)
  const across = 2 * Math.max(Math.abs(box.min.x), box.max.x, Math.abs(box.min.z), box.max.z)
  return { middle: (box.min.y + box.max.y) / 2, reach: Math.max(box.max.y - box.min.y, across * 0.85) }
}

function frame(): void {
  if (!stage || !controls || !group) return
  const { middle, reach } = (framed = extent())
  controls.target.set(0, middle, 0)
  stage.camera.position.set(0, middle + reach * 0.22, reach * 3.1)
  controls.update()
}

/** A step of the turn. On a machine that cannot keep up the pack is left standing. */
function spin(): void {
  if (!props.turning || !group || !stage || waiting) return
  group.rotation.y += 0.012
  stage.redraw()
  waiting = true
  const asked = performance.now()
  requestAnimationFrame(() =>
    requestAnimationFrame(() => {
      waiting = false
      late = performance.now() - asked > LATE_MS ? late + 1 : 0
      if (late > LATE_FRAMES) emit('held')
    }),
  )
}

onMounted(() => {
  try {
    stage = new Stage(canvas.value!)
  } catch (error) {
    broken.value = `This browser does not draw in 3D here (${String(error)}). Everything else works.`
    return
  }
  controls = new OrbitControls(stage.camera, canvas.value!)
  controls.enablePan = false
  controls.addEventListener('change', () => stage?.redraw())
  controls.addEventListener('start', () => emit('held'))
  rebuild()
  frame()
  turn = window.setInterval(spin, 50)
})
onBeforeUnmount(() => {
  clearInterval(turn)
  if (group) dispose(group)
  controls?.dispose()
  stage?.dispose()
})
useResizeObserver(holder, ([entry]) => {
  if (entry) stage?.resize(entry.contentRect.width, entry.contentRect.height)
})
watch(() => [props.shape, props.pictures], rebuild)
</script>

<template>
  <div ref="holder" class="round-view">
    <canvas ref="canvas" :aria-label="label" role="img" />
    <p v-if="broken" class="broken">{{ broken }}</p>
  </div>
</template>

<style scoped>
.round-view { position: absolute; inset: 0; }
canvas { width: 100%; height: 100%; display: block; cursor: grab; }
canvas:active { cursor: grabbing; }
.broken { position: absolute; inset: auto 20px 20px; color: #fff; }
</style>
