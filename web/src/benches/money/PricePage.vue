<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { api, type MoneyAnswer, type TariffLine, type Acts } from '@/api/client'
import { useDropped } from '@/stores/droppedFile'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useWorking } from '@/stores/useWorking'
import { number } from '@/theme/format'
import BillByMonth from './BillByMonth.vue'
import BillLines from './BillLines.vue'
import PriceWeek from './PriceWeek.vue'
import TariffTerms from './TariffTerms.vue'

/** The tariff as a painted week, and the bill before and after. */
const props = defineProps<{ money: MoneyAnswer }>()
const store = useSchemeStore()
const working = useWorking()
const tariffs = shallowRef<TariffLine[]>([])
const side = ref<'energy' | 'export'>('energy')
const month = ref(-1)
const file = ref<HTMLInputElement>()
onMounted(async () => {
  tariffs.value = await api.tariffs()
})
const name = computed(() => (store.at('/money/tariff/name') as string | undefined) ?? '')
const before = computed(() => (store.at('/money/tariff_before/name') as string | undefined) ?? '')
const price = computed(() => props.money[side.value] ?? props.money.energy)
type Given = Acts['take-tariff']['tariff']
async function choose(event: Event, which: 'tariff' | 'tariff_before') {
  const select = event.target as HTMLSelectElement
  const key = select.value
  select.value = ''
  if (key === '+') return file.value?.click()
  const found = tariffs.value.find((line) => line.key === key)
  await store.act('take-tariff', { which, tariff: (found?.tariff as Given) ?? null })
}
function read(event: Event) {
  const input = event.target as HTMLInputElement
  const given = input.files?.[0]
  input.value = ''
  if (given) void take(given)
}
useDropped('tariff', ({ file: given }) => take(given))
async function take(given: File) {
  try {
    await store.act('take-tariff', { tariff: JSON.parse(await given.text()) as Given })
  } catch {
    store.notice = `${given.name} is no tariff: a JSON document of the format noontide-tariff/1 is needed.`
  }
}
function save() {
  const text = JSON.stringify(store.at('/money/tariff'), null, 1)
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type: 'application/json' }))
  link.download = `${name.value || 'tariff'}.json`
  link.click()
  URL.revokeObjectURL(link.href)
}
</script>
<template>
  <p class="said serif">
    <template v-if="name">Buys at </template><template v-else>No tariff yet: </template>
    <select class="blank" :value="''" aria-label="Tariff" @change="choose($event, 'tariff')">
      <option value="" disabled>{{ name || 'choose one…' }}</option>
      <option v-for="line in tariffs" :key="line.key" :value="line.key">{{ line.name }}</option>
      <option value="+">from a file…</option>
      <option v-if="name" value="-">no tariff</option></select
    ><template v-if="name"
      >; without the plant at
      <select class="blank" :value="''" aria-label="Tariff without the plant" @change="choose($event, 'tariff_before')">
        <option value="" disabled>{{ before || 'the same' }}</option>
        <option value="-">the same</option>
        <option v-for="line in tariffs" :key="line.key" :value="line.key">{{ line.name }}</option>
      </select></template
    ><template v-if="money.before && money.after"
      >. The bill falls from {{ number(money.before.total) }} to
      <button type="button" class="go" @click="working.show('saving')">
        {{ number(money.after.total) }} {{ money.currency }}</button
      >.</template
    ><template v-else>. Until then each kWh counts the value of energy.</template>
    <button v-if="name" type="button" class="link save" @click="save">Save as JSON</button>
    <input
      ref="file"
      class="sr"
      type="file"
      accept=".json,application/json"
      tabindex="-1"
      aria-label="Tariff file"
      @change="read"
    />
  </p>
  <div v-if="money.energy && price" class="halves">
    <div>
      <p class="sides">
        <button type="button" class="link" :aria-pressed="side === 'energy'" @click="side = 'energy'">
          from the grid
        </button>
        <button
          v-if="money.export"
          type="button"
          class="link"
          :aria-pressed="side === 'export'"
          @click="side = 'export'"
        >
          to the grid
        </button>
      </p>
      <PriceWeek
        :price="price"
        :side="money.export && side === 'export' ? 'export' : 'energy'"
        :currency="money.currency"
      />
      <TariffTerms :currency="money.currency" />
    </div>
    <div v-if="money.before && money.after">
      <BillByMonth
        :before="money.before"
        :after="money.after"
        :currency="money.currency"
        :month="month"
        @pick="month = $event"
      />
      <BillLines
        :before="money.before"
        :after="money.after"
        :currency="money.currency"
        :month="month"
        @pick="month = $event"
      />
    </div>
  </div>
</template>
<style scoped>
.said {
  font-size: 15px;
  line-height: 1.55;
  margin: 2px 0 10px;
}
.go {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
.save {
  font: 12px var(--sans);
  margin-left: 10px;
}
.halves {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 26px;
}
.sides {
  display: flex;
  gap: 14px;
  font-size: 12px;
}
@media (max-width: 1150px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
    gap: 16px;
  }
}
</style>
