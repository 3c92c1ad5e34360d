<script setup lang="ts">
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import { patchAt } from '@/api/mergePatch'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import { useAnswer } from '@/stores/useAnswer'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useWorking } from '@/stores/useWorking'
import { MONTHS, number, percent, plain } from '@/theme/format'
import { useMoment } from '@/tideline/useMoment'
import DayFlows from './DayFlows.vue'
import OffGridPage from './OffGridPage.vue'
import SizeCurve from './SizeCurve.vue'
import YearRiver from './YearRiver.vue'

/** What a battery does, hour by hour, and what one of another size would do. */
const store = useSchemeStore()
const library = useLibrary()
const working = useWorking()
const moment = useMoment()
const isOneDay = ref(false)
const key = computed(() =>
  store.shown && store.evaluation?.headline ? `${store.shown.id} ${store.shown.revision}` : null,
)
const { answer, fault } = useAnswer(
  () => key.value,
  (signal) => api.storage(store.shown!.id, signal),
)
const { answer: day } = useAnswer(
  () => (key.value && answer.value?.battery ? `${key.value} ${moment.interval.value}` : null),
  (signal) => api.storageDay(store.shown!.id, moment.interval.value, signal),
)
const isByPower = ref(false)
const { answer: powers } = useAnswer(
  () => (key.value && isByPower.value && answer.value?.battery ? `${key.value} powers` : null),
  (signal) => api.storagePowers(store.shown!.id, signal),
)
const bank = computed(() => store.at('/storage/bank') as { model?: string; inverter?: string } | undefined)
const peak = computed(() => store.at('/storage/peak') as { limit?: number } | undefined)
const month = computed(() => moment.timeOf(moment.interval.value).getUTCMonth())
const flows = computed(() => (isOneDay.value ? day.value?.flows : answer.value?.months[month.value]))
const dayWords = computed(() => moment.words(moment.interval.value).replace(/ \d\d:\d\d$/, ''))
const batteries = computed(() => library.parts.batteries ?? [])
const choose = (event: Event) => {
  const model = (event.target as HTMLSelectElement).value
  void store.act('take-battery', { model: model || null })
}
const isOnBus = computed(() =>
  Object.values((store.at('/inverters') ?? {}) as Record<string, { controller?: string }>).some(
    (set) => set.controller,
  ),
)
const couple = (event: Event) =>
  store.edit(patchAt('/storage/bank/inverter', (event.target as HTMLSelectElement).value || null))
const isOffGrid = computed(() => store.at('/storage/off_grid') !== undefined)
const size = (energy: number) => store.act('size-battery', { energy })
</script>
<template>
  <div class="bench">
    <header>
      <h2>Storage</h2>
      <div v-if="answer?.battery" class="tools">
        <button type="button" class="link" :aria-pressed="!isOneDay" @click="isOneDay = false">
          Average day of {{ MONTHS[month] }}
        </button>
        <button type="button" class="link" :aria-pressed="isOneDay" @click="isOneDay = true">{{ dayWords }}</button>
        <button
          type="button"
          class="link"
          :aria-pressed="isOffGrid"
          @click="store.edit({ storage: { off_grid: isOffGrid ? null : {} } })"
        >
          No grid
        </button>
        <button type="button" class="link" @click="store.edit({ storage: { bank: null } })">Remove</button>
      </div>
    </header>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <p v-if="!bank" class="said serif">
      No battery yet. <button type="button" class="button" @click="store.act('take-battery', {})">Add a battery</button>
      <template v-if="answer?.proposal">
        {{ answer.proposal.words }}
        <button v-if="answer.proposal.energy" type="button" class="link" @click="size(answer.proposal.energy)">
          Take {{ number(answer.proposal.energy, 1) }} kWh
        </button>
      </template>
    </p>
    <template v-else>
      <p class="said serif">
        <select class="blank" :value="bank.model ?? ''" aria-label="Battery" @change="choose">
          <option value="">A battery of a size</option>
          <option v-for="b in batteries" :key="b.id" :value="b.id">
            {{ b.maker }} {{ b.name }}, {{ number(b.capacity / 1000, 1) }} kWh
          </option></select
        ><template v-if="bank.model"
          >, <BriefNumber pointer="/storage/bank/parallel" label="Batteries in parallel" /> in parallel and
          <BriefNumber pointer="/storage/bank/series" label="Batteries in series" /> in series<template
            v-if="answer?.battery"
            >: <b>{{ number(answer.battery.energy, 1) }} kWh</b
            ><template v-if="answer.battery.charge !== null"
              >, {{ number(answer.battery.charge) }} Ah at {{ number(answer.battery.voltage ?? 0, 1) }} V</template
            >, {{ plain(answer.battery.power) }} kW</template
          ></template
        ><template v-else
          >: <BriefNumber pointer="/storage/bank/energy" label="Usable energy of the battery" />,
          <template v-if="answer?.battery">{{ plain(answer.battery.power) }} kW, </template>at a price of
          <BriefNumber pointer="/storage/bank/price" label="Price of a kWh" unit="" /> {{ answer?.currency }} a
          kWh</template
        ><template v-if="isOnBus">, on the bus that the charge controllers feed</template
        ><template v-else
          >,
          <select class="blank" :value="bank.inverter ?? ''" aria-label="Coupled to" @change="couple">
            <option value="">coupled to the AC side by its own inverter</option>
            <option v-for="(name, id) in store.evaluation?.names?.inverters" :key="id" :value="id">
              on the DC side of {{ name }}
            </option>
          </select></template
        ><template v-if="answer?.battery?.of_clipped != null"
          >, where it stores
          <button type="button" class="go" @click="working.show('clipped_stored')">
            {{ number(answer.battery.of_clipped) }} kWh
          </button>
          a year that would be clipped</template
        ><template v-if="isOffGrid">. There is no grid.</template
        ><template v-else
          >. It serves <BriefChoice pointer="/storage/serves" label="It serves" /><template v-if="peak"
            >, after it has kept imports under
            <template v-if="peak.limit === undefined"
              >the least of each month, with knowledge of
              <BriefChoice pointer="/storage/peak/known" label="What the least is found from" />
              <button
                type="button"
                class="link"
                @click="store.edit(patchAt('/storage/peak/limit', Math.ceil(answer?.battery?.peak ?? 1)))"
              >
                set a limit
              </button></template
            ><template v-else
              ><BriefNumber pointer="/storage/peak/limit" label="Highest import" />
              <button type="button" class="link" @click="store.edit(patchAt('/storage/peak/limit', null))">
                the least of each month
              </button></template
            >
            <button
              type="button"
              class="link"
              aria-label="Do not serve peaks"
              @click="store.edit({ storage: { peak: null } })"
            >
              ×
            </button></template
          ><template v-else>
            <button type="button" class="link" @click="store.edit({ storage: { peak: {} } })">
              and peaks first
            </button></template
          >; <BriefNumber pointer="/storage/reserve" label="Kept for an outage" /> stays for an outage. It is charged
          <select
            class="blank"
            :value="store.at('/storage/from_grid') === false ? 'sun' : 'grid'"
            aria-label="Charged from"
            @change="
              store.edit(
                patchAt('/storage/from_grid', ($event.target as HTMLSelectElement).value === 'sun' ? false : null),
              )
            "
          >
            <option value="grid">from the grid too, where peaks or prices ask for it</option>
            <option value="sun">by the sun alone</option></select
          >.</template
        >
      </p>
      <p v-if="answer?.battery" class="said serif">
        In a year it is cycled
        <button type="button" class="go" @click="working.show('battery_cycles')">
          {{ number(answer.battery.cycles) }} times</button
        >, gives {{ number(answer.year.battery_use) }} kWh back and loses
        <button type="button" class="go" @click="working.show('battery_lost')">
          {{ number(answer.year.lost) }} kWh</button
        >; it lasts about
        <button type="button" class="go" @click="working.show('battery_life')">
          {{ number(answer.battery.life, 1) }} years</button
        >, with <BriefNumber pointer="/storage/bank/worn" label="Capacity left at the end of its life" /> of its
        capacity left then<template v-if="!isOffGrid"
          >. The highest import is
          <button type="button" class="go" @click="working.show('peak_import')">
            {{ plain(answer.battery.peak) }} kW
          </button></template
        ><template v-if="!isOffGrid && day?.outage_hours != null"
          >. If the grid failed at {{ moment.words(moment.interval.value) }}, everything would run for
          <b>{{ day.outage_is_longer ? 'more than two weeks' : `${number(day.outage_hours, 1)} h` }}</b></template
        >.
      </p>
      <DayFlows
        v-if="flows && answer?.battery"
        :flows="flows"
        :energy="answer.battery.energy"
        :is-off-grid="isOffGrid"
        :title="isOneDay ? dayWords : `average day of ${MONTHS[month]}`"
      />
    </template>
    <OffGridPage v-if="isOffGrid && answer?.has_demand && answer.battery" />
    <template v-else-if="answer?.has_demand">
      <SizeCurve
        v-model:is-by-power="isByPower"
        :answer="answer"
        :powers="powers"
        @size="size"
        @power="store.edit(patchAt('/storage/bank/power', Number($event.toFixed(2))))"
      />
      <p v-if="bank && answer.proposal" class="said serif">
        {{ answer.proposal.words }}
        <button v-if="answer.proposal.energy" type="button" class="link" @click="size(answer.proposal.energy)">
          Take {{ number(answer.proposal.energy, 1) }} kWh
        </button>
        One kWh more would bring {{ plain(-answer.next_kwh.imported!) }} kWh less from the grid a year<template
          v-if="answer.next_kwh.saving !== undefined"
          >, {{ number(answer.next_kwh.saving, 2) }} {{ answer.currency }}</template
        >.
      </p>
      <YearRiver v-if="answer.battery" :flows="answer.year" />
    </template>
    <p v-else-if="answer" class="soft empty">
      A battery needs a demand:
      <router-link class="link" :to="{ params: { ...$route.params, bench: 'demand' } }"
        >say who uses the energy</router-link
      >, and the sizes are compared here.
    </p>
    <p v-else-if="!store.evaluation?.headline" class="soft empty">
      Storage is drawn once the scheme has weather and modules.
    </p>
    <p v-if="answer?.has_demand && !isOffGrid" class="soft foot">
      Self-sufficiency {{ percent(answer.sizes[0]!.self_sufficiency) }} without a battery.
    </p>
  </div>
</template>
<style scoped>
.said {
  font-size: 14px;
  line-height: 1.6;
  margin: 2px 0 6px;
}
.said .link {
  font: 12px var(--sans);
  margin-left: 4px;
}
.go {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
.foot {
  font-size: 12px;
}
</style>
