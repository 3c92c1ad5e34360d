import { watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

/** Does what an address asks for by `act=name`, once, on the page that knows how. */
export function useAskedAct(acts: Record<string, () => unknown>, isReady: () => boolean = () => true) {
  const route = useRoute()
  const router = useRouter()
  watch(
    () => [route.query.act, isReady()] as const,
    ([act, ready]) => {
      if (typeof act !== 'string' || !acts[act] || !ready) return
      void router.replace({ query: { ...route.query, act: undefined } })
      acts[act]()
    },
    { immediate: true },
  )
}
