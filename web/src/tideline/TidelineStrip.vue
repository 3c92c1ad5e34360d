<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useDesign } from '@/stores/design'
import { useLibrary } from '@/stores/library'
import { useTheme, token } from '@/theme/useTheme'
import { RAMP_GRADIENT } from '@/theme/ramp'
import { MONTHS, number, plain, power } from '@/theme/format'
import { useMoment } from './useMoment'
import { useSeries } from './useSeries'
import { paintYear } from './paintYear'
import MomentPanel from './MomentPanel.vue'

const design = useDesign()
const route = useRoute()
const library = useLibrary()
const { dark } = useTheme()
const moment = useMoment()
const { columns, fault } = useSeries(() => [...new Set([moment.quantity.value, 'daylight', 'delivered'])])
const canvas = ref<HTMLCanvasElement>()
const strip = ref<HTMLElement>()
const width = ref(900)
const panel = ref(false)
let drag: { from: number; moved: boolean } | null = null
const HEIGHT = 104

const column = (key: string) => columns.value?.columns.find((c) => c.key === key)?.values
const shown = computed(() => column(moment.quantity.value))
const info = computed(() => library.quantities.find((q) => q.key === moment.quantity.value))
const bounds = computed(() => {
  const values = shown.value
  if (!values) return { low: 0, high: 1 }
  const sorted = Float32Array.from(values).sort()
  const high = sorted[Math.floor(sorted.length * 0.999)]!
  const low = Math.min(0, sorted[0]!)
  return {
    low: info.value?.unit === '°C' ? sorted[0]! : info.value?.key === 'delivered' ? 0 : low,
    high: Math.max(high, low + 1e-6),
  }
})
const sunTimes = computed(() => {
  const sun = column('daylight')
  if (!sun) return null
  const per = moment.perDay.value
  const rise: number[] = [],
    set: number[] = []
  for (let day = 0; day < moment.days.value; day++) {
    let first = -1,
      last = -1
    for (let k = 0; k < per; k++)
      if (sun[day * per + k]! > 0) {
        if (first < 0) first = k
        last = k
      }
    // The lit part of the first interval is its end, that of the last one its beginning.
    rise.push(first < 0 ? NaN : ((first + 1 - sun[day * per + first]!) / per) * 24)
    set.push(last < 0 ? NaN : ((last + sun[day * per + last]!) / per) * 24)
  }
  return { rise, set }
})
const dayEnergy = computed(() => {
  const values = column('delivered')
  if (!values) return 0
  const per = moment.perDay.value
  const first = Math.floor(moment.interval.value / per) * per
  let sum = 0
  for (let k = 0; k < per; k++) sum += values[first + k] ?? 0
  return ((sum / 1000) * moment.step.value) / 60
})
const rangeWords = computed(() => {
  const r = moment.range.value
  const values = column('delivered')
  if (!r || !values) return null
  const per = moment.perDay.value
  const from = Math.floor(r.from / per) * per
  const to = (Math.floor(r.to / per) + 1) * per
  let sum = 0
  for (let k = from; k < to; k++) sum += values[k] ?? 0
  return { days: (to - from) / per, energy: ((sum / 1000) * moment.step.value) / 60 }
})
const valueWords = computed(() => {
  const value = shown.value?.[moment.interval.value]
  if (value === undefined) return ''
  return info.value?.unit === 'W' ? power(value) : `${plain(value)} ${info.value?.unit ?? ''}`
})

function draw() {
  const element = canvas.value
  if (!element) return
  const scale = window.devicePixelRatio || 1
  element.width = width.value * scale
  element.height = HEIGHT * scale
  const g = element.getContext('2d')!
  g.scale(scale, scale)
  g.fillStyle = token('night')
  g.fillRect(0, 0, width.value, HEIGHT)
  const values = shown.value
  const sun = column('daylight')
  const days = moment.days.value
  if (values && sun) {
    const always = info.value?.unit === '°C' || info.value?.unit === 'm/s' || moment.quantity.value === 'loss_night_use'
    const picture = paintYear(
      values,
      { days, perDay: moment.perDay.value, ...bounds.value },
      (i) => !always && !(sun[i]! > 0),
    )
    const off = new OffscreenCanvas(days, 24)
    off.getContext('2d')!.putImageData(picture, 0, 0)
    g.imageSmoothingEnabled = false
    g.drawImage(off, 0, 0, width.value, HEIGHT)
    g.strokeStyle = '#fffdf8' // always over the dark end of the ramp
    g.globalAlpha = 0.85
    g.lineWidth = 1
    for (const line of [sunTimes.value!.rise, sunTimes.value!.set]) {
      g.beginPath()
      let down = false
      line.forEach((hour, day) => {
        if (Number.isNaN(hour)) {
          down = false
          return
        }
        const x = ((day + 0.5) / days) * width.value
        const y = HEIGHT * (1 - hour / 24)
        if (down) g.lineTo(x, y)
        else g.moveTo(x, y)
        down = true
      })
      g.stroke()
    }
    g.globalAlpha = 1
  }
  const r = moment.range.value
  const per = moment.perDay.value
  if (r) {
    const a = (Math.floor(r.from / per) / days) * width.value
    const b = ((Math.floor(r.to / per) + 1) / days) * width.value
    g.fillStyle = token('ink')
    g.globalAlpha = 0.28
    g.fillRect(0, 0, a, HEIGHT)
    g.fillRect(b, 0, width.value - b, HEIGHT)
    g.globalAlpha = 1
    g.fillRect(a, 0, 1.2, HEIGHT)
    g.fillRect(b - 1.2, 0, 1.2, HEIGHT)
  }
  const x = ((Math.floor(moment.interval.value / per) + 0.5) / days) * width.value
  const y = HEIGHT * (1 - ((moment.interval.value % per) + 0.5) / per)
  g.fillStyle = g.strokeStyle = token('ink')
  g.lineWidth = 1.2
  g.beginPath()
  g.moveTo(x, 0)
  g.lineTo(x, HEIGHT)
  g.stroke()
  g.beginPath()
  g.arc(x, y, 4.2, 0, 7)
  g.fill()
  g.strokeStyle = token('sheet')
  g.lineWidth = 1.4
  g.stroke()
}
watch([shown, columns, width, dark, moment.interval, moment.range, moment.days], draw)

function place(event: PointerEvent): number {
  const box = canvas.value!.getBoundingClientRect()
  const day = Math.max(
    0,
    Math.min(moment.days.value - 1, Math.floor(((event.clientX - box.left) / box.width) * moment.days.value)),
  )
  const hour = Math.max(
    0,
    Math.min(moment.perDay.value - 1, Math.floor((1 - (event.clientY - box.top) / box.height) * moment.perDay.value)),
  )
  return day * moment.perDay.value + hour
}
function down(event: PointerEvent) {
  ;(event.target as HTMLElement).setPointerCapture(event.pointerId)
  drag = { from: place(event), moved: false }
}
function move(event: PointerEvent) {
  if (!drag) return
  const at = place(event)
  if (Math.abs(Math.floor(at / moment.perDay.value) - Math.floor(drag.from / moment.perDay.value)) >= 2)
    drag.moved = true
  if (drag.moved) moment.pickRange(drag.from, at)
}
function up(event: PointerEvent) {
  if (drag && !drag.moved) moment.pick(place(event))
  drag = null
}
function keys(event: KeyboardEvent) {
  const per = moment.perDay.value
  const by = { ArrowLeft: -per, ArrowRight: per, ArrowUp: 1, ArrowDown: -1, PageUp: 30 * per, PageDown: -30 * per }[
    event.key
  ]
  if (event.key === 'Escape' && moment.range.value) {
    moment.clearRange()
    event.stopPropagation()
  } else if (event.key === 'Enter') panel.value = !panel.value
  else if (event.key === 'Home') moment.pick(0)
  else if (event.key === 'End') moment.pick(moment.intervals.value - 1)
  else if (by === undefined) return
  else if (event.shiftKey) {
    const range = moment.range.value ?? { from: moment.interval.value, to: moment.interval.value }
    moment.pickRange(range.from, Math.max(range.from, range.to + by))
  } else moment.pick(moment.interval.value + by)
  event.preventDefault()
}
let observer: ResizeObserver | null = null
onMounted(() => {
  observer = new ResizeObserver((entries) => {
    width.value = Math.max(300, Math.floor(entries[0]!.contentRect.width))
  })
  observer.observe(strip.value!)
  draw()
})
onBeforeUnmount(() => observer?.disconnect())
const hourWords = (hours: number) =>
  Number.isNaN(hours)
    ? 'none'
    : `${String(Math.floor(hours) % 24).padStart(2, '0')}:${String(Math.floor((hours % 1) * 60)).padStart(2, '0')}`
const today = computed(() => Math.floor(moment.interval.value / moment.perDay.value))
</script>
<template>
  <footer class="tideline" aria-label="Tideline">
    <div class="left">
      <select
        class="blank pick"
        :value="moment.quantity.value"
        aria-label="Quantity of the Tideline"
        @change="moment.show(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="q in library.quantities" :key="q.key" :value="q.key">{{ q.title }}</option>
      </select>
      <span>{{ moment.words(moment.interval.value) }}</span>
      <button
        type="button"
        class="value"
        :style="{ color: `var(--${info?.colour ?? 'current'}-text)` }"
        :aria-expanded="panel"
        title="Every stage in this hour"
        @click="panel = !panel"
      >
        {{ valueWords || '–' }}
      </button>
      <router-link
        v-if="route.params.bench !== 'hours'"
        class="link"
        :to="{
          name: 'bench',
          params: { ...route.params, bench: 'hours' },
          query: { ...route.query, plot: [...new Set(['delivered', 'poa', moment.quantity.value])].join(',') },
        }"
        >Draw the hours</router-link
      >
    </div>
    <div ref="strip" class="strip">
      <canvas
        ref="canvas"
        :style="{ width: '100%', height: HEIGHT + 'px' }"
        tabindex="0"
        role="slider"
        aria-label="Moment of the year"
        aria-valuemin="0"
        :aria-valuemax="moment.intervals.value - 1"
        :aria-valuenow="moment.interval.value"
        :aria-valuetext="`${moment.words(moment.interval.value)}, ${info?.title ?? ''} ${valueWords}`"
        @pointerdown="down"
        @pointermove="move"
        @pointerup="up"
        @keydown="keys"
      />
      <p v-if="fault" class="bad fault">{{ fault }}</p>
      <p v-else-if="!design.evaluation?.headline" class="soft fault">
        The year appears here once there are weather and modules.
      </p>
      <div class="months" aria-hidden="true">
        <span v-for="month in MONTHS" :key="month">{{ month }}</span>
      </div>
    </div>
    <div class="right soft">
      <template v-if="rangeWords"
        ><b>{{ rangeWords.days }} days</b><span>{{ number(rangeWords.energy) }} kWh</span
        ><button type="button" class="link" @click="moment.clearRange()">Whole year</button></template
      >
      <template v-else-if="sunTimes"
        ><span>Sun {{ hourWords(sunTimes.rise[today]!) }} to {{ hourWords(sunTimes.set[today]!) }}</span
        ><span>Day {{ number(dayEnergy, dayEnergy < 10 ? 1 : 0) }} kWh</span></template
      >
      <div class="legend">
        <i :style="{ background: RAMP_GRADIENT }" /><span>{{
          info?.unit === 'W' ? number(bounds.low / 1000) : number(bounds.low)
        }}</span
        ><span>{{
          info?.unit === 'W'
            ? `${plain(bounds.high / 1000)} kW`
            : `${number(bounds.high, bounds.high < 5 ? 1 : 0)} ${info?.unit ?? ''}`
        }}</span>
      </div>
    </div>
    <MomentPanel
      v-if="panel"
      :interval="moment.interval.value"
      :title="moment.words(moment.interval.value)"
      @close="panel = false"
    />
  </footer>
</template>
<style scoped>
.tideline {
  grid-column: 1 / -1;
  grid-row: 3;
  border-top: 1px solid var(--rule);
  display: grid;
  grid-template-columns: 158px minmax(0, 1fr) 138px;
  position: relative;
}
.left,
.right {
  padding: 10px 0 0 20px;
  font-size: 12px;
  display: grid;
  align-content: start;
  gap: 3px;
}
.right {
  padding: 10px 12px 0 14px;
}
.left {
  color: var(--soft);
  justify-items: start;
}
.left .link {
  font-size: 11.5px;
}
.pick {
  color: var(--ink);
  max-width: 132px;
}
.value {
  font-weight: 600;
  font-size: 16px;
  justify-self: start;
  border-bottom: 1.5px dotted var(--haze);
}
.strip {
  position: relative;
  min-width: 0;
}
canvas {
  display: block;
  cursor: crosshair;
  touch-action: none;
}
canvas:focus-visible {
  outline-offset: -2px;
}
.months {
  display: grid;
  grid-template-columns: repeat(12, 1fr);
  font-size: 10.5px;
  color: var(--soft);
  line-height: 17px;
  padding-left: 3px;
}
.fault {
  position: absolute;
  inset: 40px 0 auto;
  text-align: center;
}
.legend {
  display: grid;
  grid-template-columns: 1fr auto;
  margin-top: 4px;
  font-size: 11px;
}
.legend i {
  grid-column: 1 / -1;
  height: 7px;
  border-radius: 4px;
}
</style>
