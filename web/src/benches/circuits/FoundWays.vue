<script setup lang="ts">
import { computed } from 'vue'
import type { ProposalLine } from '@/api/client'
import SortHead from '@/tables/SortHead.vue'
import { useSorting } from '@/tables/useSorting'
import { number, percent, signed } from '@/theme/format'
import { sharesText } from './arrangementWords'

/** The ways to connect the modules of a surface as a table, one of which is used. */
const props = defineProps<{
  proposals: ProposalLine[]
  nameOf: (inverter: string) => string
  /** The unit of what was asked for in another way than modules. */
  unit: string | null
  isWhole: boolean
  leavesOver: boolean
}>()
const emit = defineEmits<{ use: [line: ProposalLine] }>()
/** How many of each model a way has. */
const modelsOf = (line: ProposalLine) => {
  const counts = new Map<string, number>()
  for (const share of line.shares) counts.set(share.inverter, (counts.get(share.inverter) ?? 0) + share.count)
  return [...counts]
}
const sorting = useSorting('')
const listed = computed(() => {
  const lines = props.proposals.map((line, i) => ({ line, i }))
  return sorting.sorted(lines, ({ line, i }, column) => {
    if (column === 'ratio') return line.dc_ac_ratio
    if (column === 'energy') return line.energy
    if (column === 'price') return line.price ?? Infinity
    if (column === 'cost') return line.price_a_kwh ?? Infinity
    if (column === 'even') return line.unevenness
    if (column === 'inverter') return props.nameOf(line.inverter)
    if (column === 'left') return line.left_over
    return i
  })
})
const best = computed(() => Math.max(...props.proposals.map((line) => line.energy), 1))
const warns = (line: ProposalLine) => line.hours_outside_window > 0 || line.current > line.maximum_current
</script>
<template>
  <div class="long">
    <table class="ledger" aria-label="Ways to connect the modules">
      <thead>
        <tr>
          <SortHead column="inverter" :sorting="sorting">Inverter</SortHead>
          <th>Strings on each</th>
          <SortHead column="ratio" :sorting="sorting" class="num">DC/AC</SortHead>
          <th class="num">Voc cold <small>[V]</small></th>
          <th class="num">Vmp hot to cold <small>[V]</small></th>
          <th class="num">Current <small>[A]</small></th>
          <th class="num">Clipped</th>
          <SortHead column="energy" :sorting="sorting" class="num">Energy [kWh]</SortHead>
          <SortHead column="price" :sorting="sorting" class="num">Price</SortHead>
          <SortHead column="cost" :sorting="sorting" class="num">a kWh</SortHead>
          <SortHead column="even" :sorting="sorting" class="num">Uneven</SortHead>
          <th v-if="unit !== null" class="num">
            Over <small>[{{ unit }}]</small>
          </th>
          <SortHead v-if="leavesOver" column="left" :sorting="sorting" class="num">Left over</SortHead>
          <th scope="col"><span class="sr">Use</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ line, i } in listed" :key="i">
          <td>
            <b v-for="[id, count] in modelsOf(line)" :key="id" class="share"
              >{{ count > 1 ? `${count} × ` : '' }}{{ nameOf(id) }}</b
            >
          </td>
          <td>
            <span v-for="text in sharesText(line)" :key="text" class="share">{{ text }}</span>
          </td>
          <td class="num">{{ number(line.dc_ac_ratio, 2) }}</td>
          <td class="num">
            {{ number(line.cold_voc) }} <small class="soft">of {{ number(line.maximum_voltage) }}</small>
          </td>
          <td class="num">
            {{ number(line.hot_vmp) }} to {{ number(line.cold_vmp) }}
            <small class="soft">in {{ number(line.mppt_minimum) }} to {{ number(line.mppt_maximum) }}</small>
            <small v-if="line.hours_outside_window" class="care share"
              >△ {{ number(line.hours_outside_window) }} h outside</small
            >
          </td>
          <td class="num" :class="{ care: line.current > line.maximum_current }">
            {{ line.current > line.maximum_current ? '△ ' : '' }}{{ number(line.current, 1) }}
            <small class="soft">of {{ number(line.maximum_current, 1) }}</small>
          </td>
          <td class="num">{{ percent(line.clipped_share) }}</td>
          <td class="num">
            <b>{{ number(line.energy) }}</b>
            <small class="soft">{{ line.energy < best ? ` ${percent(line.energy / best - 1)}` : ' best' }}</small>
          </td>
          <td class="num">{{ line.price === null ? '' : number(line.price) }}</td>
          <td class="num">{{ line.price_a_kwh === null ? '' : number(line.price_a_kwh, 3) }}</td>
          <td class="num">{{ line.unevenness ? percent(line.unevenness, 0) : 'even' }}</td>
          <td v-if="unit !== null" class="num" :class="{ care: line.short > 0 }">
            {{ signed(-line.short, isWhole ? 0 : 1) }}
          </td>
          <td v-if="leavesOver" class="num">{{ line.left_over || '' }}</td>
          <td>
            <button
              type="button"
              class="link"
              data-acts
              :aria-label="`Use ${nameOf(line.inverter)} with ${sharesText(line).join('; ')}`"
              :title="
                warns(line) && line.hours_outside_window
                  ? `${number(line.hours_outside_window)} h of the year outside the MPP window`
                  : undefined
              "
              @click="emit('use', line)"
            >
              Use
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
<style scoped>
.long {
  max-height: 44vh;
  overflow: auto;
}
.ledger th,
.ledger td {
  padding: 4px 10px 4px 0;
  white-space: nowrap;
}
.share {
  display: block;
}
</style>
