<script setup lang="ts">
import { shownUnit } from '@/theme/habits'
import { computed, ref } from 'vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import NumberField from '@/brief/NumberField.vue'
import { useLibrary } from '@/stores/library'
import { SCENE_FILES } from './useReading'
import type { Thing, Traced } from './useThings'

/** The objects of the scene by name, with the faces of the selected one under it, what is shown of them, and other ways in than typing. */
const props = defineProps<{ things: Thing[]; picked: string; also: Set<string>; takesModules: boolean }>()
const emit = defineEmits<{ pick: [id: string, adds: boolean]; read: [event: Event]; design: [] }>()
/** Whether every roof is shown, not only those with a surface. */
const everything = defineModel<boolean>('everything', { required: true })
const spacing = defineModel<number | null>('spacing', { required: true })
/** What is being traced on the ground. */
const tracing = defineModel<Traced | null>('tracing', { required: true })
const trace = (kind: Traced) => (tracing.value = tracing.value === kind ? null : kind)
const TRACES: Record<Traced, string> = { building: 'trace a building', field: 'trace a field' }

const library = useLibrary()
const MOST_NAMES = 14
const opened = ref(new Set<string>())
/** The names; where there are too many, those of one kind fold into their number until they are asked for or one is selected. */
const rows = computed(() => {
  const isLong = props.things.length > MOST_NAMES
  return [...new Set(props.things.map((t) => t.kind))].map((kind) => {
    const some = props.things.filter((t) => t.kind === kind)
    const isFolded = isLong && some.length > 3
    const isOpen =
      !isFolded || opened.value.has(kind) || some.some((t) => t.id === props.picked || props.also.has(t.id))
    return { kind, some, isFolded, isOpen }
  })
})
function toggle(kind: string) {
  const next = new Set(opened.value)
  if (!next.delete(kind)) next.add(kind)
  opened.value = next
}
</script>
<template>
  <nav class="names" aria-label="Objects of the scene">
    <template v-for="row in rows" :key="row.kind">
      <button v-if="row.isFolded" type="button" class="link soft" :aria-expanded="row.isOpen" @click="toggle(row.kind)">
        {{ row.some.length }} {{ (library.field(`/scene/${row.kind}`)?.title ?? row.kind).toLowerCase() }}
      </button>
      <template v-for="t in row.isOpen ? row.some : []" :key="t.id">
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
        unit="m"
        :aria-label="`Spacing of the pieces [${shownUnit('m')}]`"
        @change="spacing = $event"
        @keydown.stop
      />
      {{ shownUnit('m') }}
    </span>
    <span v-if="things.some((t) => t.kind === 'trees')" class="soft">
      trees in <BriefNumber pointer="/scene/years_ahead" label="Years of growth" />
    </span>
    <span class="ways">
      <button
        v-for="(words, kind) in TRACES"
        :key="kind"
        type="button"
        class="link"
        :aria-pressed="tracing === kind"
        @click="trace(kind)"
      >
        {{ words }}
      </button>
      <button v-if="takesModules" type="button" class="link" @click="emit('design')">design to a target…</button>
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
