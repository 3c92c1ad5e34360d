import createClient, { createFinalURL } from 'openapi-fetch'
import type { paths } from './schema'

export interface Finding {
  pointer: string
  detail: string
}

/** A request that was answered with problem details (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly kind: string,
    readonly findings: Finding[],
  ) {
    super(detail || title)
  }
}
/** The server could not be reached at all, or did not answer in time. */
export class Unreachable extends Error {}

const PATIENCE_MS = 15_000
const LONG_PATIENCE_MS = 180_000

function token(): string {
  return /(?:^|;\s*)csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? ''
}

/** Sends a request; what is no answer is thrown, in the server's words where it has any. */
async function sent(request: Request, patience: number): Promise<Response> {
  if (request.method !== 'GET') request.headers.set('X-CSRFToken', token())
  let answer: Response
  try {
    answer = await fetch(request, { signal: AbortSignal.any([request.signal, AbortSignal.timeout(patience)]) })
  } catch (error) {
    if (request.signal.aborted) throw error
    throw new Unreachable('The server is not answering.')
  }
  if (!answer.ok) throw await problemOf(answer)
  return answer
}

async function problemOf(answer: Response): Promise<Problem> {
  const nothing = { title: `The server answered ${answer.status}` }
  const told: { title?: string; detail?: string; type?: string; errors?: Finding[] } = await answer
    .json()
    .catch(() => nothing)
  const { title, detail, type, errors } = told
  return new Problem(answer.status, title ?? 'The request failed', detail ?? '', type ?? '', errors ?? [])
}

/** An operation as it is asked for: a number is written into an address, and what has a default may be left out of a body. */
type Asked<O> = Omit<O, 'parameters' | 'requestBody'> &
  (O extends { parameters: infer Given }
    ? { parameters: Omit<Given, 'path'> & (Given extends { path: infer Path } ? { path: Numbered<Path> } : unknown) }
    : unknown) &
  (O extends { requestBody?: infer Body }
    ? Body extends { content: infer Content }
      ? Bodied<Content>
      : unknown
    : unknown)
type Bodied<Content> = { requestBody?: { content: { [Kind in keyof Content]: Partial<Content[Kind]> } } }
type Numbered<Path> = { [Key in keyof Path]: Path[Key] | number }
type Addresses = {
  [P in keyof paths]: { [Method in keyof paths[P]]: paths[P][Method] extends object ? Asked<paths[P][Method]> : never }
}

/** The server's addresses, bodies and answers, as its schema has them. */
export const server = createClient<Addresses>({
  baseUrl: globalThis.location?.origin ?? '',
  credentials: 'same-origin',
  fetch: (request: Request) => sent(request, PATIENCE_MS),
})
/** For what reads large files or searches long. */
export const patient = { fetch: (request: Request) => sent(request, LONG_PATIENCE_MS) }

/** The body of an answer; files that an address gives too are asked for by links. */
export async function of<T>(answer: Promise<{ data?: T }>): Promise<Exclude<T, string>> {
  return (await answer).data as Exclude<T, string>
}

type Params<P extends keyof paths> = Addresses[P] extends { get: { parameters: infer Given } }
  ? Pick<Given, Extract<keyof Given, 'path' | 'query'>>
  : never
/** An address that a link or a picture asks for. */
export function address<P extends keyof paths>(path: P, params: Params<P>): string {
  return createFinalURL(path, {
    baseUrl: '',
    params: params as { path?: Record<string, unknown>; query?: Record<string, unknown> },
    querySerializer: (query) => new URLSearchParams(query as Record<string, string>).toString(),
  })
}

/** A form with a file and what goes with it; the schema has the file as text. */
export function formOf(file: File, fields: Record<string, string> = {}): never {
  const form = new FormData()
  form.append('file', file)
  for (const [name, value] of Object.entries(fields)) form.append(name, value)
  return form as never
}
