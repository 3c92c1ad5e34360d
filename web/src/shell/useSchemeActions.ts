import { useRoute, useRouter } from 'vue-router'
import { api } from '@/api/client'
import { useDesign } from '@/stores/design'
import { useNotice } from './useNotice'

/** What can be done with the open scheme as a whole; each verb says what it did, or why it could not. */
export function useSchemeActions() {
  const design = useDesign()
  const route = useRoute()
  const router = useRouter()
  const { say, warn } = useNotice()

  /** The same bench and moment in another scheme. */
  const inScheme = (id: number) => ({ name: 'bench', params: { ...route.params, scheme: id }, query: route.query })

  async function saying(work: () => Promise<void>) {
    try {
      await work()
    } catch (error) {
      warn((error as Error).message)
    }
  }
  const fork = () =>
    saying(async () => {
      if (!design.saved) return
      await design.settled()
      const { id, letter } = design.saved
      const made = await api.fork(id, '')
      await design.readProject()
      await router.push(inScheme(made.id))
      say(`Scheme ${made.letter} begins as ${letter} stood. Its name can be changed with a double click.`)
    })
  const pin = () =>
    saying(async () => {
      if (!design.saved) return
      design.project = await api.pin(design.saved.id)
      await design.readPinned()
      say(`Figures are now compared with scheme ${design.saved.letter}.`)
    })
  const remove = () =>
    saying(async () => {
      if (!design.saved || !design.project) return
      const { id, letter } = design.saved
      await api.deleteScheme(id)
      const next = design.project.schemes.find((s) => s.id !== id)
      await design.readProject()
      if (next) await router.push(inScheme(next.id))
      say(`Scheme ${letter} is deleted.`, { label: 'Undo', run: () => restore(id) })
    })
  const restore = (id: number) =>
    saying(async () => {
      await api.restoreScheme(id)
      await design.readProject()
      await router.push(inScheme(id))
    })
  const renameProject = (name: string) =>
    saying(async () => {
      if (name && design.project) design.project = await api.editProject(design.project.id, { name })
    })
  function renameScheme(name: string) {
    if (name && name !== design.at('/name')) design.edit({ name })
  }
  /** The scheme as a document: what the command line simulates, and what the first page opens again. */
  function save() {
    const name = String(design.at('/name') ?? 'scheme')
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, '-')
    const link = document.createElement('a')
    link.href = URL.createObjectURL(new Blob([JSON.stringify(design.document, null, 2)], { type: 'application/json' }))
    link.download = `${name}.json`
    link.click()
    URL.revokeObjectURL(link.href)
  }
  return { inScheme, fork, pin, remove, renameProject, renameScheme, save }
}
