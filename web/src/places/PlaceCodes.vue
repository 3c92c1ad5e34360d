<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, Problem, type CodeLine } from '@/api/client'
import { readNumber } from '@/theme/reading'
import { useNotice } from '@/notice/useNotice'

/** A table of the user's own: codes that stand for places, typed or pasted from a spreadsheet. */
const emit = defineEmits<{ close: [] }>()
const { say } = useNotice()
const text = ref('')
const fault = ref('')
const isReady = ref(false)
const written = (line: CodeLine) =>
  [line.code, line.latitude, line.longitude, line.elevation ?? '', line.name ?? ''].join('\t').replace(/\t+$/, '')

onMounted(async () => {
  try {
    const { codes } = await api.placeCodes()
    text.value = codes.map(written).join('\n')
    isReady.value = true
  } catch (error) {
    fault.value = (error as Error).message
  }
})
/** One place a line: code, latitude, longitude, and where they are known elevation and name. */
function read(): CodeLine[] | null {
  const codes: CodeLine[] = []
  for (const [i, row] of text.value.split('\n').entries()) {
    if (!row.trim()) continue
    const [code = '', latitude = '', longitude = '', elevation = '', ...name] = row
      .split(/\t|;|,(?!\d)/)
      .map((c) => c.trim())
    const [y, x] = [readNumber(latitude, { min: -90, max: 90 }), readNumber(longitude, { min: -180, max: 180 })]
    const z = elevation ? readNumber(elevation) : null
    if (
      !code ||
      Number.isNaN(y) ||
      Number.isNaN(x) ||
      Math.abs(y) > 90 ||
      Math.abs(x) > 180 ||
      (z !== null && Number.isNaN(z))
    ) {
      fault.value = `Line ${i + 1}: a code, latitude and longitude were expected, such as "MAST7; 43.62; 11.31; 412; Harbour mast".`
      return null
    }
    codes.push({ code, latitude: y, longitude: x, elevation: z, name: name.join(' ') })
  }
  return codes
}
async function save() {
  fault.value = ''
  const codes = read()
  if (!codes) return
  try {
    await api.setPlaceCodes(codes)
    say(`${codes.length} code${codes.length === 1 ? '' : 's'} kept. Type one where a place is asked for.`)
    emit('close')
  } catch (error) {
    fault.value = error instanceof Problem && error.findings[0] ? error.findings[0].detail : (error as Error).message
  }
}
</script>
<template>
  <div class="codes" role="dialog" aria-label="Codes of your own">
    <h3>Codes of your own</h3>
    <p class="soft">
      One place a line: code, latitude, longitude, elevation, name; or paste the columns of a spreadsheet.
    </p>
    <textarea
      v-model="text"
      class="field"
      rows="10"
      aria-label="Codes, one place a line"
      placeholder="MAST7; 43.62; 11.31; 412; Harbour mast"
      spellcheck="false"
      :disabled="!isReady"
    />
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <p class="acts">
      <button type="button" class="button strong" :disabled="!isReady" @click="save">Keep these</button>
      <button type="button" class="button" @click="emit('close')">Cancel</button>
    </p>
  </div>
</template>
<style scoped>
.codes {
  background: var(--sheet);
  padding: 16px 20px;
  border-radius: 12px;
  display: grid;
  gap: 8px;
}
textarea {
  width: 100%;
  font-size: 12.5px;
}
.acts {
  display: flex;
  gap: 10px;
}
</style>
