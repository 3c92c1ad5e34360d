import { number } from '@/theme/format'

/** How sure a reading is of what it understood, in words. */
export const SURE = { certain: 'certain', likely: 'likely', guess: 'a guess' } as const

/** A number with its sign. */
export const signed = (value: number, digits = 0) =>
  `${value > 0 ? '+' : value < 0 ? '−' : ''}${number(Math.abs(value), digits)}`
