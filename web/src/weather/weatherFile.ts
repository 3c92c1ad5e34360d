import { ref } from 'vue'
import { api, Problem, type WeatherAnswer } from '@/api/client'

export interface FileFault {
  name: string
  detail: string
}
const reading = ref('')
const fault = ref<FileFault | null>(null)
const stored = ref<WeatherAnswer | null>(null)

/** Hands a weather file to the library; what became of it stands in `stored` or `fault`. */
export async function takeWeatherFile(file: File) {
  reading.value = file.name
  fault.value = null
  try {
    stored.value = await api.storeWeather(file)
  } catch (error) {
    fault.value = {
      name: file.name,
      detail: error instanceof Problem ? error.detail || error.title : (error as Error).message,
    }
  } finally {
    reading.value = ''
  }
}

/** The system's own dialog for files. */
export function chooseWeatherFile() {
  const input = document.createElement('input')
  input.type = 'file'
  input.accept = '.epw,.csv,.txt'
  input.addEventListener('change', () => {
    if (input.files?.[0]) void takeWeatherFile(input.files[0])
  })
  input.click()
}
export const weatherFile = { reading, fault, stored }
