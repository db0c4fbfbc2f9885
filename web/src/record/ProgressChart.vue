<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { CategoryScale, LinearScale, LineController, LineElement, PointElement } from 'chart.js'
import { api, take, type Channel } from '@/api/client'
import { Chart, figureAxis, nameAxis } from '@/composables/charts'
import { useTimes } from '@/composables/session'
import { channelWords, thousands } from '@/composables/words'
import { channels } from '@/composables/steps'
import { lasted } from './progress'

/** How many deliveries had left and arrived by when, beside the plan. */
const props = defineProps<{ message: number }>()
const times = useTimes()

Chart.register(CategoryScale, LinearScale, LineController, LineElement, PointElement)

const { data } = useQuery({
  queryKey: ['record', computed(() => props.message), 'progress'],
  queryFn: () => take(api.GET('/messages/{id}/progress', { params: { path: { id: props.message } } })),
  staleTime: 0,
})

const used = computed(() => {
  const last = data.value?.points.at(-1)
  return channels.filter((c) => last?.arrived[c])
})
/** One colour for each channel, from the product's own. */
const colours: Record<Channel, string> = {
  email: '#14765a',
  text: '#174a59',
  voice: '#8a5a00',
  push: '#5f7680',
}

/** What stands beneath a point: how long it took, or when it was where that is long. */
function beneath(at: string, first: string, last: string): string {
  const since = (to: string) => (new Date(to).getTime() - new Date(first).getTime()) / 1000
  const span = since(last)
  if (span < 10) return `${since(at).toFixed(1)} s`
  if (span < 300) return `${Math.round(since(at))} s`
  return span < 86_400 ? times.clock(at) : times.moment(at)
}

const canvas = ref<HTMLCanvasElement>()
let chart: Chart | undefined

function draw() {
  const points = data.value?.points ?? []
  if (!canvas.value || points.length < 2) return
  const line = (label: string, values: number[], colour: string, dash: number[] = []) => ({
    label,
    data: values,
    borderColor: colour,
    borderWidth: dash.length ? 1.5 : 2,
    borderDash: dash,
    pointRadius: 0,
    stepped: dash.length ? ('before' as const) : (false as const),
  })
  const datasets = [
    line(
      'as planned',
      points.map((p) => p.free),
      '#9fb0b8',
      [4, 3],
    ),
    ...used.value.map((c) =>
      line(
        channelWords[c],
        points.map((p) => p.arrived[c] ?? 0),
        colours[c],
      ),
    ),
  ]
  const labels = points.map((p) => beneath(p.at, points[0]!.at, points.at(-1)!.at))
  if (chart) {
    chart.data = { labels, datasets }
    chart.update('none')
    return
  }
  chart = new Chart(canvas.value, {
    type: 'line',
    data: { labels, datasets },
    options: {
      scales: { x: { ...nameAxis, ticks: { ...nameAxis.ticks, maxTicksLimit: 6 } }, y: figureAxis },
    },
  })
}
watch([data, canvas], draw, { flush: 'post' })
onBeforeUnmount(() => chart?.destroy())

const shown = computed(() => (data.value?.points.length ?? 0) > 1)
</script>

<template>
  <section v-if="shown && data" class="card sheet" aria-label="Arrivals over time">
    <div class="cap">
      <h3>Arrivals over time</h3>
      <span v-if="data.reached" class="quiet small"
        >half of {{ thousands(data.reached) }} {{ data.reached === 1 ? 'was' : 'were' }} reached within
        {{ lasted(data.half) }}, nine tenths within {{ lasted(data.nineTenths) }}</span
      >
    </div>
    <div class="chart">
      <canvas ref="canvas" role="img" :aria-label="`${thousands(data.points.at(-1)!.free)} planned`" />
    </div>
    <ul class="key small">
      <li><i class="dashed" /> free to leave, as planned: {{ thousands(data.points.at(-1)!.free) }}</li>
      <li v-for="c in used" :key="c">
        <i :style="{ background: colours[c] }" /> {{ channelWords[c].toLowerCase() }} arrived:
        {{ thousands(data.points.at(-1)!.arrived[c] ?? 0) }}
      </li>
    </ul>
  </section>
</template>

<style scoped>
.card {
  padding: 9px 12px;
}

.cap {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}

.chart {
  height: 150px;
  margin-top: 6px;
}

.key {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  color: var(--ink2);
}

.key i {
  display: inline-block;
  width: 14px;
  height: 3px;
  border-radius: 2px;
  vertical-align: middle;
  margin-inline-end: 3px;
}

.key .dashed {
  background: repeating-linear-gradient(90deg, #9fb0b8 0 4px, transparent 4px 7px);
}
</style>
