<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import {
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
} from 'chart.js'
import type { Schemas } from '@/api/client'
import { Chart, figureAxis, nameAxis } from '@/composables/charts'
import type { Table } from './ask'

/** A report as bars or lines; its figures stand in the table below. */
const props = defineProps<{ table: Table }>()

Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
)

const tones: Record<Schemas['Series']['tone'], string> = {
  reached: '#14765a',
  waiting: '#ffb21a',
  missed: '#b23a2a',
  stopped: '#9fb0b8',
  plain: '#174a59',
  limit: '#cfd9dd',
}
/** Several series that mean the same are told apart by colour and by dashes. */
const plain = ['#174a59', '#b23a2a', '#14765a', '#8a5a00', '#5f7680', '#0f3440']
const dashes = [[], [6, 3], [2, 2], [8, 3, 2, 3], [4, 4], [1, 3]]

/** More bars than these are not told apart; the table has them all. */
const mostBars = 12

const series = computed(() => {
  const many = props.table.chart.series.filter((s) => s.tone === 'plain').length > 1
  return props.table.chart.series.map((s, i) => ({
    name: props.table.columns[s.column]!.name,
    column: s.column,
    colour: many && s.tone === 'plain' ? plain[i % plain.length]! : tones[s.tone],
    dash: many ? dashes[i % dashes.length]! : [],
    part: ['reached', 'waiting', 'missed', 'stopped'].includes(s.tone),
  }))
})
const rows = computed(() => {
  const drawn = props.table.rows.filter((r) => series.value.some((s) => r.cells[s.column]?.number))
  return props.table.chart.form === 'across' ? drawn.slice(0, mostBars) : props.table.rows
})
const label = (r: Schemas['Row']) =>
  r.cells
    .filter((_, i) => props.table.columns[i]!.kind === 'text')
    .map((c) => c.text)
    .join(' · ')

const canvas = ref<HTMLCanvasElement>()
let chart: Chart | undefined

const across = computed(() => props.table.chart.form === 'across')
const height = computed(() => (across.value ? 40 + rows.value.length * 26 : 210))

function draw() {
  chart?.destroy()
  chart = undefined
  if (!canvas.value || rows.value.length === 0) return
  const lines = props.table.chart.form === 'lines'
  const bars = props.table.chart.form === 'bars' // whose names have two lines
  const stacked = series.value.some((s) => s.part)
  const figures = { ...figureAxis, stacked }
  const names = { ...nameAxis, stacked, ticks: { ...nameAxis.ticks, autoSkip: !across.value } }
  chart = new Chart(canvas.value, {
    type: lines ? 'line' : 'bar',
    data: {
      labels: rows.value.map((r) => (bars ? label(r).split(' ') : label(r))),
      datasets: series.value.map((s) => ({
        label: s.name,
        data: rows.value.map((r) => r.cells[s.column]?.number ?? (lines ? null : 0)),
        backgroundColor: s.colour,
        borderColor: s.colour,
        borderWidth: lines ? 2 : 0,
        borderDash: s.dash,
        pointRadius: rows.value.length > 40 ? 0 : 2,
        maxBarThickness: 26,
      })),
    } as never,
    options: {
      indexAxis: across.value ? 'y' : 'x',
      scales: across.value ? { x: figures, y: names } : { x: names, y: figures },
      plugins: {
        tooltip: {
          animation: false,
          backgroundColor: '#0b2730',
          callbacks: {
            label: (item) => {
              const s = series.value[item.datasetIndex]!
              return ` ${s.name}: ${rows.value[item.dataIndex]!.cells[s.column]!.text}`
            },
          },
        },
      },
    },
  })
}
watch([rows, series, canvas], draw, { flush: 'post', immediate: true })
onBeforeUnmount(() => chart?.destroy())

const hidden = computed(() => props.table.rows.length - rows.value.length)
</script>

<template>
  <figure v-if="rows.length" class="chart sheet">
    <div :style="{ height: `${height}px` }">
      <canvas ref="canvas" role="img" :aria-label="`${table.title}; the figures stand in the table`" />
    </div>
    <ul class="key small">
      <li v-for="s in series" :key="s.column">
        <i :style="{ background: s.colour }" /> {{ s.name.toLowerCase() }}
      </li>
      <li v-if="hidden > 0" class="quiet">{{ rows.length }} of {{ table.rows.length }} rows are drawn</li>
    </ul>
  </figure>
</template>

<style scoped>
.chart {
  margin: 0;
  padding: 10px 12px;
}

.key {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  color: var(--ink2);
}

.key i {
  display: inline-block;
  width: 12px;
  height: 10px;
  border-radius: 2px;
  vertical-align: -1px;
  margin-inline-end: 3px;
}
</style>
