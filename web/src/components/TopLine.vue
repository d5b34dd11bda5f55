<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import { NO_ANSWER } from '@/api/client'
import type { Station } from '@/router'
import type { Steps } from '@/stores/documents'
import ShortcutCard from './ShortcutCard.vue'

const props = defineProps<{
  job: string
  subject: string
  station: Station
  draft: Steps | null
  user: string
  connected: boolean
  room: string
}>()

const words = computed(() => {
  switch (props.draft?.state) {
    case 'changed':
    case 'saving':
      return 'Saving …'
    case 'refused':
      return 'Not saved: cannot be made like this'
    case 'stale':
      return 'Changed elsewhere too'
    case 'offline':
      if (props.draft.message.startsWith(NO_ANSWER)) return 'Not saved: the studio does not answer, trying again'
      return props.room ? 'Not saved, trying again' : `Not saved, trying again. ${props.draft.message}`
    default:
      return 'Saved'
  }
})
const calm = computed(() => !props.draft || ['saved', 'changed', 'saving'].includes(props.draft.state))
</script>

<template>
  <header class="top">
    <RouterLink class="home" to="/">Giftwrap</RouterLink>
    <span class="job">{{ job }}</span><span v-if="subject" class="subject">{{ subject }}</span>
    <slot />
    <template v-if="draft">
      <span
        class="state"
        :class="{ alarm: !calm }"
        :title="draft.message || words"
        role="status"
        data-test="save-state"
        >{{ words }}</span
      >
      <Button
        size="small"
        type="text"
        :disabled="!draft.canUndo"
        aria-label="Undo"
        title="Undo (Ctrl+Z)"
        @click="draft.undo()"
        >↶ Undo</Button
      >
      <Button
        size="small"
        type="text"
        :disabled="!draft.canRedo"
        aria-label="Redo"
        title="Redo (Ctrl+Shift+Z)"
        @click="draft.redo()"
        >↷ Redo</Button
      >
    </template>
    <span v-if="room" class="room" role="alert" :title="room" data-test="room">{{ room }}</span>
    <span class="who"
      ><span class="dot" :class="{ connected }" :title="connected ? 'Live' : 'Connecting …'" />{{ user }}</span
    >
    <ShortcutCard :station="station" />
  </header>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  gap: 12px;
  height: 44px;
  padding: 0 14px;
  border-bottom: 1.5px dashed #cfc6b3;
}
.home {
  font: 600 17px var(--title);
  color: var(--ribbon);
  text-decoration: none;
  margin-right: 8px;
}
.job {
  font-weight: 600;
  white-space: nowrap;
}
.subject {
  color: #5c5a54;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.subject::before {
  content: '· ';
}
.state {
  margin-left: 14px;
  font-size: 12.5px;
  color: #2f6445;
  white-space: nowrap;
}
.state,
.room {
  overflow: hidden;
  text-overflow: ellipsis;
}
.room {
  font-size: 12.5px;
  color: #855208;
  font-weight: 600;
  white-space: nowrap;
}
.alarm {
  color: #97213a;
  font-weight: 600;
}
.who {
  margin-left: auto;
  font-size: 12.5px;
  color: #5c5a54;
  display: flex;
  align-items: center;
  gap: 6px;
}
.dot {
  width: 8px;
  height: 8px;
  border-radius: 50%;
  border: 1.5px solid var(--caution);
}
.dot.connected {
  background: var(--fine);
  border-color: var(--fine);
}
</style>
