<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { CheckAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { vFocus } from '@/keyboard/vFocus'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useNotice } from '@/notice/useNotice'
import { number, plain, spoken } from '@/theme/format'
import RemedyPreview from './RemedyPreview.vue'

const store = useSchemeStore()
const route = useRoute()
const { say } = useNotice()
/** Why there are no figures stands above the checks already. */
const checks = computed(() =>
  (store.evaluation?.checks ?? []).filter((check) => !check.accepted && check.rule !== 'evaluation'),
)
const accepted = computed(() => (store.evaluation?.checks ?? []).filter((check) => check.accepted))
/** The remedy that is looked at, by its check and its place. */
const looking = ref('')
const accepting = ref('')
const reason = ref('')
const apply = (patch: object) => store.edit(patch as JsonObject)
function begin(check: CheckAnswer) {
  accepting.value = check.key
  reason.value = ''
}
function accept(check: CheckAnswer) {
  const text = reason.value.trim()
  if (!text) return
  store.edit({ accepted: { [check.key]: { reason: text, title: check.title, actual: check.actual } } })
  accepting.value = ''
  say('Check accepted.', { label: 'Undo', run: () => void store.undo() })
}
const reopen = (check: CheckAnswer) => store.edit({ accepted: { [check.key]: null } })
const figures = (check: CheckAnswer) =>
  check.actual === 0 && check.limit === 0
    ? ''
    : `${plain(check.actual)} ${check.unit}, limit ${plain(check.limit)} ${check.unit}; off by ${plain(check.margin)} ${check.unit}. `
</script>
<template>
  <h3 v-if="checks.length" class="sr">Open checks</h3>
  <article v-for="check in checks" :key="check.key" :class="check.severity">
    <b>{{ check.severity === 'error' ? '✕' : '△' }} {{ spoken(check.title) }}</b>
    <p>{{ spoken(check.detail) }}</p>
    <p class="acts">
      <button
        v-for="(remedy, i) in check.remedies"
        :key="remedy.label"
        type="button"
        class="button"
        @click="apply(remedy.patch)"
        @pointerenter="looking = `${check.key} ${i}`"
        @focus="looking = `${check.key} ${i}`"
      >
        {{ remedy.label }}
      </button>
      <router-link
        v-if="route.params.bench !== check.bench"
        class="link"
        :to="{ name: 'bench', params: { ...route.params, bench: check.bench }, query: route.query }"
        >Show</router-link
      >
      <button v-if="accepting !== check.key" type="button" class="link" @click="begin(check)">Accept…</button>
    </p>
    <RemedyPreview
      v-for="(remedy, i) in check.remedies.filter((_, n) => looking === `${check.key} ${n}`)"
      :key="i"
      :check="check"
      :patch="remedy.patch as JsonObject"
    />
    <form v-if="accepting === check.key" class="why" @submit.prevent="accept(check)">
      <input
        v-model="reason"
        v-focus
        class="field"
        maxlength="300"
        placeholder="Why is it right as it is?"
        aria-label="Reason for accepting the check"
        @keydown.esc.stop="accepting = ''"
      />
      <button type="submit" class="button" :disabled="!reason.trim()">Accept</button>
      <button type="button" class="link" @click="accepting = ''">Cancel</button>
    </form>
    <details>
      <summary class="soft">Rule and figures</summary>
      <p class="soft">{{ figures(check) }}{{ check.source }}.</p>
    </details>
  </article>
  <details v-if="accepted.length" class="accepted">
    <summary>{{ number(accepted.length) }} accepted</summary>
    <article v-for="check in accepted" :key="check.key">
      <b class="soft">{{ spoken(check.title) }}</b>
      <p class="soft">{{ spoken(check.detail) }}</p>
      <p>“{{ check.accepted }}” <button type="button" class="link" @click="reopen(check)">Reopen</button></p>
    </article>
  </details>
</template>
<style scoped>
article {
  border-top: 1px solid var(--rule);
  padding: 8px 0 9px;
  font-size: 12px;
  display: grid;
  gap: 3px;
  margin-top: 4px;
}
.error b {
  color: var(--loss-text);
}
.caution b {
  color: var(--caution-text);
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.button {
  padding: 2px 9px;
  font-size: 11.5px;
  white-space: normal;
}
summary {
  cursor: pointer;
  font-size: 11.5px;
}
.why {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.why .field {
  width: 100%;
  font-size: 12px;
}
.accepted {
  border-top: 1px solid var(--rule);
  padding-top: 6px;
  margin-top: 4px;
}
</style>
