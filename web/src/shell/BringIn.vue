<script setup lang="ts">
import { ref, watch } from 'vue'
import { api } from '@/api/client'
import { brought, isBringing } from '@/stores/bringing'
import { number } from '@/theme/format'

/** The one place where files come in: what each is and what will become of it, before anything does. */
defineProps<{ isBusy: boolean; fault: string }>()
const emit = defineEmits<{ look: [File]; take: []; close: [] }>()
const kinds = ref<Awaited<ReturnType<typeof api.fileKinds>>>([])
const unread = ref('')
watch(isBringing, (open) => {
  if (open && !kinds.value.length)
    api.fileKinds().then(
      (found) => (kinds.value = found),
      (error: Error) => (unread.value = error.message),
    )
})
const SIZES: [number, string][] = [
  [1e6, 'MB'],
  [1e3, 'kB'],
]
function size(bytes: number) {
  const [by, unit] = SIZES.find(([by]) => bytes >= by) ?? [1, 'bytes']
  return `${number(bytes / by, by === 1e6 ? 1 : 0)} ${unit}`
}
function choose(event: Event) {
  const input = event.target as HTMLInputElement
  if (input.files?.[0]) emit('look', input.files[0])
  input.value = ''
}
</script>
<template>
  <v-dialog
    role="none"
    :aria-modal="null"
    :model-value="isBringing"
    max-width="640"
    @update:model-value="emit('close')"
  >
    <div class="sheet" role="dialog" aria-label="Bring in">
      <h2>Bring in</h2>
      <template v-if="brought">
        <p>
          <b>{{ brought.file.name }}</b> <span class="soft">{{ size(brought.file.size) }}</span>
        </p>
        <p class="serif">{{ brought.guess.words }}</p>
        <ul v-if="brought.words.length">
          <li v-for="line in brought.words" :key="line">{{ line }}</li>
        </ul>
      </template>
      <template v-else>
        <p class="soft">
          Drop a file anywhere on the window, or choose one. Nothing is changed before you have seen what it is.
        </p>
        <table v-if="kinds.length">
          <tbody>
            <tr v-for="kind in kinds" :key="kind.kind">
              <td>{{ kind.what }}</td>
              <td class="soft">{{ kind.place }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="unread" class="bad">{{ unread }}</p>
      </template>
      <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
      <p class="acts">
        <button v-if="brought && !fault" type="button" class="button strong" :disabled="isBusy" @click="emit('take')">
          {{ isBusy ? 'Bringing it in…' : 'Bring it in' }}
        </button>
        <label class="button" :class="{ strong: !brought || fault }"
          >{{ brought ? 'Choose another…' : isBusy ? 'Looking at it…' : 'Choose a file…'
          }}<input type="file" class="sr" aria-label="File to bring in" :disabled="isBusy" @change="choose"
        /></label>
        <button type="button" class="link" @click="emit('close')">{{ brought ? 'Leave it' : 'Close' }}</button>
      </p>
    </div>
  </v-dialog>
</template>
<style scoped>
.sheet {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  padding: 22px 26px;
  display: grid;
  gap: 12px;
  max-height: 86vh;
  overflow-y: auto;
}
h2 {
  margin: 0;
}
p {
  margin: 0;
}
table {
  border-collapse: collapse;
}
td {
  padding: 4px 16px 4px 0;
  font-size: 13px;
  vertical-align: top;
  border-top: 1px solid var(--rule);
}
ul {
  margin: 0;
  padding-left: 18px;
  display: grid;
  gap: 4px;
}
.acts {
  display: flex;
  gap: 14px;
  align-items: center;
  margin-top: 4px;
}
label.button {
  cursor: pointer;
}
label.button:focus-within {
  outline: 2px solid var(--current);
}
</style>
