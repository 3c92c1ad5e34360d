<script setup lang="ts">
import { ref } from 'vue'
import { api, type HabitsAnswer, type HabitsLine } from '@/api/client'
import { useNotice } from '@/notice/useNotice'
import { isChoosingHabits } from '@/stores/choosing'
import { setHabits } from '@/theme/habits'

/** How one reads numbers, units and dates, on the screen and on paper. */
const { warn } = useNotice()
const answer = ref<HabitsAnswer | null>(null)
function take(found: HabitsAnswer) {
  answer.value = found
  setHabits(found)
}
api.habits().then(take, () => undefined) // without the server figures are shown as the house writes them
let sending: Promise<void> = Promise.resolve()
/** One choice after the other, each with those before it. */
function set(field: keyof HabitsLine, event: Event) {
  const value = (event.target as HTMLSelectElement | HTMLInputElement).value.trim()
  sending = sending.then(() => {
    const { numbers, units, dates, currency } = answer.value!
    const given = { numbers, units, dates, currency, [field]: value } as HabitsLine
    return api.setHabits(given).then(take, (error: Error) => warn(error.message))
  })
}
</script>
<template>
  <v-dialog v-model="isChoosingHabits" role="none" :aria-modal="null" max-width="420">
    <div class="sheet" role="dialog" aria-label="Units and numbers">
      <h2>Units and numbers</h2>
      <template v-if="answer">
        <label
          ><span>Numbers</span>
          <select class="field" :value="answer.numbers" @change="set('numbers', $event)">
            <option value="">as the language has them</option>
            <option v-for="one in answer.all_numbers" :key="one">{{ one }}</option>
          </select></label
        >
        <label
          ><span>Units</span>
          <select class="field" :value="answer.units" @change="set('units', $event)">
            <option v-for="one in answer.all_units" :key="one">{{ one }}</option>
          </select></label
        >
        <label
          ><span>Dates</span>
          <select class="field" :value="answer.dates" @change="set('dates', $event)">
            <option value="">as the language has them</option>
            <option v-for="one in answer.all_dates" :key="one">{{ one }}</option>
          </select></label
        >
        <label
          ><span>Currency</span>
          <input
            class="field"
            :value="answer.currency"
            maxlength="3"
            placeholder="EUR"
            autocomplete="off"
            title="Three letters of ISO 4217, of the prices of new projects"
            @change="set('currency', $event)"
        /></label>
        <p class="soft">
          On the screen and in reports. What is typed is read the same way. Energy, power and light stay in kWh, kW and
          kWh/m².
        </p>
        <p class="soft">The currency is that of new projects; each keeps its own under Money.</p>
      </template>
      <p v-else class="bad">The server is not answering.</p>
      <p><button type="button" class="button strong" @click="isChoosingHabits = false">Close</button></p>
    </div>
  </v-dialog>
</template>
<style scoped>
.sheet {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  padding: 20px 26px;
  display: grid;
  gap: 12px;
}
h2,
p {
  margin: 0;
}
label {
  display: grid;
  grid-template-columns: 90px minmax(0, 1fr);
  align-items: center;
}
p.soft {
  font-size: 12.5px;
}
</style>
