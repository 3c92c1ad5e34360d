import { ref } from 'vue'
import { api, type WeatherAnswer } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useJob, type RunningJob } from '@/stores/useJob'
import { useNotice } from '@/notice/useNotice'

const job = ref<RunningJob | null>(null)

/** Choosing the scheme's weather: a year of the library, or one asked of the service for the site. */
export function useWeatherChoice() {
  const store = useSchemeStore()
  const { warn } = useNotice()
  const { follow, cancel } = useJob(job)
  function choose(year: Pick<WeatherAnswer, 'digest' | 'title'>) {
    store.edit({ weather: { digest: year.digest, title: year.title } })
  }
  async function request() {
    const site = store.document.site as {
      latitude: number
      longitude: number
      elevation?: number
      name?: string
      time_zone?: string
    }
    try {
      job.value = { id: '', progress: 0, message: 'Asking the weather service…' }
      const answer = await follow(
        await api.requestWeather({
          latitude: site.latitude,
          longitude: site.longitude,
          elevation: site.elevation ?? 0,
          name: site.name ?? '',
          time_zone: site.time_zone ?? '',
        }),
      )
      if (answer.state === 'done') choose(answer.result as { digest: string; title: string })
      else if (answer.state === 'failed') warn(`The weather service gave no year. ${answer.message}`)
      return answer.state === 'done'
    } catch (error) {
      warn((error as Error).message)
      return false
    } finally {
      job.value = null
    }
  }
  return { job, choose, request, cancel }
}
