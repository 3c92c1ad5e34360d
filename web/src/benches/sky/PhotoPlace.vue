<script setup lang="ts">
import { computed, onBeforeUnmount, reactive, ref, shallowRef, watch } from 'vue'
import BlankNumber from '@/brief/BlankNumber.vue'
import { lensOf, placedPhoto, unrolledPicture, type PlacedPhoto } from './lens'
import type { Projection } from './skyGeometry'

/** A photograph of the horizon, laid behind the unrolled sky by two bearings that are known; it stays in this browser. */
const props = defineProps<{ projection: Projection }>()
const emit = defineEmits<{ placed: [photo: PlacedPhoto | null]; unroll: [] }>()
const url = ref('')
const picture = shallowRef<HTMLImageElement | null>(null)
const size = reactive({ width: 1, height: 1 })
const marks = reactive({ first: 0, firstBearing: 90, second: 100, secondBearing: 270, level: 60 })
const fault = ref('')
const FIELDS = [
  { key: 'first', label: 'First mark, from the left', unit: '%', low: 0, high: 100 },
  { key: 'firstBearing', label: 'Bearing of the first mark', unit: '°', low: 0, high: 360 },
  { key: 'second', label: 'Second mark, from the left', unit: '%', low: 0, high: 100 },
  { key: 'secondBearing', label: 'Bearing of the second mark', unit: '°', low: 0, high: 360 },
  { key: 'level', label: 'Level, from the top', unit: '%', low: 0, high: 100 },
] as const

async function take(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  const next = URL.createObjectURL(file)
  const image = new Image()
  image.src = next
  try {
    await image.decode()
  } catch {
    URL.revokeObjectURL(next)
    fault.value = `${file.name} is no picture that the browser can read. Use PNG, JPEG or WebP.`
    return
  }
  drop()
  Object.assign(size, { width: image.naturalWidth, height: image.naturalHeight })
  picture.value = image
  url.value = next
  fault.value = ''
  emit('unroll')
}
function drop() {
  if (url.value) URL.revokeObjectURL(url.value)
  url.value = ''
  picture.value = null
}
onBeforeUnmount(drop)
const lens = computed(() => (picture.value ? lensOf(size, marks) : null))
const unrolled = computed(() => (picture.value && lens.value ? unrolledPicture(picture.value, size, lens.value) : ''))
const placed = computed(() =>
  lens.value && unrolled.value ? placedPhoto(unrolled.value, lens.value, marks, props.projection) : null,
)
watch(placed, (photo) => emit('placed', photo))
const isNarrow = computed(() => url.value && !placed.value)
</script>
<template>
  <div class="photo">
    <label class="link">
      {{ url ? 'Another photograph…' : 'Trace a photograph…' }}
      <input type="file" accept="image/*" class="sr" @change="take" />
    </label>
    <button v-if="url" type="button" class="link" @click="drop">Remove it</button>
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <dl v-if="url" class="ruled">
      <div v-for="f in FIELDS" :key="f.key">
        <dt>{{ f.label }}</dt>
        <dd>
          <BlankNumber
            :value="marks[f.key]"
            :label="f.label"
            :range="{ min: f.low, max: f.high, isInteger: false }"
            :step="1"
            @change="marks[f.key] = $event"
          />&thinsp;{{ f.unit }}
        </dd>
      </div>
    </dl>
    <p v-if="isNarrow" class="care">The two marks need different places and bearings.</p>
    <p v-if="url" class="soft">
      Two objects in the picture whose bearings you know place it, as its
      {{ lens?.kind === 'panorama' ? 'panorama' : 'lens' }} saw them. Then draw the horizon along it. The photograph is
      not kept.
    </p>
  </div>
</template>
<style scoped>
.photo {
  display: grid;
  gap: 4px;
  justify-items: start;
  font-size: 11.5px;
}
.photo dl {
  width: 100%;
}
label {
  cursor: pointer;
}
label:focus-within {
  outline: 2px solid var(--current);
}
</style>
