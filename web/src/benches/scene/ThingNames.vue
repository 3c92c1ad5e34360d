<script setup lang="ts">
import BriefNumber from '@/brief/BriefNumber.vue'
import NumberField from '@/brief/NumberField.vue'
import { SCENE_FILES } from './useReading'
import type { Thing } from './useThings'

/** The objects of the scene by name, with the faces of the selected one under it, what is shown of them, and other ways in than typing. */
defineProps<{ things: Thing[]; picked: string; also: Set<string> }>()
const emit = defineEmits<{ pick: [id: string, adds: boolean]; read: [event: Event] }>()
/** Whether every roof is shown, not only those with a surface. */
const everything = defineModel<boolean>('everything', { required: true })
const spacing = defineModel<number | null>('spacing', { required: true })
const tracing = defineModel<boolean>('tracing', { required: true })
</script>
<template>
  <nav class="names" aria-label="Objects of the scene">
    <template v-for="t in things" :key="t.id">
      <button
        type="button"
        class="link"
        :aria-pressed="t.id === picked || also.has(t.id)"
        :class="{ off: t.values.is_hidden }"
        @click="emit('pick', t.id === picked && !$event.shiftKey ? '' : t.id, $event.shiftKey)"
      >
        {{ t.name }}
      </button>
      <slot v-if="t.id === picked" />
    </template>
    <button
      v-if="things.length"
      type="button"
      class="link soft"
      :aria-pressed="everything"
      @click="everything = !everything"
    >
      every roof
    </button>
    <span v-if="everything" class="soft">
      in pieces of
      <NumberField
        class="blank spacing"
        :limits="{ min: 0.05, max: 100 }"
        :step="0.1"
        :value="spacing"
        placeholder="free"
        aria-label="Spacing of the pieces [m]"
        @change="spacing = $event"
        @keydown.stop
      />
      m
    </span>
    <span v-if="things.some((t) => t.kind === 'trees')" class="soft">
      trees in <BriefNumber pointer="/scene/years_ahead" label="Years of growth" />
    </span>
    <span class="ways">
      <button type="button" class="link" :aria-pressed="tracing" @click="tracing = !tracing">trace an outline</button>
      <label class="link read">
        read a file…<input
          type="file"
          class="sr"
          :accept="SCENE_FILES"
          aria-label="Read outlines, a model, points or heights from a file"
          @change="emit('read', $event)"
        />
      </label>
    </span>
  </nav>
</template>
<style scoped>
.names {
  display: grid;
  justify-items: start;
  gap: 1px;
  font-size: 12.5px;
}
.names > * {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  text-align: left;
}
.names [aria-pressed='true'] {
  font-weight: 600;
}
.ways {
  display: grid;
  justify-items: start;
  margin-top: 6px;
  font-size: 12px;
}
.off {
  opacity: 0.5;
}
.spacing {
  width: 3.6em;
}
</style>
