import { useRoute, useRouter } from 'vue-router'
import { api } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useNotice } from '@/notice/useNotice'
import { bringIn } from '@/stores/bringing'
import { isChoosingHabits } from '@/stores/choosing'

/** What can be done with the open scheme as a whole; each verb says what it did, or why it could not. */
export function useSchemeActions() {
  const store = useSchemeStore()
  const route = useRoute()
  const router = useRouter()
  const { say, warn } = useNotice()

  /** The same bench and moment in another scheme. */
  const inScheme = (id: number) => ({ name: 'bench', params: { ...route.params, scheme: id }, query: route.query })

  async function withErrorNotice(work: () => Promise<void>) {
    try {
      await work()
    } catch (error) {
      warn((error as Error).message)
    }
  }
  const fork = () =>
    withErrorNotice(async () => {
      if (!store.saved) return
      await store.flush()
      const { id, letter } = store.saved
      const made = await api.fork(id, '')
      await store.readProject()
      await router.push(inScheme(made.id))
      say(`Scheme ${made.letter} created as a copy of ${letter}. Double-click its tab to rename it.`)
    })
  const pin = () =>
    withErrorNotice(async () => {
      if (!store.saved) return
      store.project = await api.pin(store.saved.id)
      await store.readPinned()
      say(`Scheme ${store.saved.letter} is the baseline now.`)
    })
  const remove = () =>
    withErrorNotice(async () => {
      if (!store.saved || !store.project) return
      const { id, letter } = store.saved
      await api.deleteScheme(id)
      const next = store.project.schemes.find((s) => s.id !== id)
      await store.readProject()
      if (next) await router.push(inScheme(next.id))
      say(`Scheme ${letter} deleted.`, { label: 'Undo', run: () => restore(id) })
    })
  const restore = (id: number) =>
    withErrorNotice(async () => {
      await api.restoreScheme(id)
      await store.readProject()
      await router.push(inScheme(id))
    })
  const renameProject = (name: string) =>
    withErrorNotice(async () => {
      if (name && store.project) store.project = await api.editProject(store.project.id, { name })
    })
  function renameScheme(name: string) {
    if (name && name !== store.at('/name')) store.edit({ name })
  }
  const takeAway = () => router.push({ query: { ...route.query, act: 'take-away' } })
  /** What is done with the open scheme, and what is general, by name and by the other words that the trade has for it. */
  const acts = (rename: () => unknown) => [
    {
      title: 'Pin: compare with this scheme',
      also: 'pin, baseline, compare, reference',
      run: pin,
      isOff: store.project?.pinned === store.saved?.id,
    },
    { title: 'Rename this scheme', also: 'rename, name of the scheme', run: rename, isOff: false },
    {
      title: 'Fork this scheme',
      also: 'fork, copy scheme, duplicate, variant, new scheme, alternative',
      run: fork,
      isOff: false,
    },
    {
      title: 'Take away…',
      also: 'export, download, save as a file, share, send, report, JSON, XLSX, PDF, DXF, CSV, Parquet, project file',
      run: takeAway,
      isOff: false,
    },
    { title: 'Bring in…', also: 'import a file, open a file', run: bringIn, isOff: false, isGeneral: true },
    {
      title: 'Units and numbers…',
      also: 'metric, imperial',
      run: () => (isChoosingHabits.value = true),
      isOff: false,
      isGeneral: true,
    },
    { title: 'Delete this scheme', also: 'delete, remove scheme', run: remove, isOff: false },
  ]
  return { inScheme, fork, acts, renameProject, renameScheme }
}
