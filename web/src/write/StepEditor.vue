<script setup lang="ts">
import { onMounted, onUnmounted, ref, watch, nextTick } from 'vue'
import Sortable from 'sortablejs'
import type { Channel } from '@/api/client'
import { move, rungs, type Rung } from '@/composables/steps'
import { channelWords } from '@/composables/words'
import ChannelMark from '@/components/ChannelMark.vue'

/** The channel precedence as rungs; channels are dragged or moved with the arrow keys. */
const steps = defineModel<Channel[][]>({ required: true })
const props = defineProps<{ name: string }>()

const list = ref<HTMLElement>()
const said = ref('')
const view = ref<Rung[]>([])
watch(steps, (now) => (view.value = rungs(now)), { immediate: true, deep: true })

let sorts: Sortable[] = []

// What was dragged is put back where it was: the list is drawn from the steps.
function arm() {
  sorts.forEach((s) => s.destroy())
  sorts = [...(list.value?.querySelectorAll<HTMLElement>('.slots') ?? [])].map((slots) =>
    Sortable.create(slots, {
      group: props.name,
      draggable: '.channel',
      animation: 120,
      onEnd: ({ item, from, to, oldIndex }) => {
        from.insertBefore(item, from.children[oldIndex ?? 0] ?? null)
        put(item.dataset.channel as Channel, Number(to.dataset.rung))
      },
    }),
  )
}
onMounted(arm)
onUnmounted(() => sorts.forEach((s) => s.destroy()))
watch(view, () => nextTick(arm), { deep: true })

async function put(channel: Channel, rung: number) {
  const next = move(steps.value, channel, rung)
  steps.value = next
  const at = next.findIndex((s) => s.includes(channel))
  said.value = at < 0 ? `${channelWords[channel]} is off` : `${channelWords[channel]} is on step ${at + 1}`
  await nextTick()
  list.value?.querySelector<HTMLElement>(`[data-channel="${channel}"]`)?.focus()
}

/** The arrow keys move a channel a rung up or down; the last rung is off. */
function key(event: KeyboardEvent, channel: Channel, i: number) {
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key]
  if (!by) return
  event.preventDefault()
  const last = view.value.length - 1
  let to = Math.max(0, Math.min(last, i + by))
  // A step of its own is no other place for a channel that has the last one to itself.
  if (view.value[to]?.fresh && !view.value[i]?.off && view.value[i]?.channels.length === 1)
    to = Math.min(last, to + by)
  void put(channel, to)
}
</script>

<template>
  <div ref="list" class="rungs">
    <div v-for="(r, i) in view" :key="i" class="rung" :class="{ off: r.off, fresh: r.fresh }">
      <span class="n">{{ r.off ? 'off' : r.fresh ? '+' : i + 1 }}</span>
      <div class="slots" :data-rung="i">
        <button
          v-for="c in r.channels"
          :key="c"
          type="button"
          class="channel"
          :data-channel="c"
          :aria-label="`${channelWords[c]}, ${r.off ? 'off' : `step ${i + 1}`} ${name}; arrow keys move it`"
          @keydown="key($event, c, i)"
        >
          <ChannelMark :channel="c" />{{ channelWords[c] }}
        </button>
        <span v-if="!r.channels.length" class="quiet small">{{
          r.off ? 'nothing is off' : 'drag here for a step of its own'
        }}</span>
      </div>
    </div>
    <p class="sr-only" role="status">{{ said }}</p>
  </div>
</template>

<style scoped>
.rungs {
  display: grid;
  gap: 3px;
}

.rung {
  display: grid;
  grid-template-columns: 26px 1fr;
  align-items: center;
  gap: 6px;
}

.n {
  font-size: 11.5px;
  font-weight: 650;
  text-align: center;
  color: var(--ink2);
}

.slots {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  min-height: 32px;
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 2px 6px;
  background: var(--pane);
}

.fresh .slots,
.off .slots {
  border-style: dashed;
  background: none;
}

.channel {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  border: 1px solid #8fa5ae;
  border-radius: 5px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 12.5px;
  font-weight: 600;
  padding: 2px 8px;
  cursor: grab;
}
</style>
