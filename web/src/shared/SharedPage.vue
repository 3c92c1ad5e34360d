<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { api } from '@/api/client'
import type { Columns } from '@/api/columns'
import MonthBars from '@/charts/MonthBars.vue'
import PaperPage from '@/charts/PaperPage.vue'
import { day, energy, figureText, MONTHS } from '@/theme/format'
import NoontideMark from '@/theme/NoontideMark.vue'
import { useAnswer } from '@/stores/useAnswer'
import YearPicture from './YearPicture.vue'

/** One revision for whoever has its address: figures, the year, the Brief and the report, on any width, to be read and not changed. */
const props = defineProps<{ token: string }>()
const again = ref(0)
let timer = 0
const ASK_AGAIN_MS = 1500
const { answer, fault, isAsking } = useAnswer(
  () => `${props.token} ${again.value}`,
  (signal) => api.readView(props.token, signal),
)
const isExact = computed(() => answer.value?.state === 'exact')
watch(answer, (view) => {
  document.title = view ? `${view.project}: ${view.scheme}` : 'Noontide'
  if (view?.state === 'pending') timer = window.setTimeout(() => again.value++, ASK_AGAIN_MS)
})
onBeforeUnmount(() => window.clearTimeout(timer))
const whenExact = () => (isExact.value ? props.token : null)
const { answer: report, fault: reportFault } = useAnswer(whenExact, (signal) => api.readViewReport(props.token, signal))
const year = shallowRef<Columns | null>(null)
watch(
  whenExact,
  async (token) => {
    if (token) year.value = await api.readViewYear(token).catch(() => null)
  },
  { immediate: true },
)
const main = computed(() => answer.value?.figures.find((one) => one.key === 'energy'))
const rows = computed(() => answer.value?.figures.filter((one) => one.key !== 'energy') ?? [])
</script>
<template>
  <div class="shared">
    <header>
      <NoontideMark />
      <span v-if="answer" class="soft"
        >revision {{ answer.revision }} of {{ day(answer.created) }}, to be read until {{ day(answer.expires) }}</span
      >
    </header>
    <main v-if="answer">
      <h1>{{ answer.project }}</h1>
      <p class="soft under">
        Scheme {{ answer.scheme }}<template v-if="answer.sender">, by {{ answer.sender }}</template
        ><template v-if="answer.contact">, {{ answer.contact }}</template>
      </p>
      <p v-if="answer.state === 'pending'" role="status" class="serif">The figures are on their way…</p>
      <p v-else-if="!isExact" class="bad">This revision has no figures.</p>
      <template v-else>
        <YearPicture v-if="year" :year="year" />
        <div class="two">
          <section aria-label="Headline">
            <p v-if="main?.value != null" class="big">
              <span class="soft">{{ main.title }}</span>
              <span class="serif"
                >{{ energy(main.value).value }} <small>{{ energy(main.value).unit }}</small></span
              >
            </p>
            <dl>
              <div v-for="row in rows" :key="row.key">
                <dt>{{ row.title }}</dt>
                <dd>{{ figureText(row) }}</dd>
              </div>
            </dl>
            <MonthBars
              :values="answer.monthly_energy"
              unit="kWh"
              :label="`Energy delivered by month, ${MONTHS[0]} to ${MONTHS[11]}`"
            />
            <template v-if="answer.checks.length">
              <h2 class="cap">Open checks</h2>
              <ul>
                <li v-for="check in answer.checks" :key="check">{{ check }}</li>
              </ul>
            </template>
          </section>
          <section aria-label="The design in words" class="serif prose">
            <template v-for="paragraph in answer.brief" :key="paragraph.title">
              <h2 class="cap">{{ paragraph.title }}</h2>
              <p>
                <template v-for="(run, i) in paragraph.runs" :key="i"
                  ><b v-if="run[1]">{{ run[0] }}</b
                  ><template v-else>{{ run[0] }}</template></template
                >
              </p>
            </template>
          </section>
        </div>
        <section aria-label="Report">
          <p class="files">
            <span class="cap">Report</span>
            <a class="link" :href="api.readViewFile(token, 'pdf')">PDF</a>
            <a class="link" :href="api.readViewFile(token, 'html')">HTML in one file</a>
          </p>
          <p v-if="reportFault" class="bad">{{ reportFault }}</p>
          <p v-else-if="!report" class="soft" role="status">Setting the pages…</p>
          <PaperPage
            v-for="(sheet, i) in report?.sheets ?? []"
            :key="i"
            class="page"
            :sheet="sheet"
            :aria-label="`Page ${i + 1} of ${report!.sheets.length}`"
          />
        </section>
      </template>
    </main>
    <main v-else class="empty">
      <h1>{{ fault ? 'Nothing is shared here' : 'Opening…' }}</h1>
      <p v-if="fault" class="soft">{{ fault }}</p>
      <p v-else-if="isAsking" class="soft" role="status">The figures are on their way…</p>
    </main>
  </div>
</template>
<style scoped>
.shared {
  max-width: 1040px;
  margin: 0 auto;
  padding: 0 20px 60px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 18px;
  min-height: 58px;
  font-size: 12.5px;
  border-bottom: 1px solid var(--rule);
}
h1 {
  margin: 22px 0 0;
}
.under {
  margin: 2px 0 18px;
}
.two {
  display: grid;
  grid-template-columns: 280px minmax(0, 1fr);
  gap: 40px;
  margin: 22px 0 30px;
}
.big {
  display: grid;
  margin: 0 0 8px;
}
.big .serif {
  font-size: 40px;
  line-height: 1.1;
}
.big small {
  font-size: 18px;
}
dl {
  margin: 0 0 16px;
}
dl div {
  display: flex;
  justify-content: space-between;
  gap: 14px;
  padding: 4px 0;
  border-top: 1px solid var(--rule);
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.prose {
  font-size: 16px;
  line-height: 1.55;
}
.prose h2,
ul {
  margin: 0;
}
.prose p {
  margin: 0 0 12px;
  overflow-wrap: anywhere;
}
ul {
  padding-left: 18px;
  font-size: 12.5px;
}
.files {
  display: flex;
  gap: 16px;
  align-items: baseline;
  border-top: 1px solid var(--rule);
  padding-top: 10px;
}
.page {
  margin: 0 auto 14px;
  max-width: 760px;
}
.empty {
  padding: 14vh 0;
  text-align: center;
}
@media (max-width: 760px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
    gap: 22px;
  }
}
</style>
