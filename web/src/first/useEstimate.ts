import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { api, Problem, type EstimateAnswer, type EstimateRequest, type PlaceAnswer } from '@/api/client'
import { useNewest } from '@/stores/useNewest'
import { readStored } from '@/stores/browserStorage'

const KEY = 'noontide-estimate'
const WAIT_MS = 60

export const STARTS = [
  { key: 'power', label: 'a power', unit: 'kW', first: 8.6, step: 0.1 },
  { key: 'modules', label: 'a number of modules', unit: 'modules', first: 20, step: 1 },
  { key: 'area', label: 'an area', unit: 'm²', first: 40, step: 1 },
  { key: 'demand', label: 'a yearly demand', unit: 'kWh a year', first: 4000, step: 100 },
  { key: 'use', label: 'a share of the use', unit: '% of the use', first: 85, step: 5 },
  { key: 'bill', label: 'a share of the bill', unit: '% of the bill', first: 60, step: 5 },
  { key: 'value', label: 'the best value', unit: 'm²', first: 60, step: 1 },
] as const
export type Start = (typeof STARTS)[number]['key']

/** Whether a start asks for a share of what is used. */
export const sharesUse = (start: Start) => start === 'use' || start === 'bill'
/** Whether it needs use and prices. */
const needsUse = (start: Start) => sharesUse(start) || start === 'value'
const FIRST_USE = 4000

/** The sentence as it is first seen. */
const FIRST = {
  start: 'power',
  amount: 8.6,
  latitude: 51.31,
  longitude: -2.36,
  elevation: null as number | null,
  place: 'the Weir valley',
  tilt: 35,
  azimuth: 160,
  mounting: 'roof, ventilated',
  module: 'veltrane-430',
  inverter: '',
  use: 0,
  use_shape: 'household',
  currency: null as string | null,
  price: 0.3,
  export_price: 0.08,
  work: 600,
  battery: false,
} satisfies EstimateRequest
type Asked = Required<Pick<EstimateRequest, keyof typeof FIRST>>

/** The Quick estimate: what is asked, kept over a reload, and its newest answer; each change asks again. */
export function useEstimate() {
  const asked = reactive<Asked>({ ...FIRST })
  const answer = shallowRef<EstimateAnswer | null>(null)
  const refused = ref('')
  const busy = ref(false)
  const amounts: Record<Start, number> = {
    power: 8.6,
    modules: 20,
    area: 40,
    demand: 4000,
    use: 85,
    bill: 60,
    value: 60,
  }
  for (const start of STARTS) amounts[start.key] = start.first
  const { newest } = useNewest()
  let timer = 0

  async function ask() {
    busy.value = true
    try {
      const found = await newest((signal) => api.estimate({ ...asked }, signal))
      if (!found) return
      answer.value = found
      refused.value = ''
      localStorage.setItem(KEY, JSON.stringify(asked))
    } catch (error) {
      refused.value = wordsOf(error as Error)
    }
    busy.value = false
  }
  watch(asked, () => {
    window.clearTimeout(timer)
    timer = window.setTimeout(ask, WAIT_MS)
  })

  /** Begin with what was asked last time, at another place if one is given. */
  async function recall(place: string) {
    const kept = readStored<Asked>(KEY)
    if (kept) {
      Object.assign(asked, kept)
      amounts[kept.start] = kept.amount
    }
    if (place) {
      const { places } = await api.places(place)
      if (places[0]) moveTo(places[0])
    }
    await ask()
  }
  /** The same plant from another start: the last answer gives the new start its amount. */
  function startFrom(start: Start) {
    const headline = answer.value?.evaluation.headline
    if (answer.value && headline)
      Object.assign(amounts, {
        power: Math.round(answer.value.power * 100) / 100,
        modules: answer.value.modules,
        area: Math.ceil(answer.value.area),
        demand: Math.round(headline.energy),
      })
    if (needsUse(start) && !asked.use) asked.use = FIRST_USE
    asked.start = start
    asked.amount = amounts[start]
  }
  /** Use and price in the sentence, or out of it again. */
  function sayUse(isSaid: boolean) {
    asked.use = isSaid ? FIRST_USE : 0
    if (!isSaid) asked.battery = false
    if (!isSaid && needsUse(asked.start)) startFrom('power')
  }
  function setAmount(value: number) {
    asked.amount = value
    amounts[asked.start] = value
  }
  /** Over the equator the array turns round with the sun. */
  function moveTo(place: PlaceAnswer) {
    const isOther = place.latitude < 0 !== asked.latitude < 0
    Object.assign(asked, { latitude: place.latitude, longitude: place.longitude, place: place.name, elevation: null })
    if (isOther) asked.azimuth = (540 - asked.azimuth) % 360
  }
  const start = computed(() => STARTS.find((s) => s.key === asked.start)!)

  return { asked, start, answer, refused, busy, recall, startFrom, sayUse, setAmount, moveTo }
}

function wordsOf(error: Error): string {
  if (!(error instanceof Problem)) return error.message
  return (error.findings[0]?.detail ?? error.detail) || error.title
}
