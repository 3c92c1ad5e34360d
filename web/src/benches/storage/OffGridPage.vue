<script setup lang="ts">
import { computed } from 'vue'
import { api } from '@/api/client'
import { patchAt } from '@/api/mergePatch'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import MonthBars from '@/charts/MonthBars.vue'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useWorking } from '@/stores/useWorking'
import { number, percent } from '@/theme/format'
import PlaceWorksheet from './PlaceWorksheet.vue'
import SizeMap from './SizeMap.vue'

/** A place without a grid: the worksheet as a derivation, and beside it what the same system does in every hour, over all sizes. */
const store = useSchemeStore()
const working = useWorking()
const AT = '/storage/off_grid'
const { answer, fault } = useAnswer(
  () => (store.shown && store.evaluation?.headline ? `${store.shown.id} ${store.shown.revision}` : null),
  (signal) => api.offGrid(store.shown!.id, signal),
)
/** The last run over the years of the record, which is begun on the Weather bench. */
const { answer: record } = useAnswer(
  () => (store.shown ? `${store.shown.id}` : null),
  (signal) => api.latestJob(store.shown!.id, 'years', signal),
)
const generator = computed(() => store.at(`${AT}/generator`) as { quiet?: string } | undefined)
/** Array and battery together; where the modules have places on the scene, the battery alone. */
const take = (array: number, energy: number) =>
  answer.value!.is_laid ? store.act('size-battery', { energy }) : store.act('size-system', { array, energy })
</script>
<template>
  <section class="place">
    <p v-if="fault" class="soft">{{ fault }}</p>
    <div v-if="answer" class="two">
      <div>
        <PlaceWorksheet :answer="answer" :at="AT" />
        <p class="said">
          <button v-if="!generator" type="button" class="link" @click="store.edit(patchAt(`${AT}/generator`, {}))">
            Add a generator
          </button>
          <template v-else
            >A generator of <BriefNumber :pointer="`${AT}/generator/power`" label="Power of the generator" /> starts at
            <BriefNumber :pointer="`${AT}/generator/start`" label="Starts at a charge of" /> and stops at
            <BriefNumber :pointer="`${AT}/generator/stop`" label="Stops at a charge of" />, with at least
            <BriefNumber :pointer="`${AT}/generator/least`" label="Least load" /> of its power; quiet at
            <BriefText
              :value="generator.quiet ?? ''"
              label="Quiet hours, such as 22-7"
              @change="store.edit(patchAt(`${AT}/generator/quiet`, $event || null))"
            />.
            <button type="button" class="link" @click="store.edit(patchAt(`${AT}/generator`, null))">
              Remove it
            </button></template
          >
        </p>
      </div>
      <div>
        <p class="head serif">
          Share of the energy that is missing in a year{{ generator ? ', without the generator' : '' }}
        </p>
        <SizeMap :answer="answer" @take="take" />
        <p class="said">
          At most <BriefNumber :pointer="`${AT}/accepted_loss`" label="Share of the energy that may be missing" /> may
          be missing. {{ answer.words }}
          <button
            v-if="answer.cheapest"
            type="button"
            class="link"
            @click="take(answer.cheapest.array, answer.cheapest.battery)"
          >
            {{ answer.is_laid ? 'Take the battery' : 'Take it' }}
          </button>
        </p>
        <p class="said serif">
          Yours leaves
          <button type="button" class="go" @click="working.show('dark_hours')">
            {{ number(answer.proof.dark_hours) }} hours
          </button>
          dark, {{ number(answer.proof.longest_gap) }} h at a stretch;
          <button type="button" class="go" @click="working.show('lost_load')">
            {{ percent(answer.proof.loss_of_load, 2) }}
          </button>
          of the energy is missing, and {{ number(answer.proof.unused) }} kWh of the sun are not used. The charge is
          {{ percent(answer.proof.mean_charge, 0) }} in the mean, {{ percent(answer.proof.lowest, 0) }} at the lowest.
          <template v-if="answer.proof.generator_hours"
            >The generator runs {{ number(answer.proof.generator_hours) }} h in
            {{ number(answer.proof.generator_starts) }} starts and takes
            <button type="button" class="go" @click="working.show('fuel')">{{ number(answer.proof.fuel) }} l</button
            >. </template
          >{{ answer.proof.words }}
          <template v-if="record?.result?.dark_words"
            >{{ record.result.dark_words }}
            <template v-if="record.result.revision !== store.saved?.revision"
              >That is of an earlier state of the scheme.
            </template>
          </template>
          <template v-if="answer.served_cost !== null"
            >A kWh that is served costs
            <button type="button" class="go" @click="working.show('levelised_cost')">
              {{ number(answer.served_cost, 2) }} {{ answer.currency }}</button
            >, all years together.</template
          >
        </p>
        <MonthBars
          v-if="answer.proof.dark_hours"
          :values="answer.proof.dark_by_month"
          unit="h"
          label="Dark hours by month"
          :height="74"
        />
      </div>
    </div>
  </section>
</template>
<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.1fr);
  gap: 26px;
}
.two > div {
  display: grid;
  gap: 6px;
  align-content: start;
}
.two > div {
  min-width: 0;
}
.said {
  font-size: 13px;
  line-height: 1.6;
}
.head {
  font-weight: 600;
  font-size: 13.5px;
}
.go {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
@media (max-width: 1150px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
