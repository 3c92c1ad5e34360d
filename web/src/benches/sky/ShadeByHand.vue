<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { accessOf, joined } from './accessTable'

/** Shade that is known otherwise: a factor, a table of solar access, or fields counted on the picture. */
defineProps<{ isCounting: boolean; factor: number | null }>()
const emit = defineEmits<{ count: [on: boolean] }>()
const store = useSchemeStore()
const hasFactor = computed(() => Boolean(store.at('/site/shade_factor')))
const hasTable = computed(() => Boolean(store.at('/site/shade_table')))
const section = computed(() => (hasFactor.value ? 'shade_factor' : 'shade_table'))
const at = (field: string) => store.at(`/site/${section.value}/${field}`)
const isPasting = ref(false)
const fault = ref('')
const calculate = () => {
  store.edit({ site: { shade_factor: null, shade_table: null } })
  emit('count', false)
}
const useFactor = () => store.edit({ site: { shade_factor: { factor: 0.9 }, shade_table: null } })
const set = (patch: Record<string, string | boolean | null>) => store.edit({ site: { [section.value]: patch } })

/** Of how many points of the array the table is the mean. */
const points = computed(() => Number(at('points') ?? 1))
/** A table as it is pasted; of a further point of the array it is joined to the mean of those before. */
function takeTable(event: Event) {
  const read = accessOf((event.target as HTMLTextAreaElement).value)
  fault.value = 'fault' in read ? read.fault : ''
  if ('fault' in read) return
  isPasting.value = false
  const before = store.at('/site/shade_table/access') as unknown as number[][] | undefined
  const count = before ? points.value + 1 : 1
  const access = before ? joined(before, points.value, read.access) : read.access
  const source = count > 1 ? `pasted tables of ${count} points` : 'pasted table'
  const patch = { access, source, ...(count > 1 ? { points: count } : {}) }
  store.edit({ site: { shade_factor: null, shade_table: patch as unknown as never } })
}
</script>
<template>
  <section>
    <h3>Shade by hand</h3>
    <template v-if="hasFactor || hasTable">
      <p v-if="hasFactor">
        A shade factor of <BriefNumber pointer="/site/shade_factor/factor" label="Shade factor" /> stands in place of
        horizon and obstacles.
      </p>
      <p v-else>
        A table of solar access by month and hour<template v-if="points > 1"
          >, the mean of {{ points }} points of the array,</template
        >
        stands in place of horizon and obstacles<template v-if="factor !== null"
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
          v-if="hasTable"
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
        <button type="button" class="link" @click="useFactor">One factor…</button>
        <button type="button" class="link" @click="emit('count', true)">Count shaded fields…</button>
        <button type="button" class="link" :aria-expanded="isPasting" @click="isPasting = !isPasting">
          Paste a table…
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
        placeholder="12 rows (January first) of 24 values (0:00 first), 0 to 1 or per cent"
        @change="takeTable"
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
