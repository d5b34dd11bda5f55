<script setup lang="ts">
/** Pictures to work towards, on the table beside what is worked on. */
defineProps<{ shown: { src: string; name: string }[] }>()
</script>

<template>
  <div class="pinned">
    <img
      v-for="(one, index) in shown"
      :key="index"
      :src="one.src"
      :alt="`To work towards: ${one.name}`"
      data-test="reference-beside"
    />
  </div>
</template>

<style scoped>
.pinned {
  position: absolute;
  right: 12px;
  bottom: 48px;
  display: flex;
  gap: 8px;
  align-items: end;
  justify-content: end;
  max-width: 60%;
  pointer-events: none;
}
img {
  min-width: 0;
  max-width: 100%;
  max-height: 200px;
  border: 4px solid var(--card);
  box-shadow: 0 3px 10px rgb(35 38 43 / 25%);
}
</style>
