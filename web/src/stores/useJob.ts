import { readonly, ref, type Ref } from 'vue'
import { api, type JobAnswer } from '@/api/client'

const POLL_MS = 250

export interface RunningJob {
  id: string
  progress: number
  message: string
}

/** Follows a job of the server to its end, and can cancel it; of several at once, `heard` gets what each says. */
export function useJob(job: Ref<RunningJob | null> = ref(null)) {
  async function follow(begun: JobAnswer, heard?: (message: string) => void): Promise<JobAnswer> {
    let answer = begun
    try {
      while (answer.state === 'waiting' || answer.state === 'running') {
        job.value = { id: answer.id, progress: answer.progress, message: answer.message }
        await new Promise((resolve) => setTimeout(resolve, POLL_MS))
        answer = await api.job(answer.id)
        heard?.(answer.message)
      }
      return answer
    } finally {
      job.value = null
    }
  }
  const cancel = () => {
    if (job.value) void api.cancelJob(job.value.id)
  }
  return { job: readonly(job), follow, cancel }
}
