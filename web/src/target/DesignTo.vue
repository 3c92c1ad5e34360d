<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import { useJob } from '@/stores/useJob'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useQuestions } from '@/brief/useQuestions'
import BlankNumber from '@/brief/BlankNumber.vue'
import PartChoice from '@/parts/PartChoice.vue'
import { useNotice } from '@/notice/useNotice'
import type { JsonObject } from '@/api/mergePatch'

/** An array to a target, in a sentence: what is asked for, on which faces; what reaches it is written to the Brief, and one undo takes it back. */
const props = defineProps<{ faces?: { id: string; name: string }[] }>()
const emit = defineEmits<{ close: [] }>()
const store = useSchemeStore()
const { say } = useNotice()
const { job, run, cancel } = useJob()
const { range } = useQuestions('design-to')
const TARGETS = {
  energy: 'kWh a year',
  power: 'kW',
  modules: 'modules',
  use: '% of the use',
  bill: '% of the bill',
  value: 'the best net present value',
} as const
type Target = keyof typeof TARGETS
const asked = reactive({ of: 'energy' as Target, amount: 0, face: '', module: '', battery: false })
const headline = computed(() => store.evaluation?.headline)
const figure = (key: string) => store.evaluation?.figures.find((one) => one.key === key)?.value ?? null
/** Each target begins at what the design has. */
const present = computed<Record<Target, number>>(() => ({
  energy: Math.round((headline.value?.energy ?? 0) / 100) * 100,
  power: Math.round((figure('dc_power') ?? 0) * 10) / 10,
  modules: store.subarrays.reduce((sum, one) => sum + one.strings * one.modules_per_string, 0),
  use: Math.round((100 * (headline.value?.energy ?? 0)) / (figure('demand_energy') ?? Infinity)),
  bill: Math.round((figure('bill_share') ?? 0) * 100),
  value: 0,
}))
/** Targets that the design can be asked for: a share of a use that there is, a bill that is paid. */
const targets = computed(() =>
  (Object.keys(TARGETS) as Target[]).filter(
    (of) =>
      (of !== 'use' || figure('demand_energy') !== null) &&
      (of !== 'bill' || figure('bill_share') !== null) &&
      (of !== 'value' || figure('net_present_value') !== null),
  ),
)
function choose(of: Target) {
  asked.of = of
  asked.amount = present.value[of]
}
onMounted(() => choose(asked.of))
const fault = ref('')
async function design() {
  if (!store.saved || job.value) return
  fault.value = ''
  try {
    await store.flush()
    const faces = asked.face ? [asked.face] : []
    const { revision, patch, words } = await run(store.saved.id, 'design-to', {
      of: asked.of,
      amount: asked.of === 'value' ? 0 : asked.amount,
      faces,
      module: asked.module,
      battery: asked.battery,
    })
    if (store.saved.revision !== revision) {
      fault.value = 'The design has changed meanwhile. Ask again.'
      return
    }
    store.edit(patch as JsonObject)
    emit('close')
    say(words, { label: 'Undo', run: () => void store.undo() })
  } catch (error) {
    fault.value = (error as Error).message
  }
}
</script>
<template>
  <div class="target" role="dialog" aria-label="Design to a target" @keydown.esc="emit('close')">
    <p class="serif">
      Fill
      <select v-if="props.faces?.length" v-model="asked.face" class="blank" aria-label="Where modules go">
        <option value="">all roofs, the sunniest places first</option>
        <option v-for="one in props.faces" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
      <template v-else>the sunniest places first</template>
      with
      <PartChoice
        kind="module"
        :value="asked.module || store.subarrays[0]?.module || ''"
        label="Module of the target"
        @choose="asked.module = $event"
      />, to
      <template v-if="asked.of !== 'value'"
        ><BlankNumber
          :value="asked.amount"
          :label="`Amount in ${TARGETS[asked.of]}`"
          :range="range('amount')"
          :step="1"
          @change="asked.amount = $event"
        />{{ ' ' }}</template
      ><select
        class="blank"
        :value="asked.of"
        aria-label="Target"
        @change="choose(($event.target as HTMLSelectElement).value as Target)"
      >
        <option v-for="of in targets" :key="of" :value="of">{{ TARGETS[of] }}</option></select
      >, in strings on inverters that are found for them.
      <label v-if="figure('demand_energy') !== null" class="with"
        ><input v-model="asked.battery" type="checkbox" /> with the battery that is proposed for it</label
      >
    </p>
    <p class="acts">
      <template v-if="job">
        <span role="status">{{ job.message || 'Looking at the light of every place…' }}</span>
        <progress :value="job.progress" max="1" aria-label="Progress of the design" />
        <button type="button" class="link" @click="cancel">Cancel</button>
      </template>
      <template v-else>
        <button type="button" class="button strong" @click="design">Design it</button>
        <button type="button" class="link" @click="emit('close')">Close</button>
      </template>
      <span v-if="fault" class="bad">{{ fault }}</span>
    </p>
  </div>
</template>
<style scoped>
.target {
  border: 1px solid var(--rule-strong);
  border-radius: 8px;
  background: var(--sheet);
  padding: 10px 14px;
  display: grid;
  gap: 8px;
}
.serif {
  font-size: 15.5px;
  line-height: 1.8;
}
.acts {
  align-items: center;
}
.with {
  font: 12.5px var(--sans);
  white-space: nowrap;
}
</style>
