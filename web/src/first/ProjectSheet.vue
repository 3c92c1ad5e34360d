<script setup lang="ts">
import { computed } from 'vue'
import type { ProjectCard } from '@/api/client'
import { energy, azimuthWords, latitudeText, number } from '@/theme/format'
import MonthBars from '@/charts/MonthBars.vue'
import PlaneSketch from './PlaneSketch.vue'

const props = defineProps<{ project: ProjectCard }>()
const emit = defineEmits<{ remove: [] }>()
const to = computed(
  () => `/projects/${props.project.id}/${props.project.pinned ?? props.project.schemes[0]?.id}/surfaces`,
)
const words = computed(() =>
  props.project.planes
    .filter((p) => p[2] > 0)
    .map(([tilt, azimuth, n]) => `${n} at ${number(tilt)}° ${azimuthWords(azimuth)}`)
    .join(', '),
)
</script>
<template>
  <article>
    <router-link :to="to" class="whole" :aria-label="`Open ${project.name}`" />
    <h3>{{ project.name }}</h3>
    <p class="soft about">
      {{ project.latitude === null ? '' : latitudeText(project.latitude)
      }}<template v-if="project.is_copy"> · a copy</template
      ><template v-if="project.note"> · {{ project.note }}</template>
    </p>
    <div class="middle">
      <div>
        <p v-if="project.energy !== null" class="serif big">
          {{ energy(project.energy).value }} <small>{{ energy(project.energy).unit }}</small>
        </p>
        <p v-else class="serif big">{{ project.state === 'pending' ? '…' : 'open' }}</p>
        <p class="soft">
          {{
            project.dc_power === null
              ? props.project.state === 'pending'
                ? 'calculating…'
                : 'incomplete'
              : `${number(project.dc_power, 1)} kW · ${number(project.specific_yield ?? 0)} kWh/kW`
          }}
        </p>
        <p class="soft">{{ project.schemes.length }} scheme{{ project.schemes.length === 1 ? '' : 's' }}</p>
      </div>
      <PlaneSketch :planes="project.planes" :south="(project.latitude ?? 0) < 0" :label="words" />
    </div>
    <MonthBars
      v-if="project.monthly_energy.length"
      :values="project.monthly_energy"
      unit="kWh"
      label="Energy by month"
      :height="46"
    />
    <footer>
      <span v-if="project.errors" class="bad">{{ project.errors }} to fix</span
      ><span v-if="project.cautions" class="care"
        >{{ project.cautions }} caution{{ project.cautions > 1 ? 's' : '' }}</span
      ><span v-if="!project.errors && !project.cautions && project.energy !== null" class="good">all clear</span
      ><button type="button" class="link remove" :aria-label="`Delete ${project.name}`" @click="emit('remove')">
        Delete
      </button>
    </footer>
  </article>
</template>
<style scoped>
article {
  position: relative;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 12px;
  padding: 16px 20px 12px;
  display: grid;
  gap: 4px;
  align-content: start;
}
article:hover {
  border-color: var(--rule-strong);
}
h3 {
  font-size: 18px;
}
.about {
  min-height: 36px;
}
.whole {
  position: absolute;
  inset: 0;
  border-radius: 12px;
}
.middle {
  display: grid;
  grid-template-columns: 1fr 130px;
  align-items: end;
  min-height: 96px;
}
.big {
  font-size: 26px;
  font-weight: 600;
  line-height: 1.1;
}
.big small {
  font-size: 15px;
}
p.soft {
  font-size: 12.5px;
}
footer {
  display: flex;
  gap: 12px;
  font-size: 12px;
  font-weight: 600;
  min-height: 20px;
}
.remove {
  position: relative;
  margin-left: auto;
  font-weight: 400;
  opacity: 0;
}
article:hover .remove,
.remove:focus {
  opacity: 1;
}
</style>
