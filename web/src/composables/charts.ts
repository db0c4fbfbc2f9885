import { Chart } from 'chart.js'

// What charts have in common: our face, our ink, and nothing that moves.
Chart.defaults.font.family =
  "'Atkinson Hyperlegible Next Variable', 'Noto Sans Variable', 'Noto Sans Arabic Variable', sans-serif"
Chart.defaults.color = '#48606b'
Chart.defaults.animation = false
Chart.defaults.maintainAspectRatio = false

/** The axis of figures, and that of names. */
export const figureAxis = {
  beginAtZero: true,
  ticks: { maxTicksLimit: 6, precision: 0 },
  grid: { color: '#e6ecee' },
}
export const nameAxis = { ticks: { maxRotation: 0, autoSkipPadding: 14 }, grid: { display: false } }

export { Chart }
