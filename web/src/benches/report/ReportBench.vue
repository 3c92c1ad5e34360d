<script setup lang="ts">
import { ref } from 'vue'
import PaperPage from '@/charts/PaperPage.vue'
import LetterheadLines from './LetterheadLines.vue'
import PageList from './PageList.vue'
import { useReport } from './useReport'

/** The design on paper: the pages beside their contents, as they will print. */
const report = useReport()
const { catalogue, edition, paper, pages, isChanged, answer, fault, isAsking, isOld, job } = report
const title = ref('')
const isNaming = ref(false)
const PAPERS: Record<string, string> = { a4: 'A4', letter: 'Letter' }
const show = (sheet: number) => document.querySelector(`#sheet-${sheet}`)?.scrollIntoView({ block: 'start' })
function keep() {
  if (!title.value.trim()) return
  void report.keep(title.value.trim())
  isNaming.value = false
}
</script>
<template>
  <div class="bench report">
    <header>
      <h2>Report</h2>
      <div class="tools soft">
        <span v-if="answer?.waits_for.length" role="status"
          >{{ answer.waits_for.length > 1 ? 'schemes' : 'scheme' }} {{ answer.waits_for.join(', ') }} still
          computed…</span
        >
        <span v-else-if="isAsking || isOld" role="status">setting it anew…</span>
        <template v-if="answer">
          <template v-if="job">
            <span role="status">{{ job.message || 'Setting the pages…' }}</span>
            <progress :value="job.progress" max="1" aria-label="Progress of the report" />
            <button type="button" class="link" @click="report.cancel">Cancel</button>
          </template>
          <template v-else>
            <button type="button" class="link strong" @click="report.take('pdf')">PDF</button>
            <button type="button" class="link" @click="report.take('html')">HTML in one file</button>
          </template>
        </template>
      </div>
    </header>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div v-if="catalogue && edition" class="two">
      <nav aria-label="Contents">
        <p class="serif">
          For the
          <select
            class="blank"
            :value="edition.key"
            aria-label="Edition"
            @change="report.choose(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="one in catalogue.editions" :key="one.key" :value="one.key">
              {{ one.is_own ? one.title : one.title.toLowerCase() }}
            </option></select
          >, on
          <select
            class="blank"
            :value="paper"
            aria-label="Paper"
            @change="report.setPaper(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="name in catalogue.papers" :key="name" :value="name">{{ PAPERS[name] ?? name }}</option>
          </select>
        </p>
        <p v-if="edition.says" class="soft says">{{ edition.says }}.</p>
        <PageList
          :catalogue="catalogue"
          :pages="pages"
          :answer="answer"
          @toggle="report.toggle"
          @move="report.move"
          @show="show"
        />
        <LetterheadLines :catalogue="catalogue" @change="report.anew" />
        <form v-if="isNaming" class="keep" @submit.prevent="keep">
          <input v-model="title" class="blank" maxlength="80" aria-label="Name of the edition" placeholder="its name" />
          <button type="submit" class="link" :disabled="!title.trim()">keep</button>
          <button type="button" class="link" @click="isNaming = false">cancel</button>
        </form>
        <p v-else class="says">
          <button
            type="button"
            class="link"
            @click="((title = edition.is_own ? edition.title : ''), (isNaming = true))"
          >
            {{ isChanged ? 'Keep these pages as an edition…' : 'Keep it as an edition of its own…' }}
          </button>
          <button v-if="edition.is_own" type="button" class="link bad" @click="report.remove(edition)">
            delete {{ edition.title }}
          </button>
        </p>
      </nav>
      <div class="pages" :class="{ old: isOld }" tabindex="0" aria-label="Pages as they print" role="group">
        <p v-if="answer?.untranslated.length" class="soft note" :title="answer.untranslated.join('\n')">
          {{ answer.untranslated.length }} texts of these pages stand in English: the language’s catalogue does not have
          them.
        </p>
        <p v-if="!answer && !fault" class="empty">
          {{ isAsking ? 'Setting the pages…' : 'The report is set once the scheme has its year.' }}
        </p>
        <PaperPage
          v-for="(sheet, i) in answer?.sheets ?? []"
          :id="`sheet-${i}`"
          :key="i"
          class="page"
          :sheet="sheet"
          :aria-label="`Page ${i + 1} of ${answer!.sheets.length}`"
        />
      </div>
    </div>
  </div>
</template>
<style scoped>
.report {
  height: 100%;
  min-height: 420px;
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr);
  padding-bottom: 0;
}
.two {
  grid-row: 3;
  display: grid;
  grid-template-columns: 206px minmax(0, 1fr);
  gap: 18px;
  min-height: 0;
}
nav {
  overflow-y: auto;
  position: relative;
  padding-right: 4px;
}
nav p {
  margin: 0 0 6px;
  font-size: 15px;
  line-height: 1.7;
}
.says,
nav .says {
  font-size: 12px;
  display: grid;
  justify-items: start;
  gap: 4px;
}
.pages {
  overflow-y: auto;
  position: relative;
  background: var(--paper);
  padding: 12px 16px;
  display: grid;
  gap: 14px;
  align-content: start;
  justify-items: center;
}
.page {
  max-width: 640px;
}
.old .page {
  opacity: 0.55;
}
.note {
  justify-self: stretch;
  margin: 0;
  font-size: 12px;
}
.strong {
  font-weight: 600;
}
@media (max-width: 999px) {
  .report {
    height: auto;
  }
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
.keep {
  display: flex;
  gap: 8px;
  font-size: 12.5px;
}
.keep input {
  width: 110px;
}
</style>
