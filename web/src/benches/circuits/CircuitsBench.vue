<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type VoltageAnswer } from '@/api/client'
import { useDesign } from '@/stores/design'
import { useLibrary } from '@/stores/library'
import { freshId, useScheme } from '@/stores/useScheme'
import { number, percent } from '@/theme/format'
import InverterComb from './InverterComb.vue'
import VoltageRows from './VoltageRows.vue'
import PartPicker from '@/parts/PartPicker.vue'

const design = useDesign()
const library = useLibrary()
const scheme = useScheme()
const route = useRoute()
const router = useRouter()
const picked = ref('')
const picking = ref(false)
const volts = shallowRef<VoltageAnswer | null>(null)
const subarray = computed(() => scheme.subarrays.value.find((s) => s.id === picked.value) ?? scheme.subarrays.value[0])

watch(
  [() => design.saved?.id, () => design.saved?.revision, () => subarray.value?.id],
  async () => {
    const id = subarray.value?.id
    if (!design.saved || !id || !design.evaluation?.headline) {
      volts.value = null
      return
    }
    try {
      const answer = await api.voltages(design.saved.id, id)
      if (answer.subarray === subarray.value?.id) volts.value = answer
    } catch {
      /* a string still on its way to the server; the next revision asks again */
    }
  },
  { immediate: true },
)
const total = computed(() => {
  const modules = scheme.sets.value.reduce(
    (sum, set) => sum + set.count * set.strings.reduce((n, s) => n + s.modules_per_string * s.strings, 0),
    0,
  )
  const strings = scheme.sets.value.reduce(
    (sum, set) => sum + set.count * set.strings.reduce((n, s) => n + s.strings, 0),
    0,
  )
  const inverters = scheme.sets.value.reduce((sum, set) => sum + set.count, 0)
  return { modules, strings, inverters }
})
const choose = (length: number) => {
  if (subarray.value) design.edit({ subarrays: { [subarray.value.id]: { modules_per_string: length } } })
}
/** A part that was found by name: `part=module:veltrane-430` in the address opens the library at it. */
const found = computed(() => {
  const [kind, id] = String(route.query.part ?? '').split(':')
  const part = kind === 'module' ? library.modules.get(id!) : kind === 'inverter' ? library.inverters.get(id!) : null
  return part ? { kind: kind as 'module' | 'inverter', name: `${part.maker} ${part.name}` } : null
})
const leaveFound = () => void router.replace({ query: { ...route.query, part: undefined } })
function takeFound(id: string) {
  const string = subarray.value
  if (string && found.value?.kind === 'module') design.edit({ subarrays: { [string.id]: { module: id } } })
  else if (string) design.edit({ inverters: { [string.inverter]: { model: id } } })
  leaveFound()
}
function addInverter(model: string) {
  picking.value = false
  const id = freshId(
    'inverter',
    scheme.sets.value.map((s) => s.id),
  )
  const surface = scheme.surfaces.value[0]?.id
  const like = scheme.subarrays.value[0]
  const string = freshId(
    'strings',
    scheme.subarrays.value.map((s) => s.id),
  )
  design.edit({
    inverters: { [id]: { model } },
    ...(surface
      ? {
          subarrays: {
            [string]: {
              surface,
              module: like?.module ?? library.parts.modules.find((m) => m.id === 'veltrane-430')!.id,
              modules_per_string: like?.modules_per_string ?? 12,
              inverter: id,
            },
          },
        }
      : {}),
  })
}
</script>
<template>
  <div class="bench">
    <header>
      <h2>Circuits</h2>
      <span v-if="subarray" class="soft head"
        >Does it fit? The voltages of <b>{{ subarray.id }}</b> on tracker {{ subarray.tracker }}; pick a row to change
        the length.</span
      >
    </header>
    <VoltageRows v-if="volts && subarray" :data="volts" :chosen="subarray.modules_per_string" @choose="choose" />
    <p v-else-if="scheme.sets.value.length" class="soft empty">The voltages appear once the scheme can be simulated.</p>
    <p class="all">
      <b>In all:</b> {{ number(total.strings) }} string{{ total.strings === 1 ? '' : 's' }},
      {{ number(total.modules) }} modules<template v-if="design.evaluation?.headline"
        >, {{ number(design.evaluation.headline.dc_power, 2) }} kW on {{ number(total.inverters) }} inverter{{
          total.inverters === 1 ? '' : 's'
        }}
        of {{ number(design.evaluation.headline.ac_power, 1) }} kW together;
        {{ percent(design.evaluation.headline.clipped_share) }} of the year's DC energy is clipped</template
      >.
    </p>
    <InverterComb
      v-for="set in scheme.sets.value"
      :key="set.id"
      :set="set"
      :picked="subarray?.id ?? ''"
      @pick="picked = $event"
    />
    <p class="add"><button type="button" class="button" @click="picking = true">Add an inverter…</button></p>
    <PartPicker v-if="picking" v-model="picking" kind="inverter" chosen="" @choose="addInverter" />
    <PartPicker
      v-if="found"
      :key="found.name"
      :model-value="true"
      :kind="found.kind"
      :chosen="
        (found.kind === 'module'
          ? subarray?.module
          : scheme.sets.value.find((s) => s.id === subarray?.inverter)?.model) ?? ''
      "
      :find="found.name"
      @choose="takeFound"
      @update:model-value="leaveFound"
    />
  </div>
</template>
<style scoped>
.head {
  font-size: 12px;
}
.all {
  margin: 8px 0 10px;
  font-size: 13px;
}
.empty {
  padding: 30px 0;
  text-align: center;
}
.add {
  border-top: 1px solid var(--rule);
  padding-top: 12px;
}
</style>
