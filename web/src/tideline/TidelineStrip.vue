<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { RAMP_GRADIENT } from '@/theme/ramp'
import { MONTHS, number, plain } from '@/theme/format'
import { useMoment } from './useMoment'
import { useTidelineYear } from './useTidelineYear'
import { clock } from './yearFigures'
import MomentPanel from './MomentPanel.vue'
import TidelineCanvas from './TidelineCanvas.vue'

/** The year in words on both sides of its picture: the moment and quantity picked, and what the day or range gives. */
const store = useSchemeStore()
const route = useRoute()
const moment = useMoment()
const { values, daylight, info, bounds, sunTimes, day, dayEnergy, range, words, fault } = useTidelineYear()
const panel = ref(false)
const year = computed(() => ({
  values: values.value,
  daylight: daylight.value,
  sunTimes: sunTimes.value,
  bounds: bounds.value,
  always: info.value?.is_all_day ?? false,
}))
const isPower = computed(() => info.value?.unit === 'W')
const legend = computed(() => {
  const { low, high } = bounds.value
  if (isPower.value) return [number(low / 1000), `${plain(high / 1000)} kW`]
  return [number(low), `${number(high, high < 5 ? 1 : 0)} ${info.value?.unit ?? ''}`]
})
</script>
<template>
  <footer class="tideline" aria-label="Tideline">
    <div class="left">
      <select
        class="blank pick"
        :value="moment.quantity.value"
        aria-label="Quantity of the Tideline"
        @change="moment.show(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="q in store.quantities" :key="q.key" :value="q.key">{{ q.title }}</option>
      </select>
      <span>{{ moment.words(moment.interval.value) }}</span>
      <button
        type="button"
        class="value"
        :style="{ color: `var(--${info?.colour ?? 'current'}-text)` }"
        :aria-expanded="panel"
        title="All values at this hour"
        @click="panel = !panel"
      >
        {{ words || '–' }}
      </button>
      <router-link
        v-if="route.params.bench !== 'hours'"
        class="link"
        :to="{
          name: 'bench',
          params: { ...route.params, bench: 'hours' },
          query: { ...route.query, plot: [...new Set(['delivered', 'poa', moment.quantity.value])].join(',') },
        }"
        >Plot hourly values</router-link
      >
    </div>
    <div class="strip">
      <TidelineCanvas :year="year" :words="`${info?.title ?? ''} ${words}`" @open="panel = !panel" />
      <p v-if="fault" class="bad fault">{{ fault }}</p>
      <p v-else-if="!store.evaluation?.headline" class="soft fault">
        The year appears here once the scheme has weather and modules.
      </p>
      <div class="months" aria-hidden="true">
        <span v-for="month in MONTHS" :key="month">{{ month }}</span>
      </div>
    </div>
    <div class="right soft">
      <template v-if="range"
        ><b>{{ range.days }} days</b><span>{{ number(range.energy) }} kWh</span
        ><button type="button" class="link" @click="moment.clearRange()">Whole year</button></template
      >
      <template v-else-if="sunTimes"
        ><span>Sun {{ clock(sunTimes.rise[day]!) }} to {{ clock(sunTimes.set[day]!) }}</span
        ><span>Day {{ number(dayEnergy, dayEnergy < 10 ? 1 : 0) }} kWh</span></template
      >
      <div class="legend">
        <i :style="{ background: RAMP_GRADIENT }" /><span>{{ legend[0] }}</span
        ><span>{{ legend[1] }}</span>
      </div>
    </div>
    <MomentPanel
      v-if="panel"
      :interval="moment.interval.value"
      :title="moment.words(moment.interval.value)"
      @close="panel = false"
    />
  </footer>
</template>
<style scoped>
.tideline {
  grid-column: 1 / -1;
  grid-row: 3;
  border-top: 1px solid var(--rule);
  display: grid;
  grid-template-columns: 158px minmax(0, 1fr) 138px;
  position: relative;
}
.left,
.right {
  padding: 10px 0 0 20px;
  font-size: 12px;
  display: grid;
  align-content: start;
  gap: 3px;
}
.right {
  padding: 10px 12px 0 14px;
}
.left {
  color: var(--soft);
  justify-items: start;
}
.left .link {
  font-size: 11.5px;
}
.pick {
  color: var(--ink);
  max-width: 132px;
}
.value {
  font-weight: 600;
  font-size: 16px;
  justify-self: start;
  border-bottom: 1.5px dotted var(--haze);
}
.strip {
  position: relative;
  min-width: 0;
}
.months {
  display: grid;
  grid-template-columns: repeat(12, 1fr);
  font-size: 11px;
  color: var(--soft);
  line-height: 17px;
  padding-left: 3px;
}
.fault {
  position: absolute;
  inset: 40px 0 auto;
  text-align: center;
}
.legend {
  display: grid;
  grid-template-columns: 1fr auto;
  margin-top: 4px;
  font-size: 11px;
}
.legend i {
  grid-column: 1 / -1;
  height: 7px;
  border-radius: 4px;
}
</style>
