<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { bytes } from '@/composables/words'
import { useSound } from '@/composables/sound'

/** A file of a thread: a picture is seen and a sound is heard where it stands. */
const props = defineProps<{ thread: number; file: Schemas['File'] }>()
const url = computed(() => `/api/threads/${props.thread}/files/${props.file.hash}`)
const { playing, toggle } = useSound()
</script>

<template>
  <a v-if="file.type.startsWith('image/')" class="picture" :href="url" target="_blank"
    ><img :src="url" :alt="file.name" loading="lazy"
  /></a>
  <p class="small row">
    <a class="link" :href="url" :download="file.name"
      ><bdi>{{ file.name }}</bdi></a
    >
    <span class="quiet">{{ bytes(file.size) }}</span>
    <button v-if="file.type.startsWith('audio/')" class="link small" @click="toggle(url, '')">
      {{ playing ? 'Stop' : 'Listen' }}<span class="sr-only"> to {{ file.name }}</span>
    </button>
  </p>
</template>

<style scoped>
.picture {
  display: block;
  margin-top: 4px;
}

img {
  display: block;
  max-width: 100%;
  max-height: 180px;
  border: 1px solid var(--line);
  border-radius: 5px;
}
</style>
