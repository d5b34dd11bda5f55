<script setup lang="ts">
import { computed } from 'vue'

import { useJob } from '@/stores/job'
import CartonForm from './CartonForm.vue'
import ReceivedForm from './ReceivedForm.vue'
import VesselForm from './VesselForm.vue'

const job = useJob()
const kind = computed(() => job.pack!.document.form.kind)
</script>

<template>
  <CartonForm v-if="kind === 'carton'" />
  <ReceivedForm v-else-if="kind === 'received'" />
  <VesselForm v-else />
</template>
