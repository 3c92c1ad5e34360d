import { computed, onScopeDispose, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type EditionLine, type ReportCatalogue } from '@/api/client'
import { useNotice } from '@/notice/useNotice'
import { useAnswer } from '@/stores/useAnswer'
import { useJob } from '@/stores/useJob'
import { useSchemeStore } from '@/stores/useSchemeStore'

const ASK_AGAIN_MS = 1500
const catalogue = ref<ReportCatalogue | null>(null)

/** The report that is looked at: an edition, its pages as they were chosen since, and its sheets as they print. */
export function useReport() {
  const store = useSchemeStore()
  const [route, router] = [useRoute(), useRouter()]
  const { say, warn } = useNotice()

  const read = () =>
    api.reports().then(
      (found) => (catalogue.value = found),
      (error: Error) => warn(error.message),
    )
  if (!catalogue.value) void read()

  const of = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
  const edition = computed<EditionLine | null>(() => {
    const all = catalogue.value?.editions ?? []
    return all.find((one) => one.key === of('edition')) ?? all[0] ?? null
  })
  const paper = computed(() => of('paper') || edition.value?.paper || '')
  /** The pages in their order; those of the edition until others are chosen. */
  const pages = computed(() => (of('pages') ? of('pages').split(',') : (edition.value?.pages ?? [])))
  const isChanged = computed(() => pages.value.join() !== (edition.value?.pages ?? []).join())
  const go = (query: Record<string, string | undefined>) => void router.replace({ query: { ...route.query, ...query } })
  const choose = (key: string) => go({ edition: key, pages: undefined, paper: undefined })
  const setPaper = (name: string) => go({ paper: name })
  const setPages = (some: string[]) => some.length && go({ pages: some.join() })
  function toggle(key: string) {
    const order = catalogue.value?.pages.map((page) => page.key) ?? []
    const has = pages.value.includes(key)
    // A page that is added stands where it stands in the whole report.
    const after = pages.value.findIndex((one) => order.indexOf(one) > order.indexOf(key))
    setPages(
      has
        ? pages.value.filter((one) => one !== key)
        : pages.value.toSpliced(after < 0 ? pages.value.length : after, 0, key),
    )
  }
  function move(key: string, by: number) {
    const at = pages.value.indexOf(key)
    const to = at + by
    if (to < 0 || to >= pages.value.length) return
    setPages(pages.value.toSpliced(at, 1).toSpliced(to, 0, key))
  }

  /** Counts the changes of the letterhead, which stands on every report. */
  const heads = ref(0)
  const { answer, fault, isAsking } = useAnswer(
    () =>
      store.saved && store.evaluation?.headline && pages.value.length && paper.value
        ? `${store.saved.id} ${store.saved.revision} ${pages.value.join()} ${paper.value} ${heads.value}`
        : null,
    (signal) => api.report(store.saved!.id, pages.value, paper.value, signal),
  )
  /** Whether the sheets are of an earlier state of the design than the one on the screen. */
  const isOld = computed(() => answer.value !== null && answer.value.revision !== store.saved?.revision)
  // Other schemes on a page may still be computed: their figures come when they are there.
  let timer = 0
  watch(answer, (sheets) => {
    window.clearTimeout(timer)
    if (sheets?.waits_for.length) timer = window.setTimeout(anew, ASK_AGAIN_MS)
  })
  onScopeDispose(() => window.clearTimeout(timer))
  const anew = () => heads.value++

  const { job, run, cancel } = useJob()
  /** The report as a file: it says which page it is at, and comes down when it is made. */
  async function take(kind: 'pdf' | 'html') {
    if (job.value || !store.saved) return
    try {
      await store.flush()
      const asked = { pages: pages.value, paper: paper.value, kind }
      const { address, sheets } = await run(store.saved.id, 'report', asked)
      const link = document.createElement('a')
      link.href = address
      link.download = ''
      link.click()
      say(`${sheets} page${sheets === 1 ? '' : 's'} of the report are on their way.`)
    } catch (error) {
      warn((error as Error).message)
    }
  }

  async function keep(title: string) {
    try {
      const kept = await api.keepEdition({ title, pages: pages.value, paper: paper.value })
      await read()
      choose(kept.key)
      say(`The edition ${kept.title} is kept.`)
    } catch (error) {
      warn((error as Error).message)
    }
  }
  async function remove(own: EditionLine) {
    try {
      await api.deleteEdition(own.key)
      go({ edition: undefined, pages: own.pages.join(), paper: own.paper })
      await read()
      say(`The edition ${own.title} is deleted.`, { label: 'Undo', run: () => void keep(own.title) })
    } catch (error) {
      warn((error as Error).message)
    }
  }
  return {
    catalogue,
    edition,
    paper,
    pages,
    isChanged,
    choose,
    setPaper,
    toggle,
    move,
    answer,
    fault,
    isAsking,
    isOld,
    job,
    take,
    cancel,
    keep,
    remove,
    anew,
  }
}
