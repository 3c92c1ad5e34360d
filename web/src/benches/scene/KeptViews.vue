<script setup lang="ts">
import { computed, ref } from 'vue'
import type { KeptView } from '@/api/designTypes'
import BriefText from '@/brief/BriefText.vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { MONTHS } from '@/theme/format'
import { useMoment } from '@/tideline/useMoment'
import type { useScene } from './useScene'

/** The views that are kept with the design: kept, gone back to, named and deleted. Reports show them. */
const props = defineProps<{
  view: ReturnType<typeof useScene>
  eye: (() => { azimuth: number; elevation: number }) | undefined
}>()
const emit = defineEmits<{ look: [azimuth: number, elevation: number] }>()
const store = useSchemeStore()
const library = useLibrary()
const { step, pick, pickRange } = useMoment()
const views = computed(() => Object.entries((store.document.views ?? {}) as unknown as Record<string, KeptView>))
const picked = ref('')

function keep() {
  const { quantity, period, span } = props.view
  const month = MONTHS.findIndex((name) => name === period.value)
  void store.act('keep-view', {
    ...props.eye!(),
    quantity: quantity.value === 'strings' ? 'as built' : quantity.value,
    ...(month >= 0 && { month: month + 1 }),
    ...(span.value && { span: [span.value[0] * step.value, (span.value[1] + 1) * step.value] }),
  })
}
/** What a view does not say is as the design has it. */
const said = <F extends 'azimuth' | 'elevation' | 'quantity'>(id: string, kept: KeptView, field: F) =>
  (kept[field] ?? library.field(`/views/${id}/${field}`)?.default) as NonNullable<KeptView[F]>
/** The drawing as it was kept: the eye, the colours, and their time. */
function show(id: string, kept: KeptView) {
  picked.value = id
  const { quantity, period } = props.view
  quantity.value = said(id, kept, 'quantity')
  if (kept.span) {
    const [first, last] = [kept.span[0] / step.value, kept.span[1] / step.value - 1].map(Math.floor) as [number, number]
    if (last > first) pickRange(first, last)
    else pick(first)
    period.value = last > first ? 'range' : 'moment'
  } else period.value = kept.month ? MONTHS[kept.month - 1]! : 'year'
  emit('look', said(id, kept, 'azimuth'), said(id, kept, 'elevation'))
}
</script>
<template>
  <p class="kept soft" role="group" aria-label="Views that are kept">
    <template v-for="[id, kept] in views" :key="id">
      <span v-if="id === picked" class="one">
        <BriefText
          :value="kept.name"
          :label="`Name of the view ${kept.name}`"
          @change="store.edit({ views: { [id]: { name: $event } } })"
        />
        <button
          type="button"
          class="link"
          :aria-label="`Delete the view ${kept.name}`"
          @click="store.edit({ views: { [id]: null } })"
        >
          ×
        </button>
      </span>
      <button v-else type="button" class="link" @click="show(id, kept)">{{ kept.name }}</button>
    </template>
    <button
      type="button"
      class="link"
      :disabled="!eye"
      title="The eye, the colours and their time, for reports"
      @click="keep"
    >
      keep this view
    </button>
  </p>
</template>
<style scoped>
.kept {
  grid-row: 5;
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  margin: 0;
  font-size: 11.5px;
}
.one {
  white-space: nowrap;
}
</style>
