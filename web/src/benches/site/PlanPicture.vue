<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useDropped } from '@/stores/droppedFile'
import BriefNumber from '@/brief/BriefNumber.vue'
import { azimuthWords } from '@/theme/format'
import { readPlace, wayBetween, type Plan } from './planPicture'

/** Places a plan, photograph or aerial picture on the map by two of its points. */
const emit = defineEmits<{ close: []; show: [] }>()
const store = useSchemeStore()
const plan = computed(() => store.at('/site/map_picture') as unknown as Plan | undefined)
const fault = ref('')
const isTaking = ref(false)
const places = ref(['', ''])
const PINS = [
  { letter: 'A', x: 'first_x', y: 'first_y' },
  { letter: 'B', x: 'second_x', y: 'second_y' },
] as const
type Pin = (typeof PINS)[number]

function choose(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) void take(file)
}
useDropped('picture', ({ file }) => take(file))
async function take(file: File) {
  fault.value = ''
  isTaking.value = true
  const url = URL.createObjectURL(file)
  try {
    const image = new Image()
    image.src = url
    try {
      await image.decode()
    } catch {
      throw new Error(`${file.name} is no picture that the browser can read. Use PNG, JPEG or WebP.`)
    }
    const { digest } = await api.storePicture(file)
    const { latitude, longitude } = store.site
    store.edit({
      site: {
        map_picture: {
          digest,
          name: file.name.slice(0, 120),
          width_to_height: Math.round((image.naturalWidth / image.naturalHeight) * 1e4) / 1e4,
          first_x: 0.25,
          first_y: 0.5,
          second_x: 0.75,
          second_y: 0.5,
          latitude,
          longitude,
          distance: 50,
          azimuth: 90,
        },
      },
    })
  } catch (error) {
    fault.value = (error as Error).message
  } finally {
    URL.revokeObjectURL(url)
    isTaking.value = false
  }
}
/** A pin that is dragged follows the pointer; it is kept where it is dropped. */
const held = ref<{ pin: Pin; x: number; y: number } | null>(null)
const at = (pin: Pin) => {
  if (held.value?.pin === pin) return { x: held.value.x, y: held.value.y }
  return { x: plan.value![pin.x], y: plan.value![pin.y] }
}
const within = (share: number) => Math.max(0, Math.min(1, Math.round(share * 1e4) / 1e4))
function drag(pin: Pin, event: PointerEvent) {
  const frame = (event.currentTarget as HTMLElement).parentElement!
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  const move = (e: PointerEvent) => {
    const box = frame.getBoundingClientRect()
    held.value = {
      pin,
      x: within((e.clientX - box.left) / box.width),
      y: within((e.clientY - box.top) / box.height),
    }
  }
  const target = event.currentTarget as HTMLElement
  const end = () => {
    target.removeEventListener('pointermove', move)
    if (held.value) set(pin, held.value.x, held.value.y)
    held.value = null
  }
  target.addEventListener('pointermove', move)
  target.addEventListener('pointerup', end, { once: true })
  target.addEventListener('pointercancel', end, { once: true })
}
const set = (pin: Pin, x: number, y: number) =>
  store.edit({ site: { map_picture: { [pin.x]: within(x), [pin.y]: within(y) } } })
const KEYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
function nudge(pin: Pin, event: KeyboardEvent) {
  const by = KEYS[event.key]
  if (!by) return
  event.preventDefault()
  const size = event.shiftKey ? 0.02 : 0.002
  set(pin, at(pin).x + by[0] * size, at(pin).y + by[1] * size)
}
/** Both points by their places, as a map gives them. */
function usePlaces() {
  fault.value = ''
  const [a, b] = places.value.map(readPlace)
  if (!a || !b) {
    fault.value = `Point ${a ? 'B' : 'A'}: two numbers were expected, such as "43.6201, 11.3105" (latitude, longitude).`
    return
  }
  const { distance, azimuth } = wayBetween(a, b)
  if (distance < 0.1 || distance > 100_000) {
    fault.value = `The two places lie ${distance < 0.1 ? 'less than 0.1 m' : 'more than 100 km'} apart.`
    return
  }
  const round = (v: number, digits: number) => Math.round(v * 10 ** digits) / 10 ** digits
  store.edit({
    site: { map_picture: { ...a, distance: round(distance, 2), azimuth: round(azimuth, 2) } },
  })
}
watch(
  () => [plan.value?.latitude, plan.value?.longitude],
  ([latitude, longitude]) => {
    if (latitude !== undefined) places.value[0] = `${latitude}, ${longitude}`
  },
  { immediate: true },
)
const remove = () => store.edit({ site: { map_picture: null } })
</script>
<template>
  <div class="plan" role="dialog" aria-label="Picture on the map">
    <header role="none">
      <h3>Picture on the map</h3>
      <label class="link"
        >{{ plan ? 'Another picture…' : 'Open a plan, photograph or aerial picture…'
        }}<input type="file" accept="image/png,image/jpeg,image/webp" class="sr" @change="choose"
      /></label>
      <button v-if="plan" type="button" class="link" @click="remove">Remove it</button>
    </header>
    <p v-if="isTaking" class="soft" role="status">Reading the picture…</p>
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <template v-if="plan">
      <div class="frame">
        <img :src="api.picture(plan.digest)" :alt="plan.name || 'Picture of the site'" draggable="false" />
        <svg aria-hidden="true" preserveAspectRatio="none" viewBox="0 0 1 1">
          <line
            :x1="at(PINS[0]).x"
            :y1="at(PINS[0]).y"
            :x2="at(PINS[1]).x"
            :y2="at(PINS[1]).y"
            vector-effect="non-scaling-stroke"
          />
        </svg>
        <button
          v-for="pin in PINS"
          :key="pin.letter"
          type="button"
          class="pin"
          :style="{ left: `${at(pin).x * 100}%`, top: `${at(pin).y * 100}%` }"
          :aria-label="`Point ${pin.letter} of the picture; drag it, or move it with the arrow keys`"
          @pointerdown.prevent="drag(pin, $event)"
          @keydown="nudge(pin, $event)"
        >
          {{ pin.letter }}
        </button>
      </div>
      <p>
        Put <b>A</b> and <b>B</b> on two points that you know. B lies
        <BriefNumber pointer="/site/map_picture/distance" label="Distance from A to B" /> from A, at
        <BriefNumber pointer="/site/map_picture/azimuth" label="Azimuth from A to B" />
        <span class="soft">({{ azimuthWords(plan.azimuth) }})</span>; A at
        <BriefNumber pointer="/site/map_picture/latitude" label="Latitude of A" />,
        <BriefNumber pointer="/site/map_picture/longitude" label="Longitude of A" />.
      </p>
      <p class="places">
        <span>Or both by their places:</span>
        <label v-for="(pin, i) in PINS" :key="pin.letter"
          >{{ pin.letter }}
          <input
            v-model="places[i]"
            class="field"
            :aria-label="`Place of point ${pin.letter}`"
            placeholder="43.6201, 11.3105"
            @keydown.enter="usePlaces"
        /></label>
        <button type="button" class="link" @click="usePlaces">Place it</button>
      </p>
    </template>
    <p v-else class="soft">
      Two points whose places you know, or one and the way to the other, lay it over the map at its true size. It is
      kept with the project.
    </p>
    <p class="acts">
      <button v-if="plan" type="button" class="button strong" @click="emit('show')">See it on the map</button>
      <button type="button" class="button" @click="emit('close')">Close</button>
    </p>
  </div>
</template>
<style scoped>
.plan {
  background: var(--sheet);
  padding: 16px 20px;
  border-radius: 12px;
  display: grid;
  gap: 10px;
  font-size: 13px;
}
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
header h3 {
  margin-right: auto;
}
.frame {
  position: relative;
  justify-self: center;
  line-height: 0;
}
.frame img {
  max-width: 100%;
  max-height: 46vh;
  border: 1px solid var(--rule);
}
.frame svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.frame line {
  stroke: var(--loss);
  stroke-width: 1.5;
  stroke-dasharray: 5 4;
}
.pin {
  position: absolute;
  width: 22px;
  height: 22px;
  margin: -11px 0 0 -11px;
  padding: 0;
  display: grid;
  place-items: center;
  border: 1.5px solid var(--loss);
  border-radius: 50%;
  background: color-mix(in srgb, var(--sheet) 70%, transparent);
  color: var(--loss-text);
  font-weight: 700;
  font-size: 12px;
  line-height: 1;
  cursor: grab;
  touch-action: none;
}
.places {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: baseline;
}
.places input {
  width: 170px;
}
label.link {
  cursor: pointer;
}
label:focus-within {
  outline: 2px solid var(--current);
}
</style>
