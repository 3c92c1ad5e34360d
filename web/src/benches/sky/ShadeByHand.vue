<script setup lang="ts">
import { computed, ref } from 'vue'
import type { JsonObject } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { api } from '@/api/client'
import { accessOf, isOutline, joined } from './accessTable'
import { readPairs } from './azimuths'

/** Shade that is known otherwise: a factor, a table of solar access, or fields counted on the picture. */
defineProps<{ isCounting: boolean; factor: number | null }>()
const emit = defineEmits<{ count: [on: boolean] }>()
const store = useSchemeStore()
/** The surface whose shade was measured at its own points; all of them where it is empty. */
const target = ref('')
const root = computed(() => (target.value ? `/surfaces/${target.value}` : '/site'))
const within = (patch: object) =>
  (target.value ? { surfaces: { [target.value]: patch } } : { site: patch }) as unknown as JsonObject
const hasFactor = computed(() => !target.value && Boolean(store.at('/site/shade_factor')))
const hasTable = computed(() => Boolean(store.at(`${root.value}/shade_table`)))
const section = computed(() => (hasFactor.value ? 'shade_factor' : 'shade_table'))
const at = (field: string) => store.at(`${root.value}/${section.value}/${field}`)
const hasOwn = (id: string) => Boolean(store.at(`/surfaces/${id}/shade_table`))
const isPasting = ref(false)
const fault = ref('')
const calculate = () => {
  store.edit(within({ ...(target.value ? {} : { shade_factor: null }), shade_table: null }))
  emit('count', false)
}
const useFactor = () => store.edit({ site: { shade_factor: { factor: 0.9 }, shade_table: null } })
const set = (patch: Record<string, string | boolean | null>) => store.edit(within({ [section.value]: patch }))

/** Of how many points of the array the table is the mean. */
const points = computed(() => Number(at('points') ?? 1))
/** What was measured at a point: a table, or an outline of azimuth and elevation, which the year's light makes one. */
async function readPoint(text: string): Promise<{ access: number[][] } | { fault: string }> {
  if (!isOutline(text)) return accessOf(text)
  const pairs = readPairs(text, 'north')
  const surface = target.value || store.surfaces[0]?.id
  if (pairs.fault) return { fault: pairs.fault }
  if (!surface || !store.saved) return { fault: 'An outline needs a surface to be seen from. Add one first.' }
  try {
    await store.flush()
    return await api.outlineAccess(store.saved.id, { surface, outline: pairs.points })
  } catch (error) {
    return { fault: (error as Error).message }
  }
}
/** A point as it is pasted; a further point of the array is joined to the mean of those before. */
async function takePoint(event: Event) {
  const read = await readPoint((event.target as HTMLTextAreaElement).value)
  fault.value = 'fault' in read ? read.fault : ''
  if ('fault' in read) return
  isPasting.value = false
  const before = store.at(`${root.value}/shade_table/access`) as unknown as number[][] | undefined
  const count = before ? points.value + 1 : 1
  const access = before ? joined(before, points.value, read.access) : read.access
  const source = count > 1 ? `measured at ${count} points` : 'measured at a point'
  const patch = { access, source, ...(count > 1 ? { points: count } : {}) }
  store.edit(within({ ...(target.value ? {} : { shade_factor: null }), shade_table: patch }))
}
</script>
<template>
  <section>
    <h3>Shade by hand</h3>
    <label v-if="store.surfaces.length > 1">
      of
      <select v-model="target" class="blank" aria-label="Surfaces whose shade is given by hand">
        <option value="">all surfaces</option>
        <option v-for="s in store.surfaces" :key="s.id" :value="s.id">
          {{ s.name }}{{ hasOwn(s.id) ? ' ●' : '' }}
        </option>
      </select>
    </label>
    <template v-if="hasFactor || hasTable">
      <p v-if="hasFactor">
        A shade factor of <BriefNumber pointer="/site/shade_factor/factor" label="Shade factor" /> replaces horizon and
        obstacles.
      </p>
      <p v-else>
        A table of solar access by month and hour<template v-if="points > 1"
          >, the mean of {{ points }} points of the array,</template
        >
        replaces horizon and obstacles<template v-if="factor !== null"
          >: over the year <b>{{ factor.toFixed(3) }}</b></template
        >.
      </p>
      <label>
        <input
          type="checkbox"
          :checked="at('is_measured') === true"
          @change="set({ is_measured: ($event.target as HTMLInputElement).checked || null })"
        />
        measured on site
      </label>
      <p class="soft">
        Statement:
        <BriefText
          :value="String(at('statement') ?? '')"
          placeholder="how it was found"
          label="Statement about the shade"
          @change="set({ statement: $event || null })"
        />
      </p>
      <p class="acts">
        <button
          v-if="hasTable && !target"
          type="button"
          class="link"
          :aria-pressed="isCounting"
          @click="emit('count', !isCounting)"
        >
          {{ isCounting ? 'Done counting' : 'Count fields' }}
        </button>
        <button v-if="hasTable" type="button" class="link" :aria-expanded="isPasting" @click="isPasting = !isPasting">
          Join another point…
        </button>
        <button type="button" class="link" @click="calculate">Calculate instead</button>
      </p>
    </template>
    <template v-else>
      <p class="acts">
        <template v-if="!target">
          <button type="button" class="link" @click="useFactor">One factor…</button>
          <button type="button" class="link" @click="emit('count', true)">Count shaded fields…</button>
        </template>
        <button type="button" class="link" :aria-expanded="isPasting" @click="isPasting = !isPasting">
          Paste a table or an outline…
        </button>
      </p>
      <p class="soft">
        For regulated or early estimates, and for surveys. It replaces the calculation and says so everywhere.
      </p>
    </template>
    <template v-if="isPasting">
      <textarea
        class="field"
        rows="4"
        aria-label="Solar access, 12 rows of 24 values"
        placeholder="12 rows (January first) of 24 values (0:00 first), 0 to 1 or per cent; or an outline, a line each: azimuth and elevation"
        @change="takePoint"
      />
      <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    </template>
  </section>
</template>
<style scoped>
section {
  display: grid;
  gap: 5px;
  font-size: 12.5px;
}
textarea {
  width: 100%;
  font-size: 11.5px;
}
p.soft {
  font-size: 11.5px;
}
</style>
