<script setup lang="ts">
import { computed, ref } from 'vue'
import { number, quantity } from '@/theme/format'
import RawLines from './RawLines.vue'
import ReadFields from './ReadFields.vue'
import { signed } from './sureness'
import SunWitness from './SunWitness.vue'
import { useReading } from './useReading'
import { storeWeatherFile, type OpenFile } from './weatherFile'

/** How a file is understood, beside its lines: everything can be changed, and the year follows at once. */
const props = defineProps<{ opened: OpenFile }>()
const emit = defineEmits<{ close: [] }>()
const { answer, reading, problem, isAsking, canUndo, change, changeColumn, undo } = useReading(
  props.opened.file,
  props.opened.answer,
)
const isStoring = ref(false)
const shift = computed(() => {
  const best = answer.value.fit?.best ?? 0
  return Math.abs(best) >= 25 ? best : 0
})
async function use(by = 0) {
  isStoring.value = true
  await storeWeatherFile(props.opened.file, by ? { ...reading.value, shift: reading.value.shift + by } : reading.value)
  isStoring.value = false
}
</script>
<template>
  <section class="reading" role="dialog" aria-modal="true" aria-label="How the file is understood">
    <header role="none">
      <h2>Reading {{ opened.file.name }}</h2>
      <span class="soft">
        {{ number(answer.line_count) }} lines{{ reading.sheet ? `, sheet ${reading.sheet}` : '' }}
        <template v-if="answer.is_remembered">· as the last file of this make was read</template>
      </span>
    </header>
    <div class="two">
      <RawLines :lines="answer.lines" :reading="reading" />
      <div class="understood">
        <h3>Understood as</h3>
        <ReadFields :reading="reading" :answer="answer" @change="change" @column="changeColumn" />
      </div>
    </div>
    <SunWitness v-if="answer.fit" :fit="answer.fit" />
    <p v-else class="soft">Without GHI and a place, the sun cannot tell whether the time is right.</p>
    <div class="year" aria-live="polite">
      <p v-if="problem" class="care" role="alert">△ {{ problem }}</p>
      <template v-else-if="answer.year">
        <p>
          <b>{{ number(answer.intervals) }}</b> intervals: GHI <b>{{ number(answer.year.annual_ghi) }}</b>, DNI
          {{ number(answer.year.annual_dni) }}, DHI {{ number(answer.year.annual_dhi) }} kWh/m²;
          {{ number(answer.year.lowest_temperature, 1) }} to {{ quantity(answer.year.highest_temperature, '°C', 1) }}.
        </p>
        <details>
          <summary class="soft">{{ answer.notes.length }} notes on what is done</summary>
          <ul class="notes">
            <li v-for="note in answer.notes" :key="note">{{ note }}</li>
          </ul>
        </details>
      </template>
    </div>
    <footer>
      <button
        type="button"
        class="button"
        :class="{ strong: !shift }"
        :disabled="!answer.year || isStoring || isAsking"
        @click="use()"
      >
        Use this year
      </button>
      <button
        v-if="shift"
        type="button"
        class="button strong"
        :disabled="!answer.year || isStoring || isAsking"
        @click="use(shift)"
      >
        Shift by {{ signed(shift) }} min and use
      </button>
      <button type="button" class="button" :disabled="!canUndo" @click="undo">Undo</button>
      <button type="button" class="link" @click="emit('close')">Close without using it</button>
      <span class="soft">{{
        isAsking ? 'Reading…' : isStoring ? 'Keeping…' : 'The same reading is offered for the next file of this make.'
      }}</span>
    </footer>
  </section>
</template>
<style scoped>
.reading {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  padding: 16px 20px 14px;
  display: grid;
  gap: 12px;
  max-height: calc(100vh - 40px);
  overflow: auto;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 14px;
}
header .soft,
footer .soft {
  font-size: 12px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 420px;
  gap: 18px;
}
.two > .raw {
  max-height: 356px;
}
.understood {
  max-height: 356px;
  overflow: auto;
}
.understood h3 {
  margin-bottom: 4px;
}
.notes {
  margin: 4px 0 0;
  padding-left: 18px;
  font-size: 12.5px;
}
footer {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
  border-top: 1px solid var(--rule);
  padding-top: 10px;
}
footer .soft {
  margin-left: auto;
}
@media (max-width: 1060px) {
  .two {
    grid-template-columns: minmax(0, 1fr) 380px;
  }
}
</style>
