<script setup lang="ts">
import { computed } from 'vue'
import type { LooseLine, TieLine } from '@/api/client'
import NumberField from '@/brief/NumberField.vue'

/** A value of the design that follows a loose one: so many times as much, and so much more. */
const props = defineProps<{ tie: TieLine; leads: LooseLine[] }>()
const emit = defineEmits<{ change: [part: { times?: number; plus?: number }]; lead: [key: string]; drop: [] }>()
const name = computed(() => props.tie.title.split(',')[0]!)
const whose = computed(() => props.tie.title.split(',').slice(1).join(',').trim())
</script>
<template>
  <p class="tie">
    <button
      type="button"
      class="drop"
      :aria-label="`Let ${tie.title} follow nothing`"
      title="Let it follow nothing"
      @click="emit('drop')"
    >
      ×
    </button>
    <b>{{ name }}</b><span v-if="whose" class="soft"> of {{ whose }}</span> follows as
    <NumberField
      class="blank short"
      :value="tie.times"
      :aria-label="`${name}: times`"
      @change="$event !== null && emit('change', { times: $event })"
    />
    times
    <select
      class="blank"
      :value="tie.loose"
      :aria-label="`What ${name} follows`"
      @change="emit('lead', ($event.target as HTMLSelectElement).value)"
    >
      <option v-for="one in leads" :key="one.key" :value="one.key">{{ one.title }}</option>
    </select>
    plus
    <NumberField
      class="blank short"
      :value="tie.plus"
      :aria-label="`${name}: plus`"
      @change="$event !== null && emit('change', { plus: $event })"
    />{{ tie.unit }}
  </p>
</template>
<style scoped>
.tie {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 5px;
}
.drop {
  width: 17px;
  color: var(--haze-text);
}
select.blank {
  max-width: 190px;
}
</style>
