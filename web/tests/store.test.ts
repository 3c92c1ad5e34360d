import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { sharing } from '@/api/sharing'
import { mergePatch, valueAt, type Json, type JsonObject } from '@/api/mergePatch'
import { useLibrary } from '@/stores/library'
import { forgetEditors } from '@/stores/schemeEditor'
import { freshId } from '@/stores/schemeLists'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useNotice } from '@/notice/useNotice'
import { useWeatherChoice } from '@/weather/useWeatherChoice'
import designSchema from '../../docs/formats/design.schema.json'
import { serve, type Sent } from './fetching'

/** A server in miniature behind `fetch`: two schemes, revisions, If-Match by value, gestures; slow, away, failing or refusing. */
class Scheme {
  revision = 1
  document: JsonObject
  history: JsonObject[] = []
  versions = new Map<number, JsonObject>()
  gesture = ''
  constructor(
    readonly id: number,
    tilt: number,
  ) {
    this.document = {
      name: 'A',
      site: { latitude: 51, longitude: -2 },
      surfaces: { roof: { tilt } },
      losses: { soiling: 2 },
    }
    this.versions.set(1, this.document)
  }
  take(document: JsonObject) {
    this.document = document
    this.versions.set(++this.revision, document)
  }
}
class Server {
  schemes = new Map([7, 8].map((id) => [id, new Scheme(id, id === 7 ? 30 : 60)]))
  away = false
  fails = 0
  refuses: { pointer: string; detail: string } | null = null
  patches: JsonObject[] = []
  hold: Promise<void> | null = null
  pending = false
  /** Readings are answered as things stood when they came in, once this is done. */
  slowReading: Promise<void> | null = null
  /** A year of weather is made once this is done. */
  weather: Promise<void> = Promise.resolve()

  get first() {
    return this.schemes.get(7)!
  }
  answer(scheme: Scheme) {
    const state = this.pending ? 'pending' : 'exact'
    const headline = this.pending ? null : { energy: scheme.revision }
    return {
      id: scheme.id,
      project: 3,
      letter: scheme.id === 7 ? 'A' : 'B',
      revision: scheme.revision,
      can_undo: scheme.history.length > 0,
      can_redo: false,
      document: scheme.document,
      changed: [],
      evaluation: { state, headline, cascade: null, checks: [], benches: [], weather: null, brief: [] },
    }
  }
  reply(body: unknown, status = 200): Response {
    return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
  }
  fetch = async (path: string, options: Sent): Promise<Response> => {
    if (this.away) throw new TypeError('Failed to fetch')
    if (path === '/api/projects/3')
      return this.reply({
        id: 3,
        name: 'P',
        customer: '',
        note: '',
        changed: '',
        pinned: 7,
        schemes: [7, 8].map((id) => ({ id, letter: id === 7 ? 'A' : 'B', name: 'A', pinned: id === 7 })),
      })
    if (path === '/api/design-schema') return this.reply(designSchema)
    if (path === '/api/parts') return this.reply({ modules: [], inverters: [] })
    if (path === '/api/figures') return this.reply({ figures: [], lines: [] })
    if (path === '/api/quantities') return this.reply([])
    if (path === '/api/weather/request') {
      await this.weather
      return this.reply({ id: 'j', state: 'done', progress: 1, message: '', result: { digest: 'new', title: 'New' } })
    }
    const scheme = this.schemes.get(Number(path.split('/')[3]))!
    if (options.method === 'GET') {
      const found = this.reply(this.answer(scheme))
      if (this.slowReading) await this.slowReading
      return found
    }
    const { headers } = options
    const based = Number(headers['if-match']!.replaceAll('"', ''))
    if (this.hold) await this.hold
    if (this.fails > 0) {
      this.fails--
      return this.reply({ title: 'The server failed', status: 500 }, 500)
    }
    if (path.endsWith('/undo')) {
      if (based !== scheme.revision) return this.reply({ title: 'The scheme has changed', status: 412 }, 412)
      scheme.take(scheme.history.pop()!)
      return this.reply(this.answer(scheme))
    }
    if (this.refuses) return this.reply({ title: 'invalid', detail: this.refuses.detail, errors: [this.refuses] }, 422)
    const body = JSON.parse(String(options.body)) as JsonObject
    // The one act there is raises the roof as it stands by then.
    const patch = path.endsWith('/acts/raise')
      ? tilt(Number(valueAt(scheme.document, '/surfaces/roof/tilt')) + Number(body.by))
      : body
    const base = scheme.versions.get(based) ?? {}
    const changed = ['/surfaces/roof/tilt', '/losses/soiling'].filter(
      (p) => valueAt(patch, p) !== undefined && valueAt(base, p) !== valueAt(scheme.document, p),
    )
    if (changed.length)
      return this.reply(
        {
          title: 'The scheme has changed',
          status: 412,
          errors: changed.map((pointer) => ({ pointer, detail: 'Changed since.' })),
        },
        412,
      )
    this.patches.push(patch)
    const isSameGesture = headers.edit !== undefined && headers.edit === scheme.gesture
    scheme.gesture = headers.edit ?? ''
    if (!isSameGesture) scheme.history.push(scheme.document)
    scheme.take(mergePatch(scheme.document, patch) as JsonObject)
    return this.reply(this.answer(scheme))
  }
  /** What another window would do. */
  editElsewhere(patch: JsonObject) {
    this.first.take(mergePatch(this.first.document, patch) as JsonObject)
  }
}

let server: Server
beforeEach(() => {
  setActivePinia(createPinia())
  forgetEditors()
  localStorage.clear()
  server = new Server()
  serve(server.fetch)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})
async function opened(id = 7) {
  const store = useSchemeStore()
  await store.open(id)
  return store
}
const tilt = (value: Json) => ({ surfaces: { roof: { tilt: value } } })
const keys = () => Object.keys(localStorage).filter((key) => key.startsWith('noontide-unsent'))

describe('an edit', () => {
  it('shows at once and is true once the server has answered', async () => {
    const store = await opened()
    void store.edit(tilt(35))
    expect(store.at('/surfaces/roof/tilt')).toBe(35)
    expect(store.isStale).toBe(true)
    await store.flush()
    expect(store.isStale).toBe(false)
    expect(store.saved?.revision).toBe(2)
    expect(server.first.document).toMatchObject(tilt(35))
  })

  it('waits while another is under way, and is joined with those that wait', async () => {
    const store = await opened()
    let release = () => {}
    server.hold = new Promise((done) => {
      release = done
    })
    for (const value of [31, 32, 33, 34]) void store.edit(tilt(value))
    void store.edit({ losses: { soiling: null } })
    expect(store.at('/surfaces/roof/tilt')).toBe(34)
    release()
    server.hold = null
    await store.flush()
    expect(server.patches).toEqual([tilt(31), { ...tilt(34), losses: { soiling: null } }])
    expect(store.at('/losses/soiling')).toBeUndefined()
  })

  it('is not taken back by a reading from before it that comes late', async () => {
    const store = await opened()
    let release = () => {}
    server.slowReading = new Promise((done) => {
      release = done
    })
    const reading = store.read()
    void store.edit(tilt(35))
    await store.flush()
    release()
    await reading
    expect(store.at('/surfaces/roof/tilt')).toBe(35)
    expect(store.saved?.revision).toBe(2)
  })

  it('that is refused is taken back and told at its value', async () => {
    const store = await opened()
    server.refuses = { pointer: '/surfaces/roof/tilt', detail: 'Enter 90 or less.' }
    void store.edit(tilt(95))
    await store.flush()
    expect(store.at('/surfaces/roof/tilt')).toBe(30)
    expect(store.refused).toEqual([{ pointer: '/surfaces/roof/tilt', detail: 'Enter 90 or less.', value: 95 }])
    server.refuses = null
    void store.edit(tilt(40))
    expect(store.refused).toEqual([])
  })

  it('beside what someone else has changed keeps both', async () => {
    const store = await opened()
    server.editElsewhere({ losses: { soiling: 5 } })
    void store.edit(tilt(41))
    await store.flush()
    expect(server.first.document).toMatchObject({ ...tilt(41), losses: { soiling: 5 } })
    expect(store.conflicts).toEqual([])
  })

  it('of a value that someone else has changed is told, not forced, and can be applied', async () => {
    const store = await opened()
    server.editElsewhere(tilt(61))
    void store.edit({ ...tilt(43), losses: { soiling: 4 } })
    await store.flush()
    expect(server.first.document).toMatchObject({ ...tilt(61), losses: { soiling: 4 } })
    expect(store.conflicts).toEqual([{ pointer: '/surfaces/roof/tilt', theirs: 61, mine: 43 }])
    void store.applyMine()
    await store.flush()
    expect(server.first.document).toMatchObject(tilt(43))
  })

  it('of one gesture is one undo', async () => {
    const store = await opened()
    for (const value of [31, 32, 33]) {
      void store.edit(tilt(value), 'a-drag')
      await store.flush()
    }
    expect(server.patches).toHaveLength(3)
    await store.undo()
    expect(store.at('/surfaces/roof/tilt')).toBe(30)
  })
})

/** An act of the server of these tests. */
const act = (store: { act: unknown }, verb: string, body: object, gesture?: string) =>
  (store.act as (verb: string, body: object, gesture?: string) => Promise<void>)(verb, body, gesture)

describe('an act', () => {
  it('is done to what was typed before it', async () => {
    const store = await opened()
    void store.edit(tilt(40))
    void act(store, 'raise', { by: 3 })
    void store.edit({ losses: { soiling: 5 } })
    await store.flush()
    expect(store.at('/surfaces/roof/tilt')).toBe(43)
    expect(store.at('/losses/soiling')).toBe(5)
  })
  it('of a held key is one undo with those before it', async () => {
    const store = await opened()
    for (let n = 0; n < 3; n++) await act(store, 'raise', { by: 1 }, 'held')
    expect(store.at('/surfaces/roof/tilt')).toBe(33)
    await act(store, 'raise', { by: 10 })
    await store.undo()
    expect(store.at('/surfaces/roof/tilt')).toBe(33)
    await store.undo()
    expect(store.at('/surfaces/roof/tilt')).toBe(30)
  })
  it('that is refused says why and changes nothing', async () => {
    const store = await opened()
    server.refuses = { pointer: '', detail: 'Every string is full.' }
    await act(store, 'raise', { by: 1 })
    expect(store.at('/surfaces/roof/tilt')).toBe(30)
    expect(store.notice).toContain('Every string is full.')
  })
})

describe('two schemes', () => {
  it('an answer goes to the scheme that asked, whichever is open by then', async () => {
    const store = await opened()
    let release = () => {}
    server.hold = new Promise((done) => {
      release = done
    })
    void store.edit(tilt(35))
    await store.open(8)
    expect(store.saved?.id).toBe(8)
    expect(store.at('/surfaces/roof/tilt')).toBe(60)
    release()
    server.hold = null
    void store.edit(tilt(70))
    await store.flush()
    await store.open(7)
    await store.flush()
    expect([7, 8].map((id) => valueAt(server.schemes.get(id)!.document, '/surfaces/roof/tilt'))).toEqual([35, 70])
    expect(store.at('/surfaces/roof/tilt')).toBe(35)
  })

  it('the one that was asked for last is open, however late the other answers', async () => {
    const store = useSchemeStore()
    await Promise.all([store.open(7), store.open(8)])
    expect(store.saved?.id).toBe(8)
  })
})

describe('with the server away', () => {
  it('edits are kept, sent when it is back, and nothing is doubled', async () => {
    vi.useFakeTimers()
    const store = await opened()
    server.away = true
    void store.edit(tilt(20))
    void store.edit({ losses: { soiling: 7 } })
    await vi.advanceTimersByTimeAsync(100)
    expect(store.isOffline).toBe(true)
    expect(store.at('/surfaces/roof/tilt')).toBe(20)
    expect(keys()).toHaveLength(1)
    server.away = false
    await vi.advanceTimersByTimeAsync(4000)
    expect(store.isOffline).toBe(false)
    expect(server.patches).toHaveLength(2)
    expect(server.first.document).toMatchObject({ ...tilt(20), losses: { soiling: 7 } })
    expect(keys()).toEqual([])
  })

  it.each([500, 502, 503])('a fault of the server (%i) keeps the edit as an absence does', async () => {
    vi.useFakeTimers()
    const store = await opened()
    server.fails = 2
    void store.edit(tilt(21))
    await vi.advanceTimersByTimeAsync(100)
    expect(store.at('/surfaces/roof/tilt')).toBe(21)
    expect(keys()).toHaveLength(1)
    await vi.advanceTimersByTimeAsync(4000)
    expect(server.first.document).toMatchObject(tilt(21))
  })

  it('a 412 and then no connection keep the edit on the page', async () => {
    vi.useFakeTimers()
    const store = await opened()
    server.editElsewhere(tilt(61))
    const fetch = server.fetch
    serve(async (path: string, options: Sent) => {
      const answer = await fetch(path, options)
      if (answer.status === 412) server.away = true
      return answer
    })
    void store.edit({ ...tilt(43), losses: { soiling: 4 } })
    await vi.advanceTimersByTimeAsync(100)
    expect(store.at('/surfaces/roof/tilt')).toBe(43)
    server.away = false
    serve(fetch)
    await vi.advanceTimersByTimeAsync(4000)
    expect(store.conflicts.map((c) => c.mine)).toEqual([43])
    expect(server.first.document).toMatchObject({ losses: { soiling: 4 } })
  })

  it('an edit that was kept over a closed tab is sent on its old ground, so that a newer value is not lost', async () => {
    const kept = (scheme: number, owner: string, value: number) =>
      localStorage.setItem(
        `noontide-unsent-${scheme}-${owner}`,
        JSON.stringify({ basedOn: 1, edits: [{ patch: tilt(value), gesture: '' }] }),
      )
    kept(7, 'a-tab-that-is-gone', 43)
    server.editElsewhere(tilt(61))
    const store = await opened()
    await store.flush()
    expect(server.first.document).toMatchObject(tilt(61))
    expect(store.conflicts).toEqual([{ pointer: '/surfaces/roof/tilt', theirs: 61, mine: 43 }])
    expect(keys()).toEqual([])
  })
})

describe('undo', () => {
  it('waits for edits on their way, then goes back', async () => {
    const store = await opened()
    void store.edit(tilt(50))
    await store.undo()
    expect(store.at('/surfaces/roof/tilt')).toBe(30)
  })
  it('does nothing where there is nothing', async () => {
    const store = await opened()
    await store.undo()
    expect(store.saved?.revision).toBe(1)
  })
  it('five quick ones take back five edits', async () => {
    const store = await opened()
    for (const value of [31, 32, 33, 34, 35]) {
      void store.edit(tilt(value))
      await store.flush()
    }
    await Promise.all(Array.from({ length: 5 }, () => store.undo()))
    expect(store.at('/surfaces/roof/tilt')).toBe(30)
  })
  it('in a tab that is behind reads the scheme and says so', async () => {
    const store = await opened()
    void store.edit(tilt(50))
    await store.flush()
    server.editElsewhere({ losses: { soiling: 9 } })
    await store.undo()
    expect(store.notice).toContain('changed elsewhere')
    await store.undo()
    expect(store.at('/surfaces/roof/tilt')).toBe(30)
  })
})

describe('figures', () => {
  it('of an earlier state stay, and say so, until the exact ones have followed', async () => {
    vi.useFakeTimers()
    const store = await opened()
    server.pending = true
    void store.edit(tilt(44))
    await vi.advanceTimersByTimeAsync(10)
    expect(store.saved?.revision).toBe(2)
    expect(store.evaluation?.headline).toEqual({ energy: 1 })
    expect(store.isStale).toBe(true)
    server.pending = false
    await vi.advanceTimersByTimeAsync(1500)
    expect(store.evaluation?.headline).toEqual({ energy: 2 })
    expect(store.isStale).toBe(false)
  })
  it('follow what someone else has done, once it is heard of', async () => {
    const store = await opened()
    server.editElsewhere(tilt(12))
    void store.hear(2)
    await vi.waitFor(() => expect(store.evaluation?.headline).toEqual({ energy: 2 }))
    expect(store.at('/surfaces/roof/tilt')).toBe(12)
  })
  it('are read again with the next sign of life when their first reading failed', async () => {
    const heard = new Map<string, (event: { data: string }) => void>()
    vi.stubGlobal(
      'EventSource',
      class {
        addEventListener = (name: string, tell: (event: { data: string }) => void) => heard.set(name, tell)
        close = () => {}
      },
    )
    const store = await opened()
    server.editElsewhere(tilt(12))
    server.away = true
    heard.get('revised')!({ data: '{"revision": 2}' })
    await new Promise((resolve) => setTimeout(resolve, 0))
    expect(store.saved?.revision).toBe(1)
    server.away = false
    heard.get('alive')!({ data: '{}' })
    await vi.waitFor(() => expect(store.saved?.revision).toBe(2))
  })
})

describe('the scheme as lists', () => {
  it('fills in defaults and counts modules over all inverters of a set', async () => {
    server.first.document = {
      site: { latitude: 51, longitude: -2 },
      surfaces: { roof: {} },
      inverters: { main: { model: 'x', count: 3 } },
      subarrays: {
        b: { surface: 'roof', module: 'm', modules_per_string: 10, strings: 2, inverter: 'main', tracker: 2 },
        a: { surface: 'roof', module: 'm', modules_per_string: 5, inverter: 'main' },
      },
    }
    const store = await opened()
    await useLibrary().read()
    expect(store.surfaces[0]).toMatchObject({ name: 'New surface', tilt: 30, azimuth: 180, modules: 75 })
    expect(store.sets[0]!.strings.map((s) => [s.id, s.tracker])).toEqual([
      ['a', 1],
      ['b', 2],
    ])
  })
  it('names new things beside old ones', () => {
    expect(freshId('strings', ['strings-1', 'strings-3'])).toBe('strings-2')
  })
})

describe('an answer that shares what has not changed', () => {
  const before = () => ({ a: [1, { b: 'x' }], c: { d: null, e: [] }, f: 2 })
  it('is the one before where nothing has', () => {
    const old = before()
    expect(sharing(old, before())).toBe(old)
  })
  it.each([
    ['a value', { a: [1, { b: 'y' }], c: { d: null, e: [] }, f: 2 }],
    ['a key less', { a: [1, { b: 'x' }], c: { d: null, e: [] } }],
    ['a key more', { a: [1, { b: 'x' }], c: { d: null, e: [] }, f: 2, g: 0 }],
    ['another key', { a: [1, { b: 'x' }], c: { d: null, e: [] }, g: undefined }],
    ['a shorter list', { a: [1], c: { d: null, e: [] }, f: 2 }],
    ['an object for a list', { a: { 0: 1, 1: { b: 'x' } }, c: { d: null, e: [] }, f: 2 }],
  ])('says what is new: %s', (_, now) => {
    const old = before()
    const shared = sharing<unknown>(old, structuredClone(now))
    expect(shared).toEqual(now)
    expect(shared).not.toBe(old)
    expect(old).toEqual(before())
    expect((shared as typeof old).c).toBe(old.c)
  })
})

describe('a year of weather that was asked for', () => {
  async function askedAndThen(meanwhile: (store: ReturnType<typeof useSchemeStore>) => unknown) {
    let finish = () => {}
    server.weather = new Promise((resolve) => (finish = resolve))
    const store = await opened()
    const asked = useWeatherChoice().request()
    await meanwhile(store)
    finish()
    await asked
    await store.flush()
  }
  const weatherOf = (id: number) => server.schemes.get(id)!.document.weather
  it('is chosen once it is there', async () => {
    await askedAndThen(() => {})
    expect(weatherOf(7)).toEqual({ digest: 'new', title: 'New' })
  })
  it('goes to the scheme that asked, though another is open by then', async () => {
    await askedAndThen((store) => store.open(8))
    await vi.waitFor(() => expect(weatherOf(7)).toEqual({ digest: 'new', title: 'New' }))
    expect(weatherOf(8)).toBeUndefined()
  })
  it('is offered, not chosen, where the site has moved meanwhile', async () => {
    await askedAndThen((store) => store.edit({ site: { latitude: 52 } }))
    expect(weatherOf(7)).toBeUndefined()
    const { shown } = useNotice()
    expect(shown.value!.text).toContain('the site has moved')
    shown.value!.action!.run()
    await useSchemeStore().flush()
    expect(weatherOf(7)).toEqual({ digest: 'new', title: 'New' })
  })
})
