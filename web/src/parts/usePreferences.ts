import { computed, readonly, ref, shallowRef } from 'vue'
import { api, type Preference } from '@/api/client'
import { useNotice } from '@/notice/useNotice'

export const FAVOURITES = 'Favourites'
/** One list for the whole application. */
const sets = shallowRef<Preference[]>([])
const isRead = ref(false)

/** Sets of preferred parts: favourites, and those of a region or a customer. */
export function usePreferences() {
  const { warn } = useNotice()

  async function read() {
    if (isRead.value) return
    try {
      sets.value = await api.preferences()
      isRead.value = true
    } catch (error) {
      warn((error as Error).message)
    }
  }
  const of = (name: string): Preference =>
    sets.value.find((set) => set.name === name) ?? {
      name,
      note: '',
      modules: [],
      inverters: [],
      rules: null,
      setbacks: [],
    }
  async function keep(set: Preference) {
    try {
      const kept = await api.keepPreference(set)
      sets.value = [...sets.value.filter((s) => s.name !== kept.name), kept].toSorted((a, b) =>
        a.name.localeCompare(b.name),
      )
    } catch (error) {
      warn((error as Error).message)
    }
  }
  /** Puts a part into a set, or takes it out of it. */
  async function toggle(name: string, kind: 'modules' | 'inverters', id: string) {
    const set = of(name)
    const ids = set[kind] ?? []
    await keep({ ...set, [kind]: ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id] })
  }
  async function remove(name: string) {
    try {
      await api.deletePreference(name)
      sets.value = sets.value.filter((set) => set.name !== name)
    } catch (error) {
      warn((error as Error).message)
    }
  }
  const names = computed(() => [...new Set([FAVOURITES, ...sets.value.map((set) => set.name)])])
  return { sets: computed(() => sets.value), isRead: readonly(isRead), names, of, read, keep, toggle, remove }
}
