/** Keys that follow each other within this time are one gesture. */
const PAUSE_MS = 900

/** Names for gestures: what is dragged, or stepped by a held key, is one undo. */
export function useGesture() {
  let current = ''
  let last = 0
  let isHeld = false
  return {
    /** The gesture under way, or a new one after a pause. */
    name(): string {
      const now = Date.now()
      if (!current || (!isHeld && now - last > PAUSE_MS)) current = crypto.randomUUID()
      last = now
      return current
    },
    /** A new one that lasts, however slowly, until it is ended: a drag. */
    hold() {
      current = ''
      isHeld = true
    },
    /** The next edit begins a new one. */
    end() {
      current = ''
      isHeld = false
    },
  }
}
