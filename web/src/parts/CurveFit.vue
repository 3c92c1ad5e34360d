<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { api, type CurveFitAnswer } from '@/api/client'
import { useLibrary } from '@/stores/library'
import { useNotice } from '@/notice/useNotice'
import { percent, signed } from '@/theme/format'

/** A measured curve of a module: what it makes of the datasheet's figures, and a part of one's own from it. */
const props = defineProps<{ id: string }>()
const library = useLibrary()
const { say } = useNotice()
const file = shallowRef<File | null>(null)
const irradiance = ref('')
const temperature = ref('')
const answer = shallowRef<CurveFitAnswer | null>(null)
const fault = ref('')
const NAMES: Record<string, string> = { power: 'power', isc: 'Isc', voc: 'Voc', imp: 'Imp', vmp: 'Vmp' }
const changes = computed(() =>
  Object.entries(answer.value?.changes ?? {}).map(([key, share]) => `${NAMES[key]} ${signed(share * 100, 2)} %`),
)
async function fit() {
  if (!file.value) return
  fault.value = ''
  answer.value = null
  try {
    answer.value = await api.fitCurve(props.id, file.value, irradiance.value, temperature.value)
  } catch (error) {
    fault.value = (error as Error).message
  }
}
function take(event: Event) {
  const input = event.target as HTMLInputElement
  file.value = input.files?.[0] ?? null
  input.value = ''
  void fit()
}
async function keep() {
  try {
    const kept = await api.typePart('modules', { values: answer.value!.values, text: '', keep: true })
    if (!kept.is_kept) throw new Error(kept.faults.map((f) => f.reason).join(' '))
    await library.readParts()
    say(`${String(answer.value!.values.name)} is in the library.`)
    file.value = null
    answer.value = null
  } catch (error) {
    fault.value = (error as Error).message
  }
}
</script>
<template>
  <section class="fit">
    <p>
      <label class="link"
        >{{ file ? file.name : 'Fit to a measured curve (CSV)…'
        }}<input type="file" accept=".csv,.txt,.tsv" class="sr" @change="take"
      /></label>
      <template v-if="file">
        at
        <input
          v-model="irradiance"
          class="blank"
          inputmode="decimal"
          placeholder="…"
          aria-label="Irradiance of the curve"
          @change="fit"
        />
        W/m² and
        <input
          v-model="temperature"
          class="blank"
          inputmode="decimal"
          placeholder="…"
          aria-label="Cell temperature of the curve"
          @change="fit"
        />
        °C, where the table has no columns for them
      </template>
    </p>
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <p v-if="answer" role="status">
      Against the datasheet, at 1,000 W/m² and 25 °C: <b>{{ changes.join(', ') }}</b>. The current is off by
      {{ percent(answer.deviation, 2) }} of Isc in the mean.
      <button type="button" class="button" @click="keep">Keep as a part of your own</button>
    </p>
  </section>
</template>
<style scoped>
.fit {
  display: grid;
  gap: 5px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
}
label.link {
  cursor: pointer;
}
label:focus-within {
  outline: 2px solid var(--current);
}
.blank {
  min-width: 30px;
}
</style>
