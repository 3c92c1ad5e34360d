<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import type { LooseLine } from '@/api/client'
import { shortTitle, useLooseWords } from './runText'

/** The loose values that a picture does not draw: held at one of their values, or taken together. */
const props = defineProps<{ loose: readonly LooseLine[]; drawn: string[] }>()
const emit = defineEmits<{ change: [held: string[]] }>()
const { words } = useLooseWords()
const held = reactive<Record<string, string>>({})
const others = computed(() => props.loose.filter((one) => !props.drawn.includes(one.key) && one.values.length))
const asked = computed(() => others.value.flatMap((one) => (held[one.key] ? [`${one.key}:${held[one.key]}`] : [])))
watch(asked, (now) => emit('change', now))
</script>
<template>
  <template v-for="one in others" :key="one.key"
    >, {{ shortTitle(one) }}
    <select v-model="held[one.key]" class="blank" :aria-label="`${shortTitle(one)} held at`">
      <option :value="undefined">any</option>
      <option v-for="value in one.values" :key="String(value)" :value="String(value)">{{ words(value, one) }}</option>
    </select></template
  >
</template>
