<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, type TypedAnswer } from '@/api/client'
import { useNewest } from '@/stores/useNewest'
import { useLibrary } from '@/stores/library'
import type { PartsKind } from '@/stores/partKinds'
import { useNotice } from '@/notice/useNotice'
import { draftOf, forget } from './typedDrafts'
import InverterCurves from './InverterCurves.vue'
import ModuleCurves from './ModuleCurves.vue'

/** A datasheet typed or pasted: what is understood, what contradicts itself, and what the fit makes of it, while it is typed. */
const props = defineProps<{ kind: PartsKind }>()
const emit = defineEmits<{ close: []; kept: [id: string] }>()
const library = useLibrary()
const { say } = useNotice()
const sheet = computed(() => library.kinds.find((one) => one.key === props.kind)!)
/** What is typed here; tables within a datasheet come from lists and files. */
const fields = computed(() => sheet.value.fields.filter((field) => field.kind !== 'table'))
const title = computed(() => `${/^[aeiou]/.test(sheet.value.one) ? 'An' : 'A'} ${sheet.value.one} from its datasheet`)
/** Lines as they may be pasted, made of what a datasheet of this kind says. */
const example = computed(() =>
  fields.value
    .filter((field) => field.unit)
    .slice(0, 3)
    .map((field) => `${field.title} … ${field.unit}`)
    .join('\n'),
)
/** What was typed stays until it is kept, however the sheet is left. */
const { text, values } = draftOf(props.kind)
const answer = ref<TypedAnswer | null>(null)
const fault = ref('')
const PAUSE_MS = 250
let timer = 0
const { newest } = useNewest()

/** Numbers as numbers, yes and no as such; the server says what cannot be. */
function typed(): Record<string, unknown> {
  const out: Record<string, unknown> = {}
  for (const field of fields.value) {
    const raw = (values.value[field.key] ?? '').trim()
    if (!raw) continue
    if (field.kind === 'number')
      out[field.key] = Number.isNaN(Number(raw.replace(',', '.'))) ? raw : Number(raw.replace(',', '.'))
    else if (field.kind === 'yes') out[field.key] = raw === 'yes'
    else out[field.key] = raw
  }
  return out
}
async function ask(keep: boolean) {
  try {
    const asked = { values: typed(), text: text.value, keep }
    const found = await newest((signal) => api.typePart(props.kind, asked, signal))
    if (!found) return
    fault.value = ''
    answer.value = found
    if (!found.is_kept) return
    await library.readParts()
    say('The datasheet is in the library.')
    forget(props.kind)
    emit('kept', found.id)
  } catch (error) {
    fault.value = (error as Error).message
  }
}
watch(
  [text, values],
  () => {
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void ask(false), PAUSE_MS)
  },
  { deep: true, immediate: true },
)
const faultOf = (key: string) => answer.value?.faults.find((f) => f.field === key)?.reason ?? ''
const general = computed(() => (answer.value?.faults ?? []).filter((f) => !fields.value.some((x) => x.key === f.field)))
const isEmpty = computed(() => !text.value.trim() && !Object.values(values.value).some((v) => v.trim()))
/** What the pasted lines say, where nothing else is typed. */
const pasted = (key: string) => {
  const value = answer.value?.values[key]
  return value === undefined || value === null
    ? ''
    : typeof value === 'boolean'
      ? value
        ? 'yes'
        : 'no'
      : String(value)
}
const isReady = computed(() => Boolean(answer.value?.id) && !answer.value!.faults.length)
</script>
<template>
  <div class="typed" role="dialog" :aria-label="title">
    <header role="none">
      <h2>{{ title }}</h2>
      <button type="button" class="button strong" :disabled="!isReady" @click="ask(true)">Keep in the library</button>
      <button type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <div class="scroll">
      <div class="two">
        <label class="paste"
          ><span class="soft">Paste lines of the datasheet, or type the values below</span>
          <textarea
            v-model="text"
            class="field"
            rows="4"
            spellcheck="false"
            aria-label="Lines of the datasheet"
            :placeholder="example"
          />
        </label>
        <div role="status" class="said">
          <p v-if="fault" class="bad">{{ fault }}</p>
          <template v-if="answer && !isEmpty">
            <p v-if="isReady" class="good">✓ The values agree with one another.</p>
            <p v-for="f in general" :key="f.reason" class="bad">✕ {{ f.reason }}</p>
            <p v-if="answer.slip" class="care">△ {{ answer.slip }}</p>
            <p v-for="c in answer.converted" :key="c" class="soft">{{ c }}</p>
            <p v-if="answer.unread.length" class="soft">
              Not understood: {{ answer.unread.slice(0, 5).join('; ') }}{{ answer.unread.length > 5 ? '…' : '' }}
            </p>
          </template>
          <p v-else class="soft">What contradicts itself is said here while you type.</p>
        </div>
      </div>
      <div class="fields">
        <label v-for="field in fields" :key="field.key" :class="{ wrong: !isEmpty && faultOf(field.key) }">
          <span
            >{{ field.title }}<i v-if="field.unit" class="soft"> {{ field.unit }}</i></span
          >
          <select v-if="field.choices.length" v-model="values[field.key]" class="blank" :aria-label="field.title">
            <option value="">{{ pasted(field.key) || field.preset || '…' }}</option>
            <option v-for="c in field.choices" :key="c" :value="c">{{ c }}</option>
          </select>
          <input
            v-else
            v-model="values[field.key]"
            class="blank"
            autocomplete="off"
            :inputmode="field.kind === 'number' ? 'decimal' : 'text'"
            :placeholder="pasted(field.key) || field.preset || '…'"
            :aria-label="field.title"
            :aria-invalid="!isEmpty && faultOf(field.key) !== ''"
            :title="faultOf(field.key)"
          />
          <small
            v-if="!isEmpty && faultOf(field.key) && !faultOf(field.key).startsWith('The value is missing')"
            class="bad"
            >{{ faultOf(field.key) }}</small
          >
        </label>
      </div>
      <ModuleCurves v-if="answer?.module" :page="answer.module" />
      <InverterCurves v-if="answer?.inverter" :page="answer.inverter" />
    </div>
  </div>
</template>
<style scoped>
.typed {
  background: var(--sheet);
  border-radius: 12px;
  padding: 16px 22px;
  display: grid;
  gap: 10px;
  max-height: 88vh;
  grid-template-rows: auto 1fr;
  font-size: 12.5px;
}
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
h2 {
  margin-right: auto;
}
.scroll {
  overflow: auto;
  display: grid;
  gap: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 22px;
}
.paste textarea {
  width: 100%;
  font-size: 12px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(215px, 1fr));
  gap: 6px 22px;
}
.fields label {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0 8px;
  align-items: baseline;
  border-bottom: 1px solid var(--rule);
  padding-bottom: 3px;
}
.fields label > span {
  white-space: nowrap;
}
.fields i {
  font-style: normal;
  margin-left: 4px;
}
.fields input {
  width: 68px;
  text-align: right;
}
.fields input::placeholder {
  color: var(--soft);
  font-weight: 400;
  opacity: 1;
}
.fields small {
  grid-column: 1 / -1;
}
</style>
