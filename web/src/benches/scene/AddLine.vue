<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { phrasesOf, type Phrase } from '@/scene/things'

/** A thing is added by the first letters of its name, with its sizes behind it. */
const emit = defineEmits<{ add: [phrase: Phrase] }>()
const text = ref('')
const at = ref(0)
const input = ref<HTMLInputElement>()
const found = computed(() => phrasesOf(text.value).slice(0, 6))
watch(found, () => (at.value = 0))
const isUnknown = computed(() => text.value.trim() !== '' && !found.value.length)
const sizesOf = ({ kind, values }: Phrase) => kind.sizes.map((size) => `${size} ${values[size] ?? '…'}`).join(' × ')
function take(phrase = found.value[at.value]) {
  if (!phrase) return
  emit('add', phrase)
  text.value = ''
  input.value?.blur()
}
function begin(letter: string) {
  text.value = letter
  input.value?.focus()
}
defineExpose({ begin })
</script>
<template>
  <div class="add">
    <label>
      Add
      <input
        ref="input"
        v-model="text"
        class="blank"
        placeholder="chimney 0.6 x 0.6 x 1.2"
        aria-label="Add a thing: its name and sizes"
        role="combobox"
        aria-autocomplete="list"
        :aria-expanded="found.length > 0"
        aria-controls="scene-adds"
        @keydown.enter.prevent="take()"
        @keydown.down.prevent="at = Math.min(at + 1, found.length - 1)"
        @keydown.up.prevent="at = Math.max(at - 1, 0)"
        @keydown.esc="((text = ''), input?.blur())"
        @keydown.stop
      />
    </label>
    <ul v-if="found.length" id="scene-adds" role="listbox">
      <li
        v-for="(phrase, i) in found"
        :key="phrase.kind.noun"
        role="option"
        :aria-selected="i === at"
        :class="{ at: i === at }"
        @pointerdown.prevent="take(phrase)"
      >
        {{ phrase.kind.noun }} <span class="soft">{{ sizesOf(phrase) }}</span>
      </li>
    </ul>
    <p v-else-if="isUnknown" class="soft none" role="status">
      No such thing. Try house, barn, hall, shed, neighbour, chimney, pipe, skylight, silo, tree, conifer, wall, fence,
      pole, carport or ground.
    </p>
  </div>
</template>
<style scoped>
.add {
  position: relative;
}
input {
  width: 150px;
}
ul,
.none {
  position: absolute;
  z-index: 5;
  top: 100%;
  left: 0;
  margin: 2px 0 0;
  padding: 4px 0;
  list-style: none;
  background: var(--sheet);
  box-shadow: var(--shadow);
  border-radius: 6px;
  min-width: 260px;
}
.none {
  padding: 6px 10px;
  width: 280px;
}
li {
  padding: 3px 10px;
  cursor: pointer;
  white-space: nowrap;
}
li.at {
  background: var(--pick);
}
</style>
