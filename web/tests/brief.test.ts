import { createPinia, setActivePinia } from 'pinia'
import { createApp, h, nextTick, type Component } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Json, JsonObject } from '@/api/mergePatch'
import { joinPatches, mergePatch } from '@/api/mergePatch'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import MonthlyValues from '@/brief/MonthlyValues.vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { showScheme } from './showScheme'
import { useLibrary } from '@/stores/library'
import designSchema from '../../docs/formats/design.schema.json'
import { serve } from './fetching'

/** The store without a server: an edit is laid over the document, and kept to be looked at. */
let patches: JsonObject[] = []
let unmount = () => {}

beforeEach(async () => {
  setActivePinia(createPinia())
  patches = []
  const answers: Record<string, unknown> = {
    '/api/design-schema': designSchema,
    '/api/parts': { modules: [], inverters: [] },
    '/api/quantities': [],
    '/api/figures': { figures: [], lines: [] },
  }
  serve(async (path: string) => {
    return new Response(JSON.stringify(answers[path]), { headers: { 'Content-Type': 'application/json' } })
  })
  await useLibrary().read()
})
afterEach(() => {
  unmount()
  document.body.innerHTML = ''
  vi.unstubAllGlobals()
})

function open(start: JsonObject) {
  const design = useSchemeStore()
  let kept: Json = start
  const show = () => {
    showScheme({ id: 1, revision: patches.length, document: kept, evaluation: { state: 'exact', brief: [] } })
  }
  design.edit = (patch: JsonObject) => {
    patches.push(patch)
    kept = mergePatch(kept, patch)
    show()
  }
  show()
  return { design, document: () => kept as JsonObject }
}
function mount(component: Component, props: Record<string, unknown>) {
  const app = createApp({ render: () => h(component, props) })
  const root = document.body.appendChild(document.createElement('div'))
  app.mount(root)
  unmount = () => app.unmount()
  return root
}
const press = (on: Element, key: string, more: KeyboardEventInit = {}) =>
  on.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }))
function type(input: HTMLInputElement, text: string) {
  input.focus()
  input.value = text
  input.dispatchEvent(new Event('input'))
}

describe('a number of the Brief', () => {
  const tilt = { pointer: '/surfaces/roof/tilt', label: 'Tilt' }
  const roof = { surfaces: { roof: { tilt: 18 } } }
  const note = (root: Element) => root.querySelector('[role=status]')!.textContent!.replace(/\s+/g, ' ').trim()

  it('is edited in place and sent as the smallest patch', () => {
    open(roof)
    const input = mount(BriefNumber, tilt).querySelector('input')!
    type(input, '25')
    press(input, 'Enter')
    expect(patches).toEqual([{ surfaces: { roof: { tilt: 25 } } }])
  })
  it('sends nothing when it is left as it was', () => {
    open(roof)
    const input = mount(BriefNumber, tilt).querySelector('input')!
    type(input, '18')
    input.blur()
    expect(patches).toEqual([])
  })
  it('says what is wrong, keeps what was typed and sends nothing', async () => {
    open(roof)
    const root = mount(BriefNumber, tilt)
    const input = root.querySelector('input')!
    type(input, '95')
    press(input, 'Enter')
    await nextTick()
    expect(note(root)).toBe('Enter a value between 0 and 90.')
    expect([input.value, input.getAttribute('aria-invalid')]).toEqual(['95', 'true'])
    expect(patches).toEqual([])
  })
  it('steps by its own step, ten times as far with Shift, and stops at its range', async () => {
    const { document } = open({ surfaces: { roof: { tilt: 84 } } })
    const input = mount(BriefNumber, tilt).querySelector('input')!
    input.focus()
    press(input, 'ArrowUp')
    await nextTick()
    expect(input.value).toBe('85')
    press(input, 'ArrowUp', { shiftKey: true })
    await nextTick()
    expect(document()).toEqual({ surfaces: { roof: { tilt: 90 } } })
    press(input, 'ArrowDown', { shiftKey: true })
    await nextTick()
    expect(document()).toEqual({ surfaces: { roof: { tilt: 80 } } })
  })
  it('takes all its steps back with Esc', async () => {
    const { document } = open(roof)
    const input = mount(BriefNumber, tilt).querySelector('input')!
    input.focus()
    press(input, 'ArrowUp')
    press(input, 'ArrowUp')
    await nextTick()
    press(input, 'Escape')
    expect(document()).toEqual(roof)
  })
  it('shows a default as such, and says why it is one', async () => {
    open({ surfaces: { roof: {} } })
    const root = mount(BriefNumber, tilt)
    const input = root.querySelector('input')!
    input.focus()
    await nextTick()
    expect(input.value).toBe('30')
    expect(input.className).toContain('preset')
    expect(note(root)).toContain('Default value: 30 °. Close to the optimum at mid-latitudes.')
  })
  it('keeps its default beside an override, to be put back', async () => {
    const { document } = open(roof)
    const root = mount(BriefNumber, tilt)
    root.querySelector('input')!.focus()
    await nextTick()
    const back = root.querySelector('button')!
    expect(back.textContent).toContain('Reset to default')
    back.dispatchEvent(new MouseEvent('mousedown', { bubbles: true }))
    expect(document()).toEqual({ surfaces: { roof: {} } })
  })
  it('shows what the server found wrong with it', async () => {
    const { design } = open(roof)
    const root = mount(BriefNumber, tilt)
    design.editor!.refused.value = [{ pointer: '/surfaces/roof/tilt', detail: 'Too steep for these rows.', value: 80 }]
    await nextTick()
    expect(note(root)).toBe('Too steep for these rows.')
  })
})

describe('a choice of the Brief', () => {
  const sky = { pointer: '/models/transposition', label: 'Sky model' }
  it('offers what the schema has, its default picked', () => {
    open({})
    const select = mount(BriefChoice, sky).querySelector('select')!
    expect([...select.options].map((option) => option.value)).toEqual(['perez', 'reindl', 'hay-davies', 'isotropic'])
    expect(select.value).toBe('perez')
  })
  it('sends what was chosen', () => {
    open({})
    const select = mount(BriefChoice, sky).querySelector('select')!
    select.value = 'isotropic'
    select.dispatchEvent(new Event('change'))
    expect(patches).toEqual([{ models: { transposition: 'isotropic' } }])
  })
})

describe('values by month', () => {
  const soiling = { pointer: '/losses/soiling_by_month', label: 'Soiling' }
  const twelve = [6, 5, 4, 3, 2, 1, 1, 1, 2, 3, 4, 5]

  it('begin as the one of the year, or its default', async () => {
    open({ losses: { soiling: 4 } })
    mount(MonthlyValues, soiling).querySelector('button')!.click()
    expect(patches).toEqual([{ losses: { soiling_by_month: Array.from({ length: 12 }, () => 4) } }])
    open({})
    mount(MonthlyValues, soiling).querySelector('button')!.click()
    expect(patches.at(-1)).toEqual({ losses: { soiling_by_month: Array.from({ length: 12 }, () => 2) } })
  })
  it('change one at a time, within the range of the schema', async () => {
    const { document } = open({ losses: { soiling_by_month: twelve } })
    const root = mount(MonthlyValues, soiling)
    const march = root.querySelector<HTMLInputElement>('[aria-label="Soiling in Mar"]')!
    type(march, '60')
    march.blur()
    expect(patches).toEqual([])
    type(march, '7,5')
    march.blur()
    expect((document().losses as JsonObject).soiling_by_month).toEqual([6, 5, 7.5, ...twelve.slice(3)])
  })
  it('take a column of a spreadsheet, whole or not at all', () => {
    open({ losses: { soiling_by_month: twelve } })
    const months = mount(MonthlyValues, soiling).querySelector('.months')!
    const paste = (text: string) => {
      const clipboardData = { getData: () => text }
      months.dispatchEvent(Object.assign(new Event('paste'), { clipboardData }))
    }
    paste('1\n2\n3')
    paste(`${'1\n'.repeat(11)}80`)
    expect(patches).toEqual([])
    paste('0,5\n1\n2\n3\n4\n5\n6\n7\n8\n9\n10\n11\n')
    expect(patches).toEqual([{ losses: { soiling_by_month: [0.5, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11] } }])
  })
  it('give way to Use one annual value', () => {
    const { document } = open({ losses: { soiling_by_month: twelve } })
    const root = mount(MonthlyValues, soiling)
    ;[...root.querySelectorAll('button')]
      .find((button) => button.textContent!.includes('Use one annual value'))!
      .click()
    expect(document()).toEqual({ losses: {} })
  })
})

it('edits joined on their way end as edits made one by one', () => {
  const first = { losses: { soiling_by_month: [1] } }
  const second = { losses: { soiling_by_month: null } }
  const base = { losses: { soiling: 3 } }
  expect(mergePatch(base, joinPatches(first, second))).toEqual(mergePatch(mergePatch(base, first), second))
})
