<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import type { SceneAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { vFocus } from '@/keyboard/vFocus'
import { FAVOURITES, usePreferences } from '@/parts/usePreferences'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** Which rule set gives the setbacks of a surface: one that ships, or one of one's own, kept for every project. */
const props = defineProps<{ surface: string; layout: SceneAnswer['layouts'][number]; kept: JsonObject }>()
const emit = defineEmits<{ set: [patch: JsonObject] }>()
interface OwnSet {
  title: string
  source?: string
  distances?: Record<string, number>
}
const SHIPPED = { plain: 'plain', 'fire-lanes': 'fire lanes', 'wind-zones': 'wind zones' }
const store = useSchemeStore()
const preferences = usePreferences()
onMounted(() => void preferences.read())

type Kept = { rule_set?: string; own_set?: OwnSet | null; setbacks?: JsonObject }
const layouts = computed(() =>
  Object.entries((store.document.surfaces ?? {}) as Record<string, { face?: string; layout?: Kept }>)
    .filter(([, s]) => s.face)
    .map(([id, s]) => [id, s.layout ?? {}] as const),
)
const own = computed(() => (props.kept as Kept).own_set ?? null)
/** Sets of one's own: of this design, and of every preferred set, each by its title once. */
const owned = computed(() => {
  const found = new Map<string, { set: OwnSet; words: string }>()
  if (own.value) found.set(own.value.title, { set: own.value, words: own.value.title })
  for (const { name, setbacks } of preferences.sets.value)
    for (const set of (setbacks ?? []) as OwnSet[])
      if (!found.has(set.title))
        found.set(set.title, { set, words: name === FAVOURITES ? set.title : `${set.title} (${name})` })
  for (const [, layout] of layouts.value)
    if (layout.own_set && !found.has(layout.own_set.title))
      found.set(layout.own_set.title, { set: layout.own_set, words: layout.own_set.title })
  return found
})
const chosen = computed(() => (own.value ? `own ${own.value.title}` : ((props.kept as Kept).rule_set ?? 'plain')))
function choose(event: Event) {
  const { value } = event.target as HTMLSelectElement
  const set = owned.value.get(value.replace(/^own /, ''))?.set
  emit('set', value.startsWith('own ') && set ? { own_set: complete(set) } : { rule_set: value, own_set: null })
}
/** A set as a patch that takes the place of another: distances that it does not say are those of the layout's kinds, unset. */
const complete = (set: OwnSet) => {
  const before = Object.keys(own.value?.distances ?? {})
  return {
    title: set.title,
    source: set.source || null,
    distances: { ...Object.fromEntries(before.map((kind) => [kind, null])), ...set.distances },
  } as unknown as JsonObject
}

/** Distances that were typed over can be kept as a rule set under a name. */
const typed = computed(() => Object.keys((props.kept.setbacks ?? {}) as JsonObject))
const isNaming = ref(false)
const title = ref('')
async function keep() {
  const wanted = title.value.trim()
  isNaming.value = false
  title.value = ''
  if (!wanted) return
  const set: OwnSet = { title: wanted, distances: { ...props.layout.rules } }
  emit('set', { own_set: complete(set), setbacks: Object.fromEntries(typed.value.map((kind) => [kind, null])) })
  const favourites = preferences.of(FAVOURITES)
  const others = ((favourites.setbacks ?? []) as OwnSet[]).filter((one) => one.title !== wanted)
  await preferences.keep({ ...favourites, setbacks: [...others, set] as never })
}

/** Other surfaces on faces whose distances differ from these. */
const others = computed(() => {
  const distances = (some: Kept) =>
    JSON.stringify([some.rule_set ?? 'plain', some.own_set?.distances ?? null, some.setbacks ?? {}])
  return layouts.value.filter(([id, l]) => id !== props.surface && distances(l) !== distances(props.kept as Kept))
})
function spread() {
  const mine = props.kept as Kept
  const patch = (theirs: Kept) => {
    const unset = (some?: object) => Object.fromEntries(Object.keys(some ?? {}).map((kind) => [kind, null]))
    const distances = { ...unset(theirs.own_set?.distances), ...mine.own_set?.distances }
    return {
      layout: {
        rule_set: mine.rule_set ?? null,
        own_set: mine.own_set ? { ...mine.own_set, distances } : null,
        setbacks: { ...unset(theirs.setbacks), ...mine.setbacks },
      },
    }
  }
  store.edit({
    surfaces: Object.fromEntries(others.value.map(([id, l]) => [id, patch(l)])) as unknown as JsonObject,
  })
}
</script>
<template>
  <span>
    <select class="blank" :value="chosen" aria-label="Rule set of setbacks" @change="choose">
      <option v-for="(words, key) in SHIPPED" :key="key" :value="key">{{ words }}</option>
      <option v-for="[key, one] in owned" :key="key" :value="`own ${key}`">{{ one.words }}</option>
    </select>
    <form v-if="isNaming" class="naming" @submit.prevent="keep">
      <input
        v-model="title"
        v-focus
        class="blank"
        maxlength="80"
        placeholder="name of the rule set"
        aria-label="Name of the rule set"
        @keydown.esc.stop="isNaming = false"
        @keydown.stop
      />
      <button type="submit" class="link">keep</button>
    </form>
    <button v-else-if="typed.length" type="button" class="link" @click="isNaming = true">keep as a rule set…</button>
    <button v-if="others.length" type="button" class="link" title="The distances by kind" @click="spread">
      on all faces
    </button>
  </span>
</template>
<style scoped>
.naming {
  display: inline;
}
</style>
