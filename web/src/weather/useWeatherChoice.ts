import { ref } from 'vue'
import { api, type WeatherAnswer } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useJob, type RunningJob } from '@/stores/useJob'
import { useNotice } from '@/notice/useNotice'
import type { JsonObject } from '@/api/mergePatch'

const job = ref<RunningJob | null>(null)

/** Choosing the scheme's weather: a year of the library, or one asked of the service for the site. */
export function useWeatherChoice() {
  const store = useSchemeStore()
  const { say, warn } = useNotice()
  const { follow, cancel } = useJob(job)
  function choose(year: YearTitle) {
    store.edit(chosen(year))
  }
  async function request() {
    // A year can be minutes on its way: it belongs to the scheme and to the place that it was asked for.
    const scheme = store.editor!
    const site = siteOf(scheme.document.value)
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
      if (answer.state === 'done') arrive(answer.result as YearTitle)
      else if (answer.state === 'failed') warn(`The weather service gave no year. ${answer.message}`)
      return answer.state === 'done'
    } catch (error) {
      warn((error as Error).message)
      return false
    } finally {
      job.value = null
    }
    function arrive(year: YearTitle) {
      const now = siteOf(scheme.document.value)
      if (now.latitude === site.latitude && now.longitude === site.longitude) scheme.edit(chosen(year))
      else
        say(`${year.title} is in the library. It was not chosen, since the site has moved.`, {
          label: 'Choose it',
          run: () => scheme.edit(chosen(year)),
        })
    }
  }
  return { job, choose, request, cancel }
}

type YearTitle = Pick<WeatherAnswer, 'digest' | 'title'>
interface Site {
  latitude: number
  longitude: number
  elevation?: number
  name?: string
  time_zone?: string
}
const chosen = ({ digest, title }: YearTitle) => ({ weather: { digest, title } })
const siteOf = (document: JsonObject) => document.site as unknown as Site
