<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import BriefParagraph from './BriefParagraph.vue'
import BriefNumber from './BriefNumber.vue'
import BriefChoice from './BriefChoice.vue'
import PartChoice from '@/parts/PartChoice.vue'
import { useDesign } from '@/stores/design'
import { useScheme } from '@/stores/useScheme'
import { facing, latitudeText, longitudeText, number } from '@/theme/format'
import { useWorking } from '@/working/useWorking'

const design = useDesign()
const route = useRoute()
const scheme = useScheme()
const working = useWorking()
const weather = computed(() => design.evaluation?.weather ?? null)
const horizon = computed(() => {
  const points = scheme.site.value.horizon ?? []
  const top = points.reduce((a, b) => (b.elevation > a.elevation ? b : a), { azimuth: 0, elevation: 0 })
  if (!points.length || top.elevation === 0) return 'The horizon is open all round.'
  const line = design.evaluation?.cascade?.lines.find((l) => l.key === 'horizon')
  return `A skyline up to ${number(top.elevation)}° in the ${direction(top.azimuth)}${line ? ` takes ${number(-line.share * 100, 1)} % of the light` : ''}.`
})
function direction(azimuth: number): string {
  return ['north', 'north-east', 'east', 'south-east', 'south', 'south-west', 'west', 'north-west'][
    Math.round(azimuth / 45) % 8
  ]!
}
const bench = (name: string) => ({ name: 'bench', params: { ...route.params, bench: name }, query: route.query })
const soiling = computed(() => design.at('/losses/soiling_by_month') as number[] | undefined)
</script>
<template>
  <div class="brief">
    <h2 class="sr">The Brief</h2>
    <BriefParagraph bench="site">
      {{ scheme.site.value.name || 'A site' }} at
      <router-link class="go" :to="bench('site')"
        >{{ latitudeText(scheme.site.value.latitude) }}, {{ longitudeText(scheme.site.value.longitude) }}</router-link
      >, <BriefNumber pointer="/site/elevation" label="Height of the site" unit="m" /> up. {{ horizon }}
    </BriefParagraph>
    <BriefParagraph bench="weather">
      <template v-if="weather"
        ><router-link class="go" :to="bench('weather')">{{ weather.title }}</router-link
        >: {{ number(weather.annual_ghi) }} kWh/m² on the flat, {{ number(weather.lowest) }} °C to
        {{ number(weather.highest) }} °C.</template
      >
      <router-link v-else class="go" :to="bench('weather')">Choose a weather year…</router-link>
    </BriefParagraph>
    <BriefParagraph bench="surfaces">
      <template v-for="(surface, i) in scheme.surfaces.value" :key="surface.id">
        {{ i ? ' ' : '' }}<template v-if="surface.modules === 0">The </template><template v-else>On the </template>
        <router-link class="go" :to="{ ...bench('surfaces'), query: { ...route.query, surface: surface.id } }">{{
          surface.name
        }}</router-link>
        (tilt <BriefNumber :pointer="`/surfaces/${surface.id}/tilt`" :label="`Tilt of ${surface.name}`" />, facing
        <BriefNumber :pointer="`/surfaces/${surface.id}/azimuth`" :label="`Facing of ${surface.name}`" />, {{ ' '
        }}{{ facing(surface.azimuth)
        }}<template v-if="surface.rows"
          >, rows
          <BriefNumber :pointer="`/surfaces/${surface.id}/rows/pitch`" :label="`Row pitch of ${surface.name}`" />
          apart</template
        >){{ ' '
        }}<template v-if="surface.modules"
          >{{ number(surface.modules) }} module{{ surface.modules > 1 ? 's' : '' }}.</template
        ><template v-else>carries nothing yet.</template>
      </template>
      <router-link v-if="!scheme.surfaces.value.length" class="go" :to="bench('surfaces')">Add a surface…</router-link>
    </BriefParagraph>
    <BriefParagraph bench="circuits">
      <template v-for="set in scheme.sets.value" :key="set.id">
        <BriefNumber
          v-if="set.count > 1"
          :pointer="`/inverters/${set.id}/count`"
          label="Number of inverters"
          unit=""
        />{{ set.count > 1 ? ' ' : ''
        }}<PartChoice
          kind="inverter"
          :pointers="[`/inverters/${set.id}/model`]"
          :value="set.model"
          :label="`Inverter ${set.letter}`"
        />
        {{ set.count > 1 ? 'each take' : 'takes' }}
        <template v-for="(string, i) in set.strings" :key="string.id">
          <template v-if="i">{{ i === set.strings.length - 1 ? ' and ' : ', ' }}</template>
          <BriefNumber :pointer="`/subarrays/${string.id}/strings`" :label="`Strings of ${string.id}`" unit="" />
          string{{ string.strings > 1 ? 's' : '' }} of
          <BriefNumber
            :pointer="`/subarrays/${string.id}/modules_per_string`"
            :label="`Modules in a string of ${string.id}`"
            unit=""
          /> </template
        ><template v-if="set.strings.length"
          >{{ ' '
          }}<PartChoice
            kind="module"
            :pointers="set.strings.map((s) => `/subarrays/${s.id}/module`)"
            :value="set.strings[0]!.module"
            :label="`Module on inverter ${set.letter}`" /></template
        ><template v-else>nothing yet</template>.{{ ' ' }}
      </template>
      <template v-if="design.evaluation?.headline">
        {{ number(design.evaluation.headline.dc_ac_ratio, 2) }} DC to AC.</template
      >
      <router-link v-if="!scheme.sets.value.length" class="go" :to="bench('circuits')"
        >Add an inverter and strings…</router-link
      >
    </BriefParagraph>
    <BriefParagraph bench="losses">
      Soiling
      <button v-if="soiling" type="button" class="go" @click="working.show('loss_soiling')">
        {{ Math.min(...soiling) }} to {{ Math.max(...soiling) }} % by month</button
      ><BriefNumber v-else pointer="/losses/soiling" label="Soiling" />, mismatch
      <BriefNumber pointer="/losses/mismatch" label="Mismatch" />, module quality
      <BriefNumber pointer="/losses/quality" label="Module quality" />, first light
      <BriefNumber pointer="/losses/light_induced" label="Light-induced degradation" />; wiring
      <BriefNumber pointer="/losses/dc_wiring" label="DC wiring at rated power" /> DC and
      <BriefNumber pointer="/losses/ac_wiring" label="AC wiring at rated power" /> AC at full power; out of service
      <BriefNumber pointer="/losses/unavailability" label="Out of service" />. Light by
      <BriefChoice pointer="/models/transposition" label="Sky model" />, glass by
      <BriefChoice pointer="/models/incidence" label="Model of reflection at the glass" />, cells by
      <BriefChoice pointer="/models/temperature" label="Cell temperature model" />.
    </BriefParagraph>
  </div>
</template>
<style scoped>
.brief {
  padding: 12px 10px 24px 22px;
  overflow-y: auto;
  height: 100%;
}
.go {
  text-decoration: none;
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
.go:hover {
  border-bottom-style: solid;
}
</style>
