<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import { api, type ImportAnswer } from '@/api/client'
import { useLibrary } from '@/stores/library'
import { dropped, useDropped } from '@/stores/droppedFile'
import { useNotice } from '@/notice/useNotice'
import type { PartKind } from '@/stores/partKinds'

/** A list of parts of one's own, CSV or XLSX: what is read and what is wrong is seen before it is kept. */
const props = defineProps<{ kind: PartKind }>()
const library = useLibrary()
const { say } = useNotice()
const file = shallowRef<File | null>(null)
const answer = shallowRef<ImportAnswer | null>(null)
const fault = ref('')
const isReading = ref(false)
/** Headings that mean nothing yet, and the field that each shall mean. */
const mapping = ref<Record<string, string>>({})

async function send(keep: boolean) {
  if (!file.value) return
  isReading.value = true
  fault.value = ''
  try {
    const found = await api.importParts(file.value, props.kind.key, mapping.value, keep)
    if (!keep) {
      answer.value = found
      return
    }
    await library.readParts()
    say(`${found.kept} ${props.kind.title.toLowerCase()} of your own are in the library.`)
    leave()
  } catch (error) {
    fault.value = (error as Error).message
  } finally {
    isReading.value = false
  }
}
function choose(event: Event) {
  const input = event.target as HTMLInputElement
  take(input.files?.[0] ?? null)
  input.value = ''
}
function take(given: File | null) {
  file.value = given
  mapping.value = {}
  answer.value = null
  void send(false)
}
function map(heading: string, event: Event) {
  mapping.value = { ...mapping.value, [heading]: (event.target as HTMLSelectElement).value }
  void send(false)
}
useDropped(
  'parts',
  (one) => take(one.file),
  () => dropped.value?.guess.parts === props.kind.key,
)
function leave() {
  file.value = null
  answer.value = null
}
</script>
<template>
  <section class="import">
    <p>
      <label class="link"
        >{{ file ? 'Another list…' : 'Parts of your own, from a list…'
        }}<input type="file" accept=".csv,.tsv,.txt,.xlsx,.json" class="sr" @change="choose" /></label
      ><span v-if="isReading" class="soft" role="status"> Reading…</span>
    </p>
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <template v-if="answer && file">
      <p>
        <b>{{ answer.names.length }}</b> {{ kind.title.toLowerCase() }} can be read of {{ file.name
        }}<template v-if="answer.names.length"
          >: {{ answer.names.slice(0, 6).join(', ') }}{{ answer.names.length > 6 ? '…' : '' }}</template
        >.
        <template v-if="answer.changed.length">
          {{ answer.changed.length }} replace what you have; schemes keep their copies.</template
        >
        <template v-if="answer.same.length"> {{ answer.same.length }} are there already.</template>
      </p>
      <ul v-if="answer.faults.length" aria-label="Rows that cannot be read">
        <li v-for="f in answer.faults" :key="`${f.row} ${f.column}`">
          <b>{{ [f.row ? `Row ${f.row}` : '', f.column].filter(Boolean).join(', ') }}:</b> {{ f.reason }}
        </li>
        <li v-if="answer.more_faults" class="soft">and {{ answer.more_faults }} more</li>
      </ul>
      <ul v-if="answer.doubts.length" class="care" aria-label="Rows to look at again">
        <li v-for="d in answer.doubts" :key="d.row">
          △ <b>Row {{ d.row }}</b> can be read, but: {{ d.reason }}
        </li>
      </ul>
      <p v-if="answer.unused.length" class="unused">
        <span class="soft">Not used:</span>
        <label v-for="heading in answer.unused" :key="heading"
          >{{ heading }}
          <select class="blank" :aria-label="`What ${heading} means`" @change="map(heading, $event)">
            <option value="">nothing</option>
            <option v-for="field in kind.fields" :key="field.key" :value="field.key">
              {{ field.title }}
            </option>
          </select></label
        >
      </p>
      <p class="acts">
        <button type="button" class="button strong" :disabled="!answer.names.length || isReading" @click="send(true)">
          Keep {{ answer.names.length }}{{ answer.faults.length ? ', leave the others' : '' }}
        </button>
        <button type="button" class="button" @click="leave">Cancel</button>
      </p>
    </template>
  </section>
</template>
<style scoped>
.import {
  display: grid;
  gap: 6px;
  font-size: 12.5px;
}
label.link {
  cursor: pointer;
}
label:focus-within {
  outline: 2px solid var(--current);
}
ul {
  margin: 0;
  padding-left: 18px;
  max-height: 130px;
  overflow-y: auto;
}
.unused {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
</style>
