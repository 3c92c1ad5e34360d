import { readonly, ref } from 'vue'

const KEY = 'noontide-theme'
const dark = ref(false)

function show(isDark: boolean) {
  dark.value = isDark
  document.documentElement.dataset.theme = isDark ? 'dark' : 'light'
}

/** Light or dark: the reader's last choice, else the system's. */
export function useTheme() {
  function begin() {
    const kept = localStorage.getItem(KEY)
    const system = window.matchMedia('(prefers-color-scheme: dark)')
    show(kept ? kept === 'dark' : system.matches)
    // The system may change it in the evening, while the page is open.
    system.addEventListener('change', () => localStorage.getItem(KEY) || show(system.matches))
    // Paper is light.
    window.addEventListener('beforeprint', () => (document.documentElement.dataset.theme = 'light'))
    window.addEventListener('afterprint', () => show(dark.value))
  }
  function toggle() {
    show(!dark.value)
    localStorage.setItem(KEY, dark.value ? 'dark' : 'light')
  }
  return { dark: readonly(dark), begin, toggle }
}

/** The value of a colour token as it stands now, for canvases and charts. */
export function token(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
}
