import { ref, shallowRef } from 'vue'
import type { FileGuess } from '@/api/client'

/** A file on its way in: what it is and what will become of it, before anything does. */
export interface Bringing {
  file: File
  guess: FileGuess
  /** What a project's file would bring. */
  words: string[]
}
export const isBringing = ref(false)
export const brought = shallowRef<Bringing | null>(null)

/** Opens the place where every file comes in. */
export function bringIn() {
  brought.value = null
  isBringing.value = true
}
