/** Directive: a field that appears takes the keyboard, its text selected. */
export const vFocus = {
  mounted(el: HTMLInputElement) {
    el.focus()
    el.select()
  },
}
