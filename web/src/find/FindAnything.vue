<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type PlaceAnswer } from '@/api/client'
import { useNewest } from '@/stores/useNewest'
import { bringIn } from '@/stores/bringing'
import { isChoosingHabits } from '@/stores/choosing'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { useTheme } from '@/theme/useTheme'
import { useWorking } from '@/stores/useWorking'
import { BENCHES, BENCH_TITLES } from '@/benchNames'
import { useMoment } from '@/tideline/useMoment'
import { azimuthWords, latitudeText, longitudeText, number } from '@/theme/format'
import { phrasesOf } from '@/scene/things'
import { takeKeyboard } from '@/keyboard/takeKeyboard'
import { PAGES } from './pages'
import { search, type Entry } from './search'
import { settingsOf, type Setting } from './settings'

/** Acts of the place where it stands: of the scheme that is open, of the first page. */
const props = defineProps<{ acts?: Entry[] }>()
const store = useSchemeStore()
const library = useLibrary()
const route = useRoute()
const router = useRouter()
const working = useWorking()
const moment = useMoment()
const theme = useTheme()
const open = ref(false)
const query = ref('')
const picked = ref(0)
const places = ref<PlaceAnswer[]>([])
const { newest, giveUp } = useNewest()

const settings = computed(() => settingsOf(library.schema))
/** The bench of a setting, with the keyboard in its field where the Brief or the bench shows it. */
async function toSetting({ pointer, bench: name }: Setting) {
  await router.push(bench(name))
  const [before, after] = pointer.split('*')
  for (let tries = 0; tries < 20; tries++) {
    await new Promise((resolve) => setTimeout(resolve, 50))
    const fields = [...document.querySelectorAll<HTMLElement>('[data-pointer]')]
    const field = fields.find(({ dataset: { pointer: own = '' } }) =>
      after === undefined ? own === pointer : own.startsWith(before!) && own.endsWith(after),
    )
    if (field) {
      field.scrollIntoView({ block: 'center' })
      return field.focus()
    }
  }
  document.querySelector('main')?.focus()
}
const bench = (name: string) => ({ name: 'bench', params: { ...route.params, bench: name }, query: route.query })
const fixed = computed<Entry[]>(() => {
  const list: Entry[] = [{ kind: 'page', title: 'All projects', more: '', run: () => router.push('/') }]
  list.push(...(props.acts ?? []))
  list.push(
    {
      kind: 'action',
      title: 'New project',
      more: '',
      also: 'begin a project, create project, quick estimate, start',
      run: () => router.push('/'),
    },
    {
      kind: 'action',
      title: 'Units and numbers…',
      more: '',
      also: 'metric, imperial, feet, Fahrenheit, decimal comma, thousands, dates, preferences, settings, locale',
      run: () => (isChoosingHabits.value = true),
    },
    {
      kind: 'action',
      title: 'Bring in…',
      more: 'file',
      also: 'import, import scheme, import project, load, open file, JSON, noontide',
      run: bringIn,
    },
  )
  list.push({
    kind: 'action',
    title: theme.dark.value ? 'Light theme' : 'Dark theme',
    more: '',
    also: 'appearance, colours, night mode',
    run: theme.toggle,
  })
  if (!store.project || route.name !== 'bench') return list
  for (const name of BENCHES)
    list.push({ kind: 'bench', title: BENCH_TITLES[name], more: '', run: () => router.push(bench(name)) })
  for (const page of PAGES)
    list.push({
      kind: page.kind ?? 'page',
      title: page.title,
      more: BENCH_TITLES[page.bench],
      also: page.also,
      run: () => router.push({ ...bench(page.bench), query: { ...route.query, page: undefined, ...page.query } }),
    })
  for (const check of store.evaluation?.checks ?? [])
    list.push({
      kind: 'check',
      title: check.title,
      more: BENCH_TITLES[check.bench],
      also: `check, finding, warning, error, ${check.rule.replaceAll('-', ' ')}, ${check.source}`,
      run: () => router.push(bench(check.bench)),
    })
  for (const scheme of store.project.schemes)
    list.push({
      kind: 'scheme',
      title: `${scheme.letter} ${scheme.name}`,
      more: scheme.pinned ? 'pinned' : '',
      run: () => router.push({ name: 'bench', params: { ...route.params, scheme: scheme.id }, query: route.query }),
    })
  list.push(
    { kind: 'action', title: 'Undo', more: 'Ctrl+Z', run: store.undo },
    { kind: 'action', title: 'Redo', more: 'Ctrl+Shift+Z', run: store.redo },
  )
  for (const figure of library.figures)
    list.push({
      kind: 'figure',
      title: figure.title,
      more: 'working',
      also: figure.also,
      run: () => working.show(figure.key),
    })
  for (const line of library.lines)
    list.push({
      kind: 'loss',
      title: line.title,
      more: 'line of the Cascade',
      also: line.also,
      run: () => working.show(line.key),
    })
  for (const quantity of store.quantities.filter((q) => !q.key.startsWith('loss_')))
    list.push({
      kind: 'hourly',
      title: quantity.title,
      more: quantity.unit,
      also: quantity.also,
      run: () => moment.show(quantity.key),
    })
  for (const setting of settings.value)
    list.push({
      kind: 'setting',
      title: setting.title,
      more: BENCH_TITLES[setting.bench],
      also: setting.also,
      run: () => toSetting(setting),
    })
  for (const surface of store.surfaces)
    list.push({
      kind: 'surface',
      title: surface.name,
      more: `${number(surface.tilt)}° ${azimuthWords(surface.azimuth)}`,
      run: () => router.push({ ...bench('surfaces'), query: { ...route.query, surface: surface.id } }),
    })
  for (const m of library.parts.modules)
    list.push({
      kind: 'module',
      title: `${m.maker} ${m.name}`,
      more: `${number(m.power)} W, ${m.year}`,
      also: `${m.id} ${m.technology} ${m.year} panel PV module`,
      run: () => router.push({ ...bench('circuits'), query: { ...route.query, part: `module:${m.id}` } }),
    })
  for (const i of library.parts.inverters)
    list.push({
      kind: 'inverter',
      title: `${i.maker} ${i.name}`,
      more: `${number(i.ac_power / 1000, 1)} kW`,
      also: `${i.id} ${i.year} MPPT`,
      run: () => router.push({ ...bench('circuits'), query: { ...route.query, part: `inverter:${i.id}` } }),
    })
  return list
})
/** A thing in words, to be put into the scene, such as a chimney with its sizes; and things that stand there. */
const things = computed<Entry[]>(() => {
  if (!store.project || route.name !== 'bench') return []
  const typed = query.value.replace(/^add\s+/i, '')
  const scene = (store.document.scene ?? {}) as Record<string, Record<string, { name?: string }>>
  const standing = Object.entries(scene).flatMap(([kind, some]) =>
    typeof some === 'object' && some
      ? Object.entries(some).map<Entry>(([id, thing]) => ({
          kind: 'thing',
          title: thing.name || id,
          more: 'in the scene',
          also: `${kind} ${id}`,
          run: () => router.push({ ...bench('scene'), query: { ...route.query, thing: id } }),
        }))
      : [],
  )
  const words = query.value.toLowerCase().trim()
  return [
    ...standing.filter((t) => words && `${t.title} ${t.also}`.toLowerCase().includes(words)),
    ...(typed.trim().length > 2 ? phrasesOf(typed) : []).slice(0, 3).map<Entry>((phrase) => ({
      kind: 'add',
      title: `Add a ${phrase.kind.noun}`,
      more: phrase.kind.sizes.map((size) => `${size} ${String(phrase.values[size] ?? '…')}`).join(' × '),
      run: () =>
        router.push({
          ...bench('scene'),
          query: { ...route.query, add: `${phrase.kind.words[0]} ${typed.replace(/^[a-z ]+/i, '')}` },
        }),
    })),
  ]
})
const entries = computed<Entry[]>(() => {
  const found = search(fixed.value, query.value)
  const towns = places.value.map<Entry>((place) => ({
    kind: 'place',
    title: `${place.name}${place.country ? ', ' + place.country : ''}`,
    more: `${latitudeText(place.latitude)}, ${longitudeText(place.longitude)}`,
    run: () =>
      route.name === 'bench'
        ? router.push({ ...bench('site'), query: { ...route.query, find: query.value } })
        : router.push({ path: '/', query: { place: query.value } }),
  }))
  return [...found.slice(0, 12), ...things.value, ...towns.slice(0, 5)]
})
watch(query, async (text) => {
  picked.value = 0
  giveUp()
  places.value = []
  if (text.trim().length < 3) return
  try {
    places.value = (await newest((signal) => api.places(text, signal)))?.places ?? places.value
  } catch {
    /* places are a help, not a need */
  }
})
function run(entry: Entry | undefined) {
  if (!entry) return
  open.value = false
  void entry.run()
}
const opener = ref<HTMLElement>()
let before: HTMLElement | null = null
function keys(event: KeyboardEvent) {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
    event.preventDefault()
    open.value = !open.value
  }
}
const input = ref<HTMLInputElement>()
watch(open, async (isOpen) => {
  if (!isOpen) {
    // The keyboard goes back to where it was, unless what was found has taken it.
    window.setTimeout(() => {
      if (document.activeElement === document.body) (before?.isConnected ? before : opener.value)?.focus()
    }, 120)
    return
  }
  before = document.activeElement instanceof HTMLElement ? document.activeElement : null
  query.value = ''
  // What is typed at once after Ctrl+K must not fall beside the field.
  await takeKeyboard(input)
})
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))
</script>
<template>
  <button ref="opener" type="button" class="find soft" aria-haspopup="dialog" @click="open = true">
    <span>Find anything</span><kbd>Ctrl K</kbd>
  </button>
  <v-dialog role="none" :aria-modal="null" v-model="open" max-width="560" scroll-strategy="none" class="find-anything">
    <div class="sheet" role="dialog" aria-label="Find anything">
      <input
        ref="input"
        v-model="query"
        autofocus
        class="ask"
        placeholder="A bench, a figure, a part, a place, an action…"
        aria-label="Find anything"
        role="combobox"
        aria-expanded="true"
        aria-controls="found"
        :aria-activedescendant="entries.length ? `found-${picked}` : undefined"
        @keydown.down.prevent="picked = Math.min(picked + 1, entries.length - 1)"
        @keydown.up.prevent="picked = Math.max(picked - 1, 0)"
        @keydown.enter="run(entries[picked])"
      />
      <ul id="found" role="listbox" aria-label="Found">
        <li
          v-for="(entry, i) in entries"
          :id="`found-${i}`"
          :key="entry.kind + entry.title + i"
          role="option"
          :aria-selected="i === picked"
          @mousemove="picked = i"
          @click="run(entry)"
        >
          <span class="cap">{{ entry.kind }}</span>{{ entry.title }}<span class="soft more">{{ entry.more }}</span>
        </li>
      </ul>
      <p v-if="!entries.length" class="soft none">No matches. Try fewer words.</p>
    </div>
  </v-dialog>
</template>
<style scoped>
.find {
  border: 1px solid var(--rule-strong);
  border-radius: 7px;
  padding: 3px 10px;
  display: flex;
  gap: 26px;
  white-space: nowrap;
}
.find:hover {
  color: var(--ink);
}
kbd {
  font: 11px var(--sans);
}
@media (max-width: 1150px) {
  .find span {
    display: none;
  }
  .find {
    gap: 0;
  }
}
.sheet {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  border: 1px solid var(--rule);
  overflow: hidden;
  width: min(560px, 92vw);
}
.ask {
  width: 100%;
  padding: 15px 20px;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: none;
  font: 18px var(--serif);
  outline: none;
}
ul {
  list-style: none;
  margin: 0;
  padding: 6px;
  max-height: 380px;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: 70px 1fr auto;
  gap: 10px;
  align-items: baseline;
  padding: 6px 14px;
  border-radius: 6px;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--pick);
}
.none {
  padding: 18px 20px;
}
:global(.find-anything > .v-overlay__content) {
  align-self: start;
  margin-top: 11vh;
}
</style>
