<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { readNumber } from '@/brief/useDraft'

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

/** Twelve rows of twenty-four shares, or of per cent; headings and the column of months may stand around them. */
function takeTable(event: Event) {
  const rows = (event.target as HTMLTextAreaElement).value
    .split('\n')
    .map((row) =>
      row
        .trim()
        .split(/[\t;]+|\s+/)
        .map((cell) => readNumber(cell.replace('%', '')))
        .filter((value) => !Number.isNaN(value)),
    )
    .filter((row) => row.length >= 24)
    .map((row) => row.slice(-24))
  const table = rows.length === 13 ? rows.slice(1) : rows
  if (table.length !== 12) {
    fault.value = `Twelve rows of 24 values were expected, one a month and hour; ${table.length} such rows are there.`
    return
  }
  const isPercent = table.some((row) => row.some((value) => value > 1.5))
  const access = table.map((row) => row.map((value) => (isPercent ? value / 100 : value)))
  const wrong = access.findIndex((row) => row.some((value) => value < 0 || value > 1))
  if (wrong >= 0) {
    fault.value = `Row ${wrong + 1}: solar access lies between 0 and 1, or 0 and 100 %.`
    return
  }
  fault.value = ''
  isPasting.value = false
  store.edit({ site: { shade_factor: null, shade_table: { access, source: 'pasted table' } as unknown as never } })
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
        A table of solar access by month and hour stands in place of horizon and obstacles<template
          v-if="factor !== null"
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
