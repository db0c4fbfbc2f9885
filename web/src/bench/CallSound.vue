<script setup lang="ts">
import { useSound } from '@/composables/sound'

/** Reads aloud what a call says, as the phone does. */
defineProps<{ text: string }>()
const { problem, playing, toggle } = useSound()
</script>

<template>
  <button class="link small" @click="toggle('', text)">{{ playing ? 'Stop' : 'Listen' }}</button>
  <span v-if="problem" class="bad small" role="alert">{{ problem }}</span>
</template>
