import { createApp, h, nextTick, ref } from 'vue'
import { afterEach, describe, expect, it, vi } from 'vitest'
import BlankNumber from '@/brief/BlankNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import PlaceSearch from '@/places/PlaceSearch.vue'
import { serve } from './fetching'

let unmount = () => {}
afterEach(() => {
  unmount()
  vi.useRealTimers()
  vi.unstubAllGlobals()
  document.body.innerHTML = ''
})

/** A field in a parent that is drawn again whenever `tick` moves, as it is when an answer arrives. */
function mount(draw: () => ReturnType<typeof h>) {
  const tick = ref(0)
  const app = createApp({ render: () => h('p', { 'data-tick': tick.value }, [draw()]) })
  const root = document.body.appendChild(document.createElement('div'))
  app.mount(root)
  unmount = () => app.unmount()
  return {
    input: root.querySelector('input')!,
    redraw: () => {
      tick.value++
      return nextTick()
    },
  }
}
function type(input: HTMLInputElement, text: string) {
  for (let i = 1; i <= text.length; i++) {
    input.value = text.slice(0, i)
    input.dispatchEvent(new Event('input'))
  }
}
const press = (input: HTMLInputElement, key: string) =>
  input.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))

describe('a name that is being typed', () => {
  function name(saved = 'New surface') {
    const value = ref(saved)
    const kept: string[] = []
    const left: number[] = []
    return {
      value,
      kept,
      left,
      ...mount(() =>
        h(BriefText, {
          value: value.value,
          label: 'Name',
          onChange: (text: string) => kept.push(text),
          onLeave: () => left.push(1),
        }),
      ),
    }
  }
  it('stays while answers arrive and everything is drawn again', async () => {
    const n = name()
    type(n.input, 'Lean-to')
    n.value.value = 'Surface, elsewhere renamed'
    await n.redraw()
    expect(n.input.value).toBe('Lean-to')
    press(n.input, 'Enter')
    expect(n.kept).toEqual(['Lean-to'])
  })
  it('is handed over once by Enter and by leaving', async () => {
    const n = name()
    type(n.input, ' Lean-to ')
    press(n.input, 'Enter')
    n.input.dispatchEvent(new FocusEvent('blur'))
    expect(n.kept).toEqual(['Lean-to'])
    expect(n.left).toEqual([1])
  })
  it('is taken back by Esc', async () => {
    const n = name()
    type(n.input, 'Lean')
    press(n.input, 'Escape')
    await nextTick()
    expect(n.input.value).toBe('New surface')
    expect(n.kept).toEqual([])
  })
  it('is not handed over when nothing was typed', () => {
    const n = name()
    press(n.input, 'Enter')
    expect(n.kept).toEqual([])
  })
})

describe('a number of the quick estimate', () => {
  function amount() {
    const value = ref(20)
    const told: (string | null)[] = []
    return {
      value,
      told,
      ...mount(() =>
        h(BlankNumber, {
          live: true,
          value: value.value,
          label: 'Amount',
          range: { min: 0.1, max: 100 },
          step: 0.1,
          onChange: (n: number) => {
            value.value = n
          },
          onProblem: (text: string | null) => told.push(text),
        }),
      ),
    }
  }
  it('keeps a decimal point that waits for its digits', async () => {
    const a = amount()
    type(a.input, '8.')
    await a.redraw()
    expect(a.input.value).toBe('8.')
    type(a.input, '8.5')
    await a.redraw()
    expect([a.input.value, a.value.value]).toEqual(['8.5', 8.5])
  })
  it('answers while it is typed, and says what is wrong only once it is finished', async () => {
    const a = amount()
    type(a.input, '500')
    expect(a.value.value).toBe(50)
    expect(a.told.filter(Boolean)).toEqual([])
    a.input.dispatchEvent(new Event('change'))
    expect(a.told.at(-1)).toBe('Enter a value between 0.1 and 100.')
    expect(a.input.value).toBe('500')
  })
  it('is stepped by the arrow keys, within its range', async () => {
    const a = amount()
    press(a.input, 'ArrowDown')
    await nextTick()
    expect([a.value.value, a.input.value]).toEqual([19.9, '19.9'])
  })
})

describe('a place that is searched', () => {
  it('is asked for again when the server does not answer, and says so meanwhile', async () => {
    vi.useFakeTimers()
    let isAway = true
    serve(async () => {
      if (isAway) throw new TypeError('Failed to fetch')
      return new Response(JSON.stringify({ places: [{ name: 'Orrin', country: '' }], is_sure: true, remark: '' }))
    })
    const { input } = mount(() => h(PlaceSearch))
    const shown = () => input.parentElement!.querySelector('ul')!.textContent
    type(input, 'Orrin')
    await vi.advanceTimersByTimeAsync(200)
    expect(shown()).toContain('not answering')
    isAway = false
    await vi.advanceTimersByTimeAsync(2000)
    expect(shown()).toContain('Orrin')
    expect(shown()).not.toContain('not answering')
  })
})
