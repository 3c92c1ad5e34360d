import { ref, shallowRef } from 'vue'
import { api, Problem, type ReadingAnswer, type WeatherAnswer } from '@/api/client'
import { chooseFile } from '@/stores/chooseFile'
import { useSchemeStore } from '@/stores/useSchemeStore'

export interface FileFault {
  name: string
  detail: string
}
/** A file whose reading is looked at before it is taken into the library. */
export interface OpenFile {
  file: File
  answer: ReadingAnswer
}
const KNOWN_FORMAT = 409
/** The file that is being read or kept, and how to stop that. */
interface FileUnderWay {
  name: string
  bytes: number
  since: number
  stop: () => void
}
const reading = ref<FileUnderWay | null>(null)
const fault = ref<FileFault | null>(null)
const stored = ref<WeatherAnswer | null>(null)
const opened = shallowRef<OpenFile | null>(null)

/**
 * Takes a weather file: one of a known format goes to the library at once, of any other the reading is shown first. What became
 * of it stands in `stored`, `opened` or `fault`.
 */
export async function takeWeatherFile(file: File) {
  fault.value = null
  opened.value = null
  const signal = begin(file)
  try {
    opened.value = { file, answer: await api.readWeather(file, { place: sitePlace() }, signal) }
  } catch (error) {
    if (signal.aborted) return
    if (error instanceof Problem && error.status === KNOWN_FORMAT) await storeWeatherFile(file)
    else fault.value = faultOf(file, error)
  } finally {
    if (!signal.aborted) reading.value = null
  }
}

function begin(file: File): AbortSignal {
  reading.value?.stop()
  const control = new AbortController()
  const stop = () => {
    control.abort()
    reading.value = null
  }
  reading.value = { name: file.name, bytes: file.size, since: Date.now(), stop }
  return control.signal
}

/** Keeps a file in the library, under a reading where it has one; whether that went well. */
export async function storeWeatherFile(file: File, under?: ReadingAnswer['reading']) {
  const signal = begin(file)
  try {
    stored.value = await api.storeWeather(file, under, signal)
    opened.value = null
    return true
  } catch (error) {
    if (!signal.aborted) fault.value = faultOf(file, error)
    return false
  } finally {
    if (!signal.aborted) reading.value = null
  }
}

/** The system's own dialog for files of weather. */
export const chooseWeatherFile = () => chooseFile('.epw,.csv,.tsv,.txt,.dat,.xlsx,.parquet,.json', takeWeatherFile)

/** A table from the clipboard, as a file. */
export function takeWeatherText(text: string) {
  return takeWeatherFile(new File([text], 'pasted-table.txt', { type: 'text/plain' }))
}

/** The open scheme's site, for files that state no place. */
function sitePlace() {
  const site = useSchemeStore().document.site as
    { latitude?: number; longitude?: number; elevation?: number } | undefined
  if (site?.latitude === undefined || site.longitude === undefined) return null
  return { latitude: site.latitude, longitude: site.longitude, elevation: site.elevation ?? 0 }
}

function faultOf(file: File, error: unknown): FileFault {
  return {
    name: file.name,
    detail: error instanceof Problem ? error.detail || error.title : (error as Error).message,
  }
}
export const weatherFile = { reading, fault, stored, opened }
