<script setup lang="ts">
import type { ProofNews } from '@/composables/live'
import { showNumber } from '@/composables/quantity'
import type { Sight } from '@/composables/sight'

/** What is told of a proof: how far it has got, how bright it is, and what of it is cut off. */
defineProps<{ proof: ProofNews | null; sight: Sight | null; alone: boolean; held: boolean; waits: string }>()
</script>

<template>
  <template v-if="proof">
    <span
      >Proof <b data-test="proof-samples">{{ proof.samples }}</b> samples</span
    >
    <span v-if="proof.noise !== null"
      >Noise <b>{{ showNumber(proof.noise, 1) }} %</b></span
    >
    <template v-if="sight">
      <span class="bars" aria-hidden="true" data-test="histogram"
        ><i v-for="(bar, n) in sight.bars" :key="n" :style="{ height: `${Math.sqrt(bar) * 100}%` }"
      /></span>
      <span
        >White <b data-test="white-share">{{ showNumber(sight.white * 100, 1) }} %</b>, cut off
        <b data-test="cut-share">{{ showNumber(sight.clipped * 100, 1) }} %</b></span
      >
    </template>
    <span v-if="alone">one light alone</span>
    <span>{{ held ? 'held' : proof.last ? 'as clean as a proof gets' : 'refining …' }}</span>
  </template>
  <span v-else data-test="proof-waits">{{ waits || (held ? 'Proof held' : 'Proof coming …') }}</span>
</template>

<style scoped>
.bars {
  display: inline-flex;
  align-items: flex-end;
  width: 96px;
  height: 20px;
  background: #fffdf8;
}
.bars i {
  flex: 1;
  background: var(--ink);
}
</style>
