import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { mergePatch, type Json, type JsonObject } from '@/api/mergePatch'
import { useDesign } from '@/stores/design'
import { useLibrary } from '@/stores/library'
import { freshId, useScheme } from '@/stores/useScheme'
import designSchema from '../../docs/formats/scheme.schema.json'

/** A server in miniature behind `fetch`: one scheme, revisions, If-Match; it can be slow, away or refuse. */
class Server {
  revision = 1
  document: JsonObject = {
    name: 'A',
    site: { latitude: 51, longitude: -2 },
    surfaces: { roof: { tilt: 30 } },
    losses: { soiling: 2 },
  }
  away = false
  refuses: { pointer: string; detail: string } | null = null
  patches: JsonObject[] = []
  hold: Promise<void> | null = null
  history: JsonObject[] = []

  answer() {
    return {
      id: 7,
      project: 3,
      letter: 'A',
      revision: this.revision,
      can_undo: this.history.length > 0,
      can_redo: false,
      document: this.document,
      changed: [],
      evaluation: { headline: { energy: this.revision }, cascade: null, checks: [], benches: [], weather: null },
    }
  }
  reply(body: unknown, status = 200): Response {
    return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
  }
  fetch = async (path: string, options: RequestInit = {}): Promise<Response> => {
    if (this.away) throw new TypeError('Failed to fetch')
    if (path === '/api/projects/3')
      return this.reply({
        id: 3,
        name: 'P',
        customer: '',
        note: '',
        changed: '',
        pinned: 7,
        schemes: [{ id: 7, letter: 'A', name: 'A', pinned: true }],
      })
    if (path === '/api/design-schema') return this.reply(designSchema)
    if (path === '/api/parts') return this.reply({ modules: [], inverters: [] })
    if (path === '/api/quantities') return this.reply([])
    if (options.method === 'GET') return this.reply(this.answer())
    const based = Number((options.headers as Record<string, string>)['If-Match']!.replaceAll('"', ''))
    if (this.hold) await this.hold
    if (based !== this.revision)
      return this.reply({ type: '/problems/stale-revision', title: 'stale', status: 412 }, 412)
    if (path.endsWith('/undo')) {
      this.document = this.history.pop()!
      this.revision++
      return this.reply(this.answer())
    }
    if (this.refuses)
      return this.reply(
        { type: '/problems/invalid-design', title: 'invalid', detail: this.refuses.detail, errors: [this.refuses] },
        422,
      )
    const patch = JSON.parse(String(options.body)) as JsonObject
    this.patches.push(patch)
    this.history.push(this.document)
    this.document = mergePatch(this.document, patch) as JsonObject
    this.revision++
    return this.reply(this.answer())
  }
  /** What another window would do. */
  editElsewhere(patch: JsonObject) {
    this.document = mergePatch(this.document, patch) as JsonObject
    this.revision++
  }
}

let server: Server
beforeEach(() => {
  setActivePinia(createPinia())
  localStorage.clear()
  server = new Server()
  vi.stubGlobal('fetch', server.fetch)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})
async function opened() {
  const design = useDesign()
  await design.open(3, 7)
  return design
}
const tilt = (value: Json) => ({ surfaces: { roof: { tilt: value } } })

describe('an edit', () => {
  it('shows at once and is true once the server has answered', async () => {
    const design = await opened()
    design.edit(tilt(35))
    expect(design.at('/surfaces/roof/tilt')).toBe(35)
    expect(design.isStale).toBe(true)
    await design.settled()
    expect(design.isStale).toBe(false)
    expect(design.saved?.revision).toBe(2)
    expect(server.document).toMatchObject(tilt(35))
  })

  it('waits while another is under way, and is joined with those that wait', async () => {
    const design = await opened()
    let release = () => {}
    server.hold = new Promise((done) => {
      release = done
    })
    for (const value of [31, 32, 33, 34]) design.edit(tilt(value))
    design.edit({ losses: { soiling: null } })
    expect(design.at('/surfaces/roof/tilt')).toBe(34)
    release()
    server.hold = null
    await design.settled()
    expect(server.patches).toEqual([tilt(31), { ...tilt(34), losses: { soiling: null } }])
    expect(design.at('/surfaces/roof/tilt')).toBe(34)
    expect(design.at('/losses/soiling')).toBeUndefined()
  })

  it('that is refused is taken back and told at its value', async () => {
    const design = await opened()
    server.refuses = { pointer: '/surfaces/roof/tilt', detail: 'Choose 90 or less.' }
    design.edit(tilt(95))
    await design.settled()
    expect(design.at('/surfaces/roof/tilt')).toBe(30)
    expect(design.refused).toEqual([{ pointer: '/surfaces/roof/tilt', detail: 'Choose 90 or less.', value: 95 }])
    server.refuses = null
    design.edit(tilt(40))
    expect(design.refused).toEqual([])
  })

  it('laid over what someone else has changed keeps both', async () => {
    const design = await opened()
    server.editElsewhere({ losses: { soiling: 5 } })
    design.edit(tilt(41))
    await design.settled()
    expect(server.document).toMatchObject({ ...tilt(41), losses: { soiling: 5 } })
    expect(design.notice).toContain('changed elsewhere')
  })
})

describe('with the server away', () => {
  it('edits are kept, sent when it is back, and nothing is doubled', async () => {
    vi.useFakeTimers()
    const design = await opened()
    server.away = true
    design.edit(tilt(20))
    design.edit({ losses: { soiling: 7 } })
    await vi.advanceTimersByTimeAsync(100)
    expect(design.away).toBe(true)
    expect(design.at('/surfaces/roof/tilt')).toBe(20)
    expect(JSON.parse(localStorage.getItem('noontide-unsent-7')!)).toEqual({ ...tilt(20), losses: { soiling: 7 } })
    server.away = false
    await vi.advanceTimersByTimeAsync(4000)
    expect(design.away).toBe(false)
    expect(server.patches).toHaveLength(1)
    expect(server.document).toMatchObject({ ...tilt(20), losses: { soiling: 7 } })
    expect(localStorage.getItem('noontide-unsent-7')).toBeNull()
  })

  it('edits survive a reload', async () => {
    localStorage.setItem('noontide-unsent-7', JSON.stringify(tilt(22)))
    const design = await opened()
    await design.settled()
    expect(server.document).toMatchObject(tilt(22))
  })
})

describe('undo', () => {
  it('waits for edits on their way, then goes back', async () => {
    const design = await opened()
    design.edit(tilt(50))
    await design.undo()
    expect(design.at('/surfaces/roof/tilt')).toBe(30)
  })
  it('does nothing where there is nothing', async () => {
    const design = await opened()
    await design.undo()
    expect(design.saved?.revision).toBe(1)
  })
})

describe('the scheme as lists', () => {
  it('fills in defaults and counts modules over all inverters of a set', async () => {
    server.document = {
      site: { latitude: 51, longitude: -2 },
      surfaces: { roof: {} },
      inverters: { main: { model: 'x', count: 3 } },
      subarrays: {
        b: { surface: 'roof', module: 'm', modules_per_string: 10, strings: 2, inverter: 'main', tracker: 2 },
        a: { surface: 'roof', module: 'm', modules_per_string: 5, inverter: 'main' },
      },
    }
    await opened()
    await useLibrary().read()
    const scheme = useScheme()
    expect(scheme.surfaces.value[0]).toMatchObject({ name: 'roof', tilt: 30, azimuth: 180, modules: 75 })
    expect(scheme.sets.value[0]!.strings.map((s) => [s.id, s.tracker])).toEqual([
      ['a', 1],
      ['b', 2],
    ])
  })
  it('names new things beside old ones', () => {
    expect(freshId('strings', ['strings-1', 'strings-3'])).toBe('strings-2')
  })
})
