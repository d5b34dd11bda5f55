<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { answer, api, AS_IT_IS, type Carton, type Packed, wordsFor } from '@/api/client'
import { useJob } from '@/stores/job'

const props = defineProps<{ carton: Carton }>()

const job = useJob()
const key = ref('')
const packed = ref<Packed | null>(null)
const problem = ref('')
const others = computed(() => job.packs.filter((one) => one !== job.pack))

async function count(): Promise<void> {
  const pack = others.value.find((one) => one.saved.key === key.value)
  packed.value = null
  problem.value = ''
  if (!pack) return
  const { length, width, depth } = props.carton
  const shape = { pack: pack.document, key: pack.saved.key, palette: job.palette, colourway: AS_IT_IS }
  try {
    const found = await answer(api.POST('/api/packed', { body: { shape, inside: [length, width, depth] } }))
    packed.value = found as Packed
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
watch(() => [key.value, props.carton.length, props.carton.width, props.carton.depth], count)
</script>

<template>
  <p v-if="others.length" class="sentence">
    Of
    <select v-model="key" class="plain" aria-label="How many fit of" data-test="fits-of">
      <option value="">a pack of the job …</option>
      <option v-for="one in others" :key="one.saved.key" :value="one.saved.key">{{ one.saved.name }}</option>
    </select>
    <template v-if="packed">
      it holds <b class="figures" data-test="fits">{{ packed.count }}</b><template v-if="packed.count">
        upright: {{ packed.across }} × {{ packed.deep }} × {{ packed.high
        }}{{ packed.turned ? ', turned by a quarter' : '' }}</template
      >.
    </template>
  </p>
  <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
</template>
