import { createPinia, setActivePinia } from 'pinia'
import { createApp, h, nextTick } from 'vue'
import { createVuetify } from 'vuetify'
import { createMemoryHistory, createRouter } from 'vue-router'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { CheckAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import CheckList from '@/headline/CheckList.vue'
import PartPicker from '@/parts/PartPicker.vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { showScheme } from './showScheme'
import { useSorting } from '@/tables/useSorting'
import { useLibrary } from '@/stores/library'
import { NO_FILTER, passes } from '@/parts/partFilter'
import type { InverterLine, ModuleLine } from '@/api/client'
import inverters from '../../noontide/parts/inverters.json'
import modules from '../../noontide/parts/modules.json'

let unmount = () => {}
beforeEach(() => {
  setActivePinia(createPinia())
  vi.stubGlobal('visualViewport', new EventTarget())
})
afterEach(() => {
  unmount()
  document.body.innerHTML = ''
  vi.unstubAllGlobals()
})

describe('the parts library', () => {
  async function picker(kind: 'module' | 'inverter', more: Record<string, unknown> = {}) {
    useLibrary().parts = {
      modules: modules.map((m) => ({
        ...m,
        area_square_metres: m.length * m.width,
        efficiency_percent: m.power / (m.length * m.width * 10),
      })),
      inverters: inverters.map((i) => ({ ...i, european_efficiency: 97, peak_efficiency: 98 })),
    } as unknown as ReturnType<typeof useLibrary>['parts']
    const chosen: string[] = []
    const props = { modelValue: true, kind, chosen: '', onChoose: (id: string) => chosen.push(id), ...more }
    const app = createApp({ render: () => h(PartPicker, props) })
    app.use(createVuetify())
    app.mount(document.body.appendChild(document.createElement('div')))
    unmount = () => app.unmount()
    await nextTick()
    const rows = () => [...document.querySelectorAll('.picker tbody tr')].map((row) => row.textContent!.trim())
    const sortBy = async (title: string) => {
      const heads = [...document.querySelectorAll<HTMLElement>('.picker thead button')]
      heads.find((head) => head.textContent!.trim().startsWith(title))!.click()
      await nextTick()
    }
    const filter = async (text: string) => {
      const field = document.querySelector<HTMLInputElement>('.picker input[type=search]')!
      field.value = text
      field.dispatchEvent(new Event('input'))
      await nextTick()
    }
    return { chosen, rows, sortBy, filter }
  }

  it('has twelve modules and ten inverters at least, each in its row', async () => {
    const list = await picker('module')
    expect(list.rows()).toHaveLength(modules.length)
    expect(modules.length).toBeGreaterThanOrEqual(12)
    expect(inverters.length).toBeGreaterThanOrEqual(10)
  })
  it('is filtered by words in any order: maker, name, year, kind of cell', async () => {
    const list = await picker('module')
    await list.filter('2022 quillon')
    expect(list.rows()).toHaveLength(1)
    await list.filter('cdte')
    expect(list.rows()).toHaveLength(modules.filter((m) => m.technology === 'CdTe').length)
    await list.filter('nobody')
    expect(list.rows().filter((row) => row.includes('W'))).toHaveLength(0)
  })
  it('is sorted by any column, up and then down', async () => {
    const list = await picker('module')
    const first = () => list.rows()[0]!
    const powers = modules.map((m) => m.power).sort((a, b) => a - b)
    expect(first()).toContain(String(powers[0]))
    await list.sortBy('Power')
    expect(first()).toContain(String(powers.at(-1)))
    await list.sortBy('Year')
    expect(first()).toContain(String(Math.min(...modules.map((m) => m.year))))
  })
  it('opens at a part that was found elsewhere', async () => {
    const list = await picker('inverter', { find: 'Hexley 20' })
    expect(list.rows()).toHaveLength(1)
    document.querySelector<HTMLElement>('.picker tbody .name')!.click()
    expect(list.chosen).toEqual(['hexley-20'])
  })
})

describe('a check', () => {
  const check = {
    rule: 'cold-open-circuit',
    severity: 'error',
    title: '26 modules in a string are too many in the cold',
    detail: 'Open circuit at −10 °C is 1,098 V; the inverter bears 1,000 V.',
    bench: 'circuits',
    pointer: '/subarrays/south/modules_per_string',
    source: 'IEC 62548-1',
    key: 'cold-open-circuit:/subarrays/south/modules_per_string',
    accepted: '',
    actual: 1098,
    limit: 1000,
    margin: 98,
    unit: 'V',
    remedies: [{ label: 'Make it 23', patch: { subarrays: { south: { modules_per_string: 23 } } } }],
  } as unknown as CheckAnswer

  async function list(bench: string) {
    const patches: JsonObject[] = []
    const design = useSchemeStore()
    design.edit = (patch: JsonObject) => void patches.push(patch)
    showScheme({ id: 2, document: {}, evaluation: { state: 'exact', checks: [check] } })
    const router = createRouter({
      history: createMemoryHistory(),
      routes: [{ path: '/:project/:scheme/:bench', name: 'bench', component: { template: '<p />' } }],
    })
    await router.push(`/1/2/${bench}`)
    const root = document.body.appendChild(document.createElement('div'))
    const app = createApp({ render: () => h(CheckList) })
    app.use(router).mount(root)
    unmount = () => app.unmount()
    return { root, patches }
  }
  it('says what is wrong, with its figures and its source', async () => {
    const { root } = await list('surfaces')
    expect(root.textContent).toContain(check.title)
    expect(root.textContent).toContain(check.detail)
    expect(root.textContent).toContain('1,098 V, limit 1,000 V; off by 98.00 V. IEC 62548-1.')
  })
  it('is mended by one click', async () => {
    const { root, patches } = await list('surfaces')
    ;[...root.querySelectorAll('button')].find((b) => b.textContent!.includes('Make it 23'))!.click()
    expect(patches).toEqual([{ subarrays: { south: { modules_per_string: 23 } } }])
  })
  it('is accepted with a reason, and with the value of the day', async () => {
    const { root, patches } = await list('surfaces')
    const button = (name: string) => [...root.querySelectorAll('button')].find((b) => b.textContent!.trim() === name)!
    button('Accept…').click()
    await nextTick()
    expect(button('Accept').disabled).toBe(true)
    const reason = root.querySelector<HTMLInputElement>('input')!
    reason.value = ' Never so cold. '
    reason.dispatchEvent(new Event('input'))
    await nextTick()
    root.querySelector('form')!.dispatchEvent(new Event('submit'))
    expect(patches).toEqual([
      { accepted: { [check.key]: { reason: 'Never so cold.', title: check.title, actual: 1098 } } },
    ])
  })
  it('leads to its bench from any other', async () => {
    expect((await list('surfaces')).root.querySelector('a')!.getAttribute('href')).toBe('/1/2/circuits')
    unmount()
    document.body.innerHTML = ''
    expect((await list('circuits')).root.querySelector('a')).toBeNull()
  })
})

describe('the order of a list', () => {
  const list = [
    { name: 'Quillon', power: 410 },
    { name: 'thornby', power: 95 },
    { name: 'Veltrane', power: 1020 },
  ]
  const order = (sorting: ReturnType<typeof useSorting>) =>
    sorting.sorted(list, (entry, column) => entry[column as 'name' | 'power']).map((entry) => entry.power)

  it('is by size for numbers and by the alphabet for words, whatever their case', () => {
    const sorting = useSorting('power')
    expect(order(sorting)).toEqual([95, 410, 1020])
    sorting.sort('name')
    expect(order(sorting)).toEqual([410, 95, 1020])
  })
  it('turns round at the second click, and begins anew with another column', () => {
    const sorting = useSorting('power')
    sorting.sort('power')
    expect(order(sorting)).toEqual([1020, 410, 95])
    sorting.sort('name')
    expect(sorting.rising.value).toBe(true)
  })
  it('leaves the list itself as it was', () => {
    useSorting('name').sorted(list, (entry) => entry.name)
    expect(list.map((entry) => entry.power)).toEqual([410, 95, 1020])
  })
})

describe('the filter of the library', () => {
  const fitting = (filter: Partial<typeof NO_FILTER>, parts: unknown[]) =>
    parts.filter((part) => passes(part as ModuleLine | InverterLine, { ...NO_FILTER, ...filter })).length

  it('lets everything through while it is empty', () => {
    expect(fitting({}, modules)).toBe(modules.length)
    expect(fitting({}, inverters)).toBe(inverters.length)
  })
  it('takes the power of modules in watts and of inverters in kilowatts', () => {
    expect(fitting({ from: 400, to: 450 }, modules)).toBe(
      modules.filter((m) => m.power >= 400 && m.power <= 450).length,
    )
    expect(fitting({ from: 10, to: 20 }, inverters)).toBe(
      inverters.filter((i) => i.ac_power >= 10_000 && i.ac_power <= 20_000).length,
    )
  })
  it('has every inverter under the one kind that the library gives it', () => {
    const given = inverters.map((i) => ({ kind: 'string', ...i }))
    const kinds = ['string', 'micro', 'hybrid', 'stand-alone'].map((kind) => fitting({ kind }, given))
    expect(kinds.reduce((sum, n) => sum + n, 0)).toBe(inverters.length)
    expect(kinds.every((n) => n > 0)).toBe(true)
  })
  it('asks for phases, voltage and trackers together', () => {
    expect(fitting({ phases: '3', voltage: 1500, trackers: 12 }, inverters)).toBe(1)
  })
})
