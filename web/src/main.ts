import '@fontsource-variable/inter'
import '@fontsource-variable/source-serif-4'
import '@fontsource-variable/source-serif-4/wght-italic.css'
import 'vuetify/styles'
import './theme/tokens.css'
import './theme/bench.css'
import './theme/print.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import { createVuetify } from 'vuetify'
import App from './App.vue'
import { router } from './router'
import { useTheme } from './theme/useTheme'

useTheme().begin()
/** The page's own nonce lets the component library add its one style sheet, and nobody else. */
const cspNonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content ?? ''
createApp(App)
  .use(createPinia())
  .use(router)
  .use(createVuetify({ theme: { cspNonce } }))
  .mount('#app')
