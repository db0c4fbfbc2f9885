import { computed, ref, watch, type Ref } from 'vue'
import { useDebounceFn } from '@vueuse/core'
import { api, take, type Schemas } from '@/api/client'

/**
 * What an answer comes to while it is written: as which copy it leaves, in how many
 * parts, and for how much. An answer of the server to an older text is passed over.
 */
export function useAnswering(
  thread: Ref<number>,
  text: Ref<string>,
  to: Ref<Schemas['PlaceView'] | undefined>,
  quiet: Ref<boolean>,
  /** The last entry that stood there when this was begun. */
  seen: Ref<number>,
  files: Ref<Schemas['File'][]>,
) {
  const copy = ref<Schemas['AnswerCopy']>()
  const weighed = ref<Schemas['WeighedView']>()
  const working = ref(false)
  /** The desk's own words leave although there is a copy. */
  const asWritten = ref(false)
  /** Lines that name somebody may go to the translation service. */
  const naming = ref(false)

  const body = computed(() => ({
    text: text.value,
    ...(seen.value ? { seen: seen.value } : {}),
    ...(copy.value?.text && !asWritten.value ? { copy: copy.value.text } : {}),
    ...(files.value.length ? { files: files.value } : {}),
    ...(to.value ? { channel: to.value.channel, address: to.value.address } : {}),
  }))

  let asked = 0
  const work = useDebounceFn(async () => {
    const now = asked
    const path = { id: thread.value }
    try {
      const said = await take(
        api.POST('/threads/{id}/copy', {
          params: { path },
          body: { text: text.value, naming: naming.value },
        }),
      )
      if (now !== asked) return
      copy.value = said
      const came = await take(api.POST('/threads/{id}/weigh', { params: { path }, body: body.value }))
      if (now === asked) weighed.value = came
    } catch {
      // Sending says what is wrong.
    } finally {
      if (now === asked) working.value = false
    }
  }, 300)
  watch(
    [thread, text, to, quiet, naming, asWritten, files],
    () => {
      asked++
      copy.value = weighed.value = undefined
      working.value = Boolean(text.value.trim()) && !quiet.value && !to.value?.aside
      if (working.value) void work()
    },
    { immediate: true },
  )
  watch(thread, () => (asWritten.value = naming.value = false))
  return { copy, weighed, working, asWritten, naming, body }
}
