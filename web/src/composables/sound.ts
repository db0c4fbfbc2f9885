import { onUnmounted, ref } from 'vue'
import { ApiError, api } from '@/api/client'

/** Plays one sound at a time: a recording by its address, or a text read aloud. */
export function useSound() {
  const problem = ref('')
  const playing = ref<HTMLAudioElement>()

  async function readAloud(text: string): Promise<string> {
    const { data, response, error } = await api.POST('/listen', { body: { text }, parseAs: 'blob' })
    if (response.ok) return URL.createObjectURL(data as Blob)
    problem.value = new ApiError(response.status, error?.detail ?? 'It cannot be heard just now.').message
    return ''
  }

  /** Begins to play, or stops what plays. */
  async function toggle(recording: string, text: string) {
    if (playing.value) return stop()
    problem.value = ''
    const url = recording || (await readAloud(text))
    if (!url) return
    const sound = new Audio(url)
    sound.onended = stop
    playing.value = sound
    await sound.play().catch(() => stop())
  }

  function stop() {
    playing.value?.pause()
    playing.value = undefined
  }
  onUnmounted(stop)

  return { problem, playing, toggle }
}
