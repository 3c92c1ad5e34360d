<script setup lang="ts">
import { computed, ref } from 'vue'
import type { HorizonEffectAnswer, ObstaclesAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import MonthlyValues from '@/brief/MonthlyValues.vue'
import { azimuthWords, energyText, number, percent } from '@/theme/format'
import { readPairs } from './azimuths'
import type { ObstacleView } from './useObstacles'

/** The obstacles by what each costs, and all about the picked one. */
const props = defineProps<{
  obstacles: ObstacleView[]
  picked: string
  effect: HorizonEffectAnswer | null
  lines: ObstaclesAnswer | null
}>()
const emit = defineEmits<{
  pick: [id: string]
  add: [kind: 'box' | 'tree' | 'pole' | 'outline']
  remove: [id: string]
}>()
const store = useSchemeStore()
const one = computed(() => props.obstacles.find((o) => o.id === props.picked))
const at = (field: string) => `/site/obstacles/${props.picked}/${field}`
const edit = (patch: JsonObject) => store.edit({ site: { obstacles: { [props.picked]: patch } } })
const costOf = (id: string) => props.effect?.obstacles[id] ?? null
/** The dearest first: which tree to cut. */
const ranked = computed(() =>
  props.obstacles.toSorted((a, b) => (costOf(b.id)?.irradiation ?? 0) - (costOf(a.id)?.irradiation ?? 0)),
)
const fault = ref('')
function takeOutline(event: Event) {
  const read = readPairs((event.target as HTMLTextAreaElement).value, 'north')
  fault.value = read.fault || (read.points.length < 2 ? 'An outline needs two points or more.' : '')
  if (!fault.value) edit({ outline: read.points as unknown as never })
}
const isNear = computed(() => props.lines?.obstacles[props.picked]?.is_near ?? false)
</script>
<template>
  <section>
    <h3>Obstacles</h3>
    <p class="acts">
      <button type="button" class="link" @click="emit('add', 'box')">+ building</button>
      <button type="button" class="link" @click="emit('add', 'tree')">+ tree</button>
      <button type="button" class="link" @click="emit('add', 'pole')">+ pole</button>
      <button type="button" class="link" @click="emit('add', 'outline')">+ outline</button>
    </p>
    <ul v-if="ranked.length">
      <li v-for="o in ranked" :key="o.id">
        <button type="button" :aria-current="o.id === picked" @click="emit('pick', o.id)">
          <span>{{ o.name }}</span>
          <span class="bad">{{ costOf(o.id) ? percent(costOf(o.id)!.share) : '' }}</span>
        </button>
      </li>
    </ul>
    <template v-if="one">
      <BriefText
        :key="one.id"
        class="name"
        :value="one.name"
        label="Name of the obstacle"
        @change="edit({ name: $event })"
      />
      <p v-if="costOf(one.id)" class="soft">
        Without it the surface gets
        <b class="bad">{{ number(costOf(one.id)!.irradiation, 1) }} kWh/m²</b> a year more<template
          v-if="costOf(one.id)!.energy !== null"
          >, about {{ energyText(costOf(one.id)!.energy!) }}</template
        >.
      </p>
      <dl class="ruled">
        <template v-if="!one.isOutline">
          <div>
            <dt>Azimuth</dt>
            <dd>
              <BriefNumber :pointer="at('azimuth')" label="Azimuth of the obstacle" /> {{ azimuthWords(one.azimuth) }}
            </dd>
          </div>
          <div>
            <dt>Width</dt>
            <dd><BriefNumber :pointer="at('width')" label="Width of the obstacle" /></dd>
          </div>
          <div>
            <dt>Height over the array</dt>
            <dd><BriefNumber :pointer="at('height')" label="Height over the array" /></dd>
          </div>
        </template>
        <div>
          <dt>Distance</dt>
          <dd>
            <BriefNumber v-if="one.distance !== null" :pointer="at('distance')" label="Distance of the obstacle" />
            <button v-else type="button" class="link" @click="edit({ distance: 30 })">far; set…</button>
          </dd>
        </div>
        <div v-if="!one.lightByMonth">
          <dt>Lets light through</dt>
          <dd><BriefNumber :pointer="at('light')" label="Light that it lets through" /></dd>
        </div>
      </dl>
      <p v-if="isNear" class="soft small">
        Near: it looks different from each end of the array. The dashed band shows by how much; what counts is the view
        from the nearest part. Array
        <BriefNumber pointer="/site/array_extent" label="Array across" :fallback="lines?.across" /> across.
      </p>
      <p class="soft small">
        By month, for leaves: <MonthlyValues :pointer="at('light_by_month')" label="Light through" />
      </p>
      <template v-if="one.isOutline">
        <textarea
          class="field"
          rows="4"
          :value="one.outlineText"
          aria-label="Outline as pairs of azimuth and elevation"
          spellcheck="false"
          @change="takeOutline"
        />
        <p v-if="fault" class="bad small" role="alert">{{ fault }}</p>
      </template>
      <p><button type="button" class="link" @click="emit('remove', one.id)">Delete obstacle</button></p>
    </template>
    <p v-else-if="!obstacles.length" class="soft small">
      Trees, poles and buildings near by: by bearing, width, distance and height, or as a measured outline. Each shows
      what it costs.
    </p>
  </section>
</template>
<style scoped>
section {
  display: grid;
  gap: 6px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 116px;
  overflow-y: auto;
  border-block: 1px solid var(--rule);
}
li button {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  padding: 2px 6px;
}
li button:hover,
li button[aria-current='true'] {
  background: var(--pick);
}
.name {
  font: 600 15px/1.3 var(--serif);
  max-width: 100%;
  justify-self: start;
}
.small {
  font-size: 11.5px;
}
textarea {
  width: 100%;
  font-size: 12px;
}
</style>
