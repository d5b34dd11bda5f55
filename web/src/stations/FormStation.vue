<script setup lang="ts">
import { computed } from 'vue'

import { useJob } from '@/stores/job'
import CartonForm from './CartonForm.vue'
import VesselForm from './VesselForm.vue'

const job = useJob()
const kind = computed(() => job.pack!.document.form.kind)
</script>

<template>
  <CartonForm v-if="kind === 'carton'" />
  <VesselForm v-else />
</template>
