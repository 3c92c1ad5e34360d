<script setup lang="ts">
import { computed, ref } from 'vue'
import type { MoneyAnswer } from '@/api/client'
import { patchAt } from '@/api/mergePatch'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useWorking } from '@/stores/useWorking'
import { number } from '@/theme/format'

/** What a scheme of rules counts by a table of one's own, beside the simulated year. */
const props = defineProps<{ money: MoneyAnswer }>()
const store = useSchemeStore()
const working = useWorking()
const AT = '/money/yield_table'
const table = computed(() => store.at(AT) as { name?: string; zone?: string } | undefined)
const figure = computed(() => props.money.figures.find((f) => f.key === 'rules_yield'))
const energy = computed(() => store.evaluation?.headline?.energy ?? null)
const field = ref<HTMLInputElement>()
/** A list with several zones waits for the name of one. */
const waiting = ref('')
const zone = ref('')
async function take(text: string, named = '') {
  const before = table.value
  await store.act('take-yield-table', { text, zone: named })
  waiting.value = table.value === before ? text : ''
}
async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const given = input.files?.[0]
  input.value = ''
  if (given) await take(await given.text())
}
const paste = async () => take(await navigator.clipboard.readText())
</script>
<template>
  <div>
    <p class="tools">
      <b class="serif">Yield by rules</b>
      <button type="button" class="link" @click="field?.click()">
        {{ table ? 'Another table…' : 'Take a table…' }}
      </button>
      <button type="button" class="link" @click="paste">Paste one</button>
      <button v-if="table" type="button" class="link" @click="store.edit(patchAt(AT, null))">Delete</button>
      <input
        ref="field"
        class="sr"
        type="file"
        tabindex="-1"
        accept=".csv,.tsv,.txt"
        aria-label="Yield table"
        @change="read"
      />
    </p>
    <p v-if="waiting" class="line">
      Which zone of the list?
      <input v-model="zone" class="blank" aria-label="Zone of the table" @keydown.enter="take(waiting, zone)" />
      <button type="button" class="link" @click="take(waiting, zone)">Take it</button>
    </p>
    <p v-if="table && figure" class="line">
      <BriefText
        :value="table.name ?? ''"
        label="Name of the table"
        @change="store.edit(patchAt(`${AT}/name`, $event || null))"
      /><template v-if="table.zone">, zone {{ table.zone }}</template
      >, with <BriefNumber :pointer="`${AT}/shaded_fields`" label="Fields of the sky that are shaded" /> shaded fields
      of the sky of <BriefNumber :pointer="`${AT}/share_of_field`" label="Share that a shaded field takes" /> each:
      <button type="button" class="go" @click="working.show('rules_yield')">
        {{ figure.value === null ? figure.without : `${number(figure.value)} kWh` }}
      </button>
      by the table, {{ energy === null ? '…' : number(energy) }} kWh simulated.
    </p>
    <p v-else-if="!waiting" class="line soft">
      Where a scheme of rules asks for its own figure: a list of zone, tilt, azimuth and kWh/kW gives it beside the
      simulated one.
    </p>
  </div>
</template>
<style scoped>
.tools {
  display: flex;
  gap: 14px;
  align-items: baseline;
  font-size: 12px;
}
.tools b {
  font-size: 14px;
}
.line {
  font-size: 12.5px;
  line-height: 1.6;
}
.go {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
</style>
