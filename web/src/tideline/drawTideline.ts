import { token } from '@/theme/useTheme'
import { paintYear } from './paintYear'
import type { SunTimes } from './yearFigures'

export const HEIGHT = 104
const OVER_THE_RAMP = '#fffdf8' // the sun's lines always cross its dark end

export interface TidelinePicture {
  width: number
  days: number
  perDay: number
  /** The moment that is marked, where one is. */
  interval: number | null
  range: { from: number; to: number } | null
  values: ArrayLike<number> | undefined
  daylight: ArrayLike<number> | undefined
  sunTimes: SunTimes | null
  bounds: { low: number; high: number }
  /** Whether the quantity means something at night too. */
  always: boolean
  /** Runs of intervals that are marked: first interval and number. */
  marks: readonly (readonly [number, number])[]
}

/** Draws the year, the sun's times, the range and the moment on a canvas of HEIGHT pixels. */
export function drawTideline(canvas: HTMLCanvasElement, p: TidelinePicture) {
  const scale = window.devicePixelRatio || 1
  canvas.width = p.width * scale
  canvas.height = HEIGHT * scale
  const g = canvas.getContext('2d')!
  g.scale(scale, scale)
  g.fillStyle = token('night')
  g.fillRect(0, 0, p.width, HEIGHT)
  if (p.values && p.daylight) drawYear(g, p, p.values, p.daylight)
  drawMarks(g, p)
  if (p.range) veilOutside(g, p, p.range)
  if (p.interval !== null) markMoment(g, p, p.interval)
}

function drawYear(
  g: CanvasRenderingContext2D,
  p: TidelinePicture,
  values: ArrayLike<number>,
  daylight: ArrayLike<number>,
) {
  const size = { days: p.days, perDay: p.perDay, ...p.bounds }
  const off = new OffscreenCanvas(p.days, 24)
  off.getContext('2d')!.putImageData(
    paintYear(values, size, (i) => !p.always && !(daylight[i]! > 0)),
    0,
    0,
  )
  g.imageSmoothingEnabled = false
  g.drawImage(off, 0, 0, p.width, HEIGHT)
  g.strokeStyle = OVER_THE_RAMP
  g.globalAlpha = 0.85
  g.lineWidth = 1
  for (const line of p.sunTimes ? [p.sunTimes.rise, p.sunTimes.set] : []) {
    g.beginPath()
    let isDown = false
    line.forEach((hour, day) => {
      const [x, y] = [((day + 0.5) / p.days) * p.width, HEIGHT * (1 - hour / 24)]
      if (Number.isNaN(hour)) isDown = false
      else if (isDown) g.lineTo(x, y)
      else g.moveTo(x, y)
      isDown = !Number.isNaN(hour)
    })
    g.stroke()
  }
  g.globalAlpha = 1
}

/** Marked intervals, and over them a tick for each day that has any: a single hour is too small to be found. */
function drawMarks(g: CanvasRenderingContext2D, p: TidelinePicture) {
  const [dayWidth, hour] = [p.width / p.days, HEIGHT / p.perDay]
  const days = new Set<number>()
  g.fillStyle = token('loss')
  for (const [start, length] of p.marks)
    for (let i = start; i < start + length;) {
      const day = Math.floor(i / p.perDay)
      const from = i - day * p.perDay
      const to = Math.min(p.perDay, from + start + length - i)
      g.fillRect(day * dayWidth, HEIGHT - to * hour, Math.max(1, dayWidth), (to - from) * hour)
      days.add(day)
      i += to - from
    }
  for (const day of days) g.fillRect(day * dayWidth - 0.5, 0, Math.max(2, dayWidth), 5)
}

function veilOutside(g: CanvasRenderingContext2D, p: TidelinePicture, range: { from: number; to: number }) {
  const a = (Math.floor(range.from / p.perDay) / p.days) * p.width
  const b = ((Math.floor(range.to / p.perDay) + 1) / p.days) * p.width
  g.fillStyle = token('ink')
  g.globalAlpha = 0.28
  g.fillRect(0, 0, a, HEIGHT)
  g.fillRect(b, 0, p.width - b, HEIGHT)
  g.globalAlpha = 1
  g.fillRect(a, 0, 1.2, HEIGHT)
  g.fillRect(b - 1.2, 0, 1.2, HEIGHT)
}

function markMoment(g: CanvasRenderingContext2D, p: TidelinePicture, interval: number) {
  const x = ((Math.floor(interval / p.perDay) + 0.5) / p.days) * p.width
  const y = HEIGHT * (1 - ((interval % p.perDay) + 0.5) / p.perDay)
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
