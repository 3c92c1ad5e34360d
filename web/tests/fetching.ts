import { vi } from 'vitest'

export interface Sent {
  method: string
  headers: Record<string, string>
  body: string
  signal: AbortSignal | null
}
type Answering = (path: string, sent: Sent) => Response | Promise<Response>

/** Puts a server in miniature behind `fetch`: it gets the path, and what was sent there. */
export function serve(answer: Answering) {
  vi.stubGlobal('fetch', async (request: Request, options: RequestInit = {}) => {
    const { pathname, search } = new URL(request.url)
    const headers = Object.fromEntries([...request.headers].map(([name, value]) => [name.toLowerCase(), value]))
    const body = request.method === 'GET' ? '' : await request.text()
    return answer(pathname + search, { method: request.method, headers, body, signal: options.signal ?? null })
  })
}
