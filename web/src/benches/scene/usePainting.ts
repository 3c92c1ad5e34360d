import { computed, ref, type Ref } from 'vue'
import { rampHex } from '@/theme/ramp'
import { middleOf, type Point } from './dimensions'
import type { useScene } from './useScene'

/** Tints of strings beside one another; their numbers tell them apart. */
const TINTS = ['#7fa8d6', '#e3c27a', '#9cc5a4', '#d9a08c', '#b7a6d0', '#a9b7bf']
const WITHOUT_STRING = '#ffffff'
/** Modules that are drawn in all, over which their numbers and the ways to the exit would cover everything. */
const MOST_MARKED = 1200

/** What modules and bare faces are filled with, and what is written on them. */
export function usePainting(look: ReturnType<typeof useScene>, selected: Ref<Set<string>>) {
  const { scene, shade, quantity, during, darkest, isColoured, isCurrent, shareOf, rampShare, irradiation } = look
  const layouts = computed(() => scene.value?.layouts ?? [])
  const moduleOf = (surface: string, module: string) =>
    layouts.value.find((l) => l.surface === surface)?.modules.find((m) => m.id === module)

  const colourOf = (surface: string, module: string): string | null => {
    if (selected.value.has(`${surface} ${module}`))
      return getComputedStyle(document.documentElement).getPropertyValue('--current').trim()
    if (quantity.value === 'strings') {
      const string = moduleOf(surface, module)?.string
      return string ? TINTS[(string - 1) % TINTS.length]! : WITHOUT_STRING
    }
    const share = shareOf(surface, module)
    return share === null ? null : rampHex(share)
  }
  const colourKey = computed(
    () =>
      `${quantity.value} ${during.value} ${darkest.value} ${shade.value?.revision ?? ''} ${shade.value?.is_coarse} ${[...selected.value].join()}`,
  )
  const pieces = computed(() =>
    !isColoured.value || !isCurrent.value
      ? []
      : (shade.value?.surfaces ?? [])
          .filter((s) => s.is_pieces)
          .flatMap((s) =>
            s.corners.map((corners, k) => ({
              solid: s.face.split('/')[0]!,
              face: s.face,
              corners: corners as [number, number, number][],
              colour: rampHex(rampShare(s, k)),
            })),
          ),
  )
  const isMarked = computed(() => layouts.value.reduce((sum, l) => sum + l.modules.length, 0) <= MOST_MARKED)
  /** Numbers of the strings on their modules, with the ends of each. */
  const marks = computed(() =>
    quantity.value !== 'strings' || !isMarked.value
      ? []
      : layouts.value.flatMap((l) => {
          const ends = new Map(
            l.strings.flatMap((s) => [[s.modules.at(-1)!, '−'] as const, [s.modules[0]!, '+'] as const]),
          )
          return l.modules.map((m) => ({
            text: m.string ? `${m.string}${ends.get(m.id) ?? ''}` : '·',
            at: middleOf(m.corners),
          }))
        }),
  )
  const lines = computed(() =>
    quantity.value !== 'strings'
      ? []
      : layouts.value.flatMap((l) =>
          l.strings.map((s) => (isMarked.value ? [l.exit, ...s.path, l.exit] : s.path) as Point[]),
        ),
  )
  /** The module under the pointer, with its light. */
  const hovered = ref<{ surface: string; module: string } | null>(null)
  const hover = computed(() => {
    const h = hovered.value
    const one = h && shade.value?.surfaces.find((s) => s.surface === h.surface)
    const index = one ? one.ids.indexOf(h!.module) : -1
    if (!one || index < 0) return null
    const [got, free] = irradiation(one, index)
    const shown = moduleOf(h!.surface, h!.module)
    return { number: shown?.number, string: shown?.string, got, free }
  })
  return { colourOf, colourKey, pieces, marks, lines, hovered, hover }
}
