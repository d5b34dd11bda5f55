<script setup lang="ts">
/** Texts that fill fields of artwork, by their ids; what is not filled is as it stands there. */
defineProps<{
  fields: Record<string, string>
  texts: Record<string, string>
  label?: string
}>()
defineEmits<{ fill: [field: string, text: string | null] }>()

const typed = (event: Event) => (event.target as HTMLInputElement | HTMLTextAreaElement).value
</script>

<template>
  <p v-for="(text, field) in fields" :key="field" class="sentence field">
    <span>{{ field }}</span>
    <textarea
      v-if="text.includes('\n')"
      rows="2"
      :value="texts[field] ?? ''"
      :placeholder="text"
      maxlength="400"
      :aria-label="`${label ?? 'Text of'} ${field}`"
      :data-test="`field-${field}`"
      @change="$emit('fill', field, typed($event) || null)"
    />
    <input
      v-else
      class="text"
      :value="texts[field] ?? ''"
      :placeholder="text"
      maxlength="400"
      :aria-label="`${label ?? 'Text of'} ${field}`"
      :data-test="`field-${field}`"
      @change="$emit('fill', field, typed($event) || null)"
    />
  </p>
</template>

<style scoped>
.field {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  align-items: baseline;
  gap: 8px;
}
.field span {
  overflow-wrap: anywhere;
}
input,
textarea {
  width: 100%;
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  padding: 2px 6px;
  font: inherit;
  resize: vertical;
}
</style>
