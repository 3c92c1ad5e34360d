<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import type { SetView } from '@/stores/schemeLists'
import BriefNumber from '@/brief/BriefNumber.vue'
import PartChoice from '@/parts/PartChoice.vue'
import { number } from '@/theme/format'
import { useNotice } from '@/notice/useNotice'
import StringRow from './StringRow.vue'

/** One inverter of a set and what hangs on its trackers, as combs. */
const props = defineProps<{ set: SetView; picked: string }>()
const emit = defineEmits<{ pick: [id: string] }>()
const store = useSchemeStore()
const library = useLibrary()
const { say } = useNotice()
/** As the core tells it from the datasheets of the design; none where the part is unknown. */
const line = computed(() => store.circuits.inverters[props.set.id])
const inputOf = (tracker: number) => line.value?.inputs.find((input) => input.number === tracker)
const trackers = computed(() =>
  Array.from({ length: Math.max(line.value?.trackers ?? 1, ...props.set.strings.map((s) => s.tracker)) }, (_, i) => ({
    number: i + 1,
    strings: props.set.strings.filter((s) => s.tracker === i + 1),
  })),
)
const used = computed(() => trackers.value.filter((t) => t.strings.length))
const firstFree = computed(() => trackers.value.find((t) => !t.strings.length))
async function add(tracker: number) {
  const before = new Set(store.subarrays.map((string) => string.id))
  await store.act('add-strings', { inverter: props.set.id, tracker, module: library.parts.modules[0]?.id ?? null })
  const added = store.subarrays.find((string) => !before.has(string.id))
  if (added) emit('pick', added.id)
}
async function removeSet() {
  await store.act('delete-inverter', { inverter: props.set.id })
  say('Inverter and its strings deleted.', { label: 'Undo', run: () => void store.undo() })
}
</script>
<template>
  <section class="set">
    <header>
      <h3>
        <PartChoice
          v-if="set.model"
          kind="inverter"
          :pointers="[`/inverters/${set.id}/model`]"
          :value="set.model"
          :label="`Inverter ${set.letter}`"
        />
        <router-link v-else class="link" :to="{ params: { ...$route.params, bench: 'storage' } }">{{
          line?.title ?? set.name
        }}</router-link>
      </h3>
      <span class="soft"
        >×
        <BriefNumber :pointer="`/inverters/${set.id}/count`" :label="`Number of inverters ${set.letter}`" unit="" />
        identical</span
      >
      <span v-if="line" class="soft totals"
        ><b>each:</b> {{ number(line.modules) }} modules, {{ number(line.dc_power, 2) }} kW DC on
        {{ number(line.ac_power, line.ac_power < 10 ? 1 : 0) }} kW
        {{ set.model ? 'AC, DC/AC' : 'to the battery, ratio' }} {{ number(line.dc_ac_ratio, 2) }}</span
      >
      <span v-else class="care totals"
        >△ its datasheet, or that of its modules, is in neither the scheme nor the library</span
      >
      <span class="soft"
        >air
        <BriefNumber :pointer="`/inverters/${set.id}/warmer`" :label="`Air around inverter ${set.letter}`" />
        warmer</span
      >
      <button type="button" class="link out" @click="removeSet">Delete</button>
    </header>
    <div v-for="tracker in used" :key="tracker.number" class="tracker">
      <div class="box">
        <span>tracker</span><b>{{ tracker.number }}</b>
      </div>
      <div class="strings">
        <StringRow
          v-for="string in tracker.strings"
          :key="string.id"
          :string="string"
          :trackers="trackers.length"
          :is-picked="string.id === picked"
          @pick="emit('pick', string.id)"
        />
        <p v-if="inputOf(tracker.number)" class="amps soft" :class="{ bad: inputOf(tracker.number)!.is_over }">
          {{ inputOf(tracker.number)!.is_over ? '△ ' : '' }}{{ number(inputOf(tracker.number)!.current, 1) }} A, maximum
          {{ number(inputOf(tracker.number)!.allowed, 1) }} A
        </p>
      </div>
    </div>
    <p class="adds">
      <button v-if="firstFree" type="button" class="link" @click="add(firstFree.number)">
        + add strings on tracker {{ firstFree.number }}</button
      ><button v-if="used.length" type="button" class="link" @click="add(used.at(-1)!.number)">
        + add parallel strings on tracker {{ used.at(-1)!.number }}
      </button>
    </p>
  </section>
</template>
<style scoped>
.set {
  border-top: 1px solid var(--rule);
  padding: 10px 0 8px;
}
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
}
.totals {
  font-size: 12.5px;
}
.out {
  margin-left: auto;
  font-size: 12px;
}
.tracker {
  display: grid;
  grid-template-columns: 56px 1fr;
  gap: 10px;
  margin-top: 8px;
}
.box {
  border: 1px solid var(--ink);
  border-radius: 5px;
  display: grid;
  place-content: center;
  text-align: center;
  font-size: 11px;
  line-height: 1.2;
  background: var(--paper);
  min-height: 38px;
}
.box b {
  font-size: 13px;
}
.amps {
  font-size: 11px;
  padding-left: 6px;
}
.amps.bad {
  color: var(--loss-text);
}
.adds {
  display: flex;
  gap: 18px;
  font-size: 12px;
  margin: 8px 0 0 66px;
}
.strings {
  min-width: 0;
}
</style>
