import { readonly, ref, shallowRef, type Ref } from 'vue'
import { api, Problem, type JobAnswer, type SchemeJobs } from '@/api/client'

/** Without news for so long a job is asked for: the stream of events may be broken, or the page may have none. */
const SILENT_MS = 1500
const REMEMBERED = 40

export interface RunningJob {
  id: string
  progress: number
  message: string
}
export type JobNews = RunningJob & { state: string }

const waiting = new Map<string, (news: JobNews) => void>()
/** Of jobs that end before anybody follows them. */
const latest = new Map<string, JobNews>()

/** What was heard last of any job. */
export const newsOfJobs = shallowRef<JobNews | null>(null)

/** What the stream of events tells of a job. */
export function hearOfJob(news: JobNews) {
  newsOfJobs.value = news
  latest.delete(news.id)
  latest.set(news.id, news)
  if (latest.size > REMEMBERED) latest.delete(latest.keys().next().value!)
  waiting.get(news.id)?.(news)
}
const isUnderWay = ({ state }: { state: string }) => state === 'waiting' || state === 'running'

/** The next news of a job; null where none came. */
function nextNews(id: string): Promise<JobNews | null> {
  return new Promise((resolve) => {
    const silence = window.setTimeout(() => resolve(null), SILENT_MS)
    waiting.set(id, (news) => {
      window.clearTimeout(silence)
      resolve(news)
    })
  })
}

/** Cancels a job; where it is gone, there is nothing left to cancel. Why it could not be is returned in words. */
export const cancelJob = (id: string): Promise<string> =>
  api.cancelJob(id).then(
    () => '',
    (error: Error) => (error instanceof Problem && error.status === 404 ? '' : error.message),
  )

/** Follows a job of the server to its end, and can cancel it; of several at once, `heard` gets what each says. */
export function useJob(job: Ref<RunningJob | null> = ref(null)) {
  async function follow<J extends JobAnswer>(begun: J, heard?: (message: string) => void): Promise<J> {
    const { id } = begun
    let answer = begun
    let news: JobNews | null = latest.get(id) ?? null
    try {
      while (isUnderWay(answer)) {
        const { progress, message } = news ?? answer
        job.value = { id, progress, message }
        heard?.(message)
        if (news && !isUnderWay(news)) news = null
        else news = await nextNews(id)
        if (!news || !isUnderWay(news)) answer = (await api.job(id)) as J
      }
      return answer
    } finally {
      waiting.delete(id)
      job.value = null
    }
  }
  async function cancel() {
    if (!job.value) return
    const message = await cancelJob(job.value.id)
    if (message && job.value) job.value = { ...job.value, message }
  }
  /** Long work on a scheme from beginning to end: what it finds; given up, it is cancelled. */
  async function run<K extends keyof SchemeJobs>(
    scheme: number,
    kind: K,
    body: object = {},
    signal?: AbortSignal,
  ): Promise<NonNullable<SchemeJobs[K]['result']>> {
    const begun = await api.beginJob(scheme, kind, body)
    const giveUp = () => void cancelJob(begun.id)
    signal?.addEventListener('abort', giveUp)
    if (signal?.aborted) giveUp()
    try {
      const ended = await follow(begun)
      if (ended.state !== 'done') throw new Error(ended.message)
      return ended.result as NonNullable<SchemeJobs[K]['result']>
    } finally {
      signal?.removeEventListener('abort', giveUp)
    }
  }
  return { job: readonly(job), follow, cancel, run }
}
