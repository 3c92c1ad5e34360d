<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useNewest } from '@/stores/useNewest'
import { useLibrary } from '@/stores/library'
import { useShadeByHand } from '@/stores/useShadeByHand'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { energyText, number, quantity } from '@/theme/format'
import type { Thing } from './useThings'

/** What the picked thing costs: the year with it gone, lower, leafless, or grown for ten years. Nothing is changed by asking. */
const props = defineProps<{ thing: Thing; height: number | undefined; carries: boolean }>()
const store = useSchemeStore()
const library = useLibrary()
const measured = useShadeByHand()
const found = ref<{ label: string; energy: number }[]>([])
const isAsking = ref(false)
const fault = ref('')
const { newest, giveUp } = useNewest()

const cases = computed<[string, JsonObject][]>(() => {
  const { kind, id, values } = props.thing
  const on = (patch: JsonObject | null) => ({ scene: { [kind]: { [id]: patch } } }) as JsonObject
  const list: [string, JsonObject][] = []
  if (!props.carries && kind !== 'buildings') list.push(['gone', on(null)])
  const height = props.height
  if (height && height > 1.2) {
    const by = height > 6 ? 2 : height > 3 ? 1 : 0.5
    list.push([`${quantity(by, 'm', by % 1 ? 1 : 0)} lower`, on({ height: Math.round((height - by) * 100) / 100 })])
  }
  if (kind === 'trees') {
    if (!values.is_evergreen && !values.light_by_month)
      list.push([
        'bare all year',
        on({ light_in_leaf: Number(values.light_bare ?? library.field(`/scene/trees/${id}/light_bare`)?.default) }),
      ])
    list.push([
      'in ten years',
      { scene: { years_ahead: Number((store.document.scene as JsonObject | undefined)?.years_ahead ?? 0) + 10 } },
    ])
  }
  return list
})
watch(
  () => [props.thing.id, store.saved?.revision],
  () => {
    giveUp()
    found.value = []
    isAsking.value = false
  },
)
const value = computed(() =>
  Number(store.at('/money/energy_value') ?? library.field('/money/energy_value')?.default ?? 0),
)
const currency = computed(() => String(store.at('/money/currency') ?? library.field('/money/currency')?.default ?? ''))
async function ask() {
  isAsking.value = true
  fault.value = ''
  try {
    for (const [label, patch] of cases.value) {
      const answer = await newest((signal) => api.preview(store.saved!.id, { patch, rule: '', pointer: '' }, signal))
      if (!answer) return
      found.value = [...found.value, { label, energy: answer.energy - answer.energy_before }]
    }
  } catch (error) {
    fault.value = (error as Error).message
  }
  isAsking.value = false
}
const signed = (energy: number) => `${energy < 0 ? '−' : '+'}${energyText(Math.abs(energy))}`
</script>
<template>
  <p v-if="measured && cases.length" class="soft what">
    <i>What if…</i> is off: the year counts {{ measured }} in place of this scene.
  </p>
  <p v-else-if="cases.length && store.evaluation?.headline" class="soft what">
    <button v-if="!found.length" type="button" class="link" :disabled="isAsking" @click="ask">What if…</button>
    <template v-for="(one, i) in found" :key="one.label"
      >{{ i ? ', ' : 'A year: ' }}{{ one.label }}
      <b :class="one.energy < 0 ? 'bad' : ''">{{ signed(one.energy) }}</b><template v-if="value">
        ({{ one.energy < 0 ? '−' : '+' }}{{ number(Math.abs(one.energy) * value) }} {{ currency }})</template
      ></template
    ><template v-if="found.length">.</template>
    <span v-if="isAsking" role="status"> simulating…</span>
    <span v-if="fault" class="bad">{{ fault }}</span>
  </p>
</template>
<style scoped>
.what {
  margin: 0;
  font-size: 12px;
}
</style>
