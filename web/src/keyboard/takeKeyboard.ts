import { nextTick, type Ref } from 'vue'

/** Gives the keyboard to a field of a dialog that is just opening; the dialog itself may ask for it a few frames later. */
export async function takeKeyboard(field: Ref<HTMLInputElement | undefined>) {
  for (let tries = 0; tries < 20 && document.activeElement !== field.value; tries++) {
    await nextTick()
    field.value?.focus()
    await new Promise((resolve) => requestAnimationFrame(resolve))
  }
}
