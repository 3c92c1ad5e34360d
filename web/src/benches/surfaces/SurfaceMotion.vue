<script setup lang="ts">
import { computed } from 'vue'
import type { JsonObject } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { freshId, MOTIONS, type Motion, type SurfaceView } from '@/stores/schemeLists'
import BriefNumber from '@/brief/BriefNumber.vue'
import { MONTHS } from '@/theme/format'

/** How a surface stands or moves: the kind, and what belongs to it. */
const props = defineProps<{ surface: SurfaceView }>()
const store = useSchemeStore()
const KINDS: { value: Motion | ''; text: string }[] = [
  { value: '', text: 'fixed' },
  { value: 'tracking', text: 'turns about one axis' },
  { value: 'two_axis_tracking', text: 'faces the sun on two axes' },
  { value: 'seasonal_tilt', text: 'tilted by hand by season' },
]
const at = (field: string) => `/surfaces/${props.surface.id}/${field}`
const edit = (patch: JsonObject) => store.edit({ surfaces: { [props.surface.id]: patch } })

/** Flatter for the half of the year with the high sun, steeper for the other, about the latitude's own angle. */
function halves(): JsonObject {
  const latitude = Math.round(Math.abs(store.site.latitude))
  const [flat, steep] = [Math.max(0, Math.min(90, latitude - 15)), Math.min(90, latitude + 15)]
  const isSouth = store.site.latitude < 0
  return {
    changes: {
      april: { month: 4, day: 1, tilt: isSouth ? steep : flat },
      october: { month: 10, day: 1, tilt: isSouth ? flat : steep },
    },
  }
}
function move(event: Event) {
  const kind = (event.target as HTMLSelectElement).value as Motion | ''
  const patch: JsonObject = Object.fromEntries(MOTIONS.map((name) => [name, null]))
  if (kind) {
    patch[kind] = kind === 'seasonal_tilt' ? halves() : {}
    patch.mounting = 'open rack'
    if (kind === 'two_axis_tracking') patch.rows = null
  }
  edit(patch)
}
const changes = computed(() =>
  Object.entries(props.surface.seasonal ?? {})
    .map(([id, change]) => ({ id, day: 1, ...change }))
    .sort((a, b) => a.month - b.month || a.day - b.day),
)
const setChange = (id: string, change: JsonObject | null) => edit({ seasonal_tilt: { changes: { [id]: change } } })
/** The next change stands in the middle of the longest time without one. */
function addChange() {
  const days = changes.value.map((c) => (c.month - 1) * 30 + c.day)
  let [start, length] = [days.at(-1)!, 0]
  days.forEach((day, i) => {
    const next = days[i + 1] ?? days[0]! + 360
    if (next - day > length) [start, length] = [day, next - day]
  })
  const month = (Math.floor((start + length / 2) / 30) % 12) + 1
  const id = freshId(
    'change',
    changes.value.map((c) => c.id),
  )
  setChange(id, { month, day: 1, tilt: props.surface.tilt })
}
const hasBacktracking = computed(() => props.surface.tracking?.backtracking !== false)
</script>
<template>
  <dl class="ruled">
    <div>
      <dt>Stands</dt>
      <dd>
        <select class="blank" :value="surface.motion ?? ''" aria-label="How the surface moves" @change="move">
          <option v-for="kind in KINDS" :key="kind.value" :value="kind.value">{{ kind.text }}</option>
        </select>
      </dd>
    </div>
    <template v-if="surface.motion === 'tracking'">
      <div>
        <dt>Rotation up to ±</dt>
        <dd><BriefNumber :pointer="at('tracking/maximum')" label="Maximum rotation" /></dd>
      </div>
      <div>
        <dt>Axis azimuth</dt>
        <dd><BriefNumber :pointer="at('tracking/axis_azimuth')" label="Axis azimuth" /></dd>
      </div>
      <div>
        <dt>Axis tilt</dt>
        <dd><BriefNumber :pointer="at('tracking/axis_tilt')" label="Axis tilt" /></dd>
      </div>
      <div>
        <dt>Backtracking</dt>
        <dd>
          <button
            type="button"
            class="link"
            :title="
              surface.rows
                ? 'Rows turn back from a low sun so that none shades another'
                : 'Takes effect between rows: arrange the surface in rows'
            "
            @click="edit({ tracking: { backtracking: hasBacktracking ? false : null } })"
          >
            {{ hasBacktracking ? (surface.rows ? 'on' : 'on, once in rows') : 'off' }}
          </button>
        </dd>
      </div>
      <div v-if="surface.rows">
        <dt>Ground slope across</dt>
        <dd><BriefNumber :pointer="at('tracking/slope')" label="Ground slope across the axes" /></dd>
      </div>
      <div>
        <dt>Stowed from wind of</dt>
        <dd>
          <BriefNumber v-if="surface.tracking?.stow_wind" :pointer="at('tracking/stow_wind')" label="Stow wind" />
          <button v-else type="button" class="link" @click="edit({ tracking: { stow_wind: 15 } })">never; set…</button>
        </dd>
      </div>
      <div v-if="surface.tracking?.stow_wind">
        <dt>Stowed at</dt>
        <dd><BriefNumber :pointer="at('tracking/stow_angle')" label="Stow angle" /></dd>
      </div>
    </template>
    <div v-else-if="surface.motion === 'two_axis_tracking'">
      <dt>Tilt up to</dt>
      <dd><BriefNumber :pointer="at('two_axis_tracking/maximum_tilt')" label="Maximum tilt" /></dd>
    </div>
    <template v-else-if="surface.motion === 'seasonal_tilt'">
      <div v-for="change in changes" :key="change.id">
        <dt class="date">
          From
          <BriefNumber
            :pointer="at(`seasonal_tilt/changes/${change.id}/day`)"
            :label="`Day of the change to ${change.tilt}°`"
          />
          <select
            class="blank"
            :value="change.month"
            :aria-label="`Month of the change to ${change.tilt}°`"
            @change="setChange(change.id, { month: Number(($event.target as HTMLSelectElement).value) })"
          >
            <option v-for="(month, i) in MONTHS" :key="month" :value="i + 1">{{ month }}</option>
          </select>
        </dt>
        <dd>
          <BriefNumber
            :pointer="at(`seasonal_tilt/changes/${change.id}/tilt`)"
            :label="`Tilt from ${change.day} ${MONTHS[change.month - 1]}`"
          />
          <button
            v-if="changes.length > 1"
            type="button"
            class="link less"
            :aria-label="`Delete the change of ${change.day} ${MONTHS[change.month - 1]}`"
            @click="setChange(change.id, null)"
          >
            ×
          </button>
        </dd>
      </div>
      <div v-if="changes.length < 12">
        <dt><button type="button" class="link" @click="addChange">+ another change</button></dt>
        <dd />
      </div>
    </template>
  </dl>
</template>
<style scoped>
.date {
  display: flex;
  gap: 4px;
  align-items: baseline;
}
.less {
  margin-left: 4px;
}
</style>
