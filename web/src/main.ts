import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import './app/tokens.css'
import './app/base.css'
import App from './App.vue'
import { fetchStations, router } from './app/router'
import { $t } from './lib/say'
import { client } from './state/reading'

const app = createApp(App)
app.config.globalProperties.$t = $t
app
  .directive('focus', { mounted: (el: HTMLElement) => el.focus() })
  .use(router)
  .use(VueQueryPlugin, { queryClient: client })
  .mount('#app')

setTimeout(() => void fetchStations(), 8000)

// The shell and what was last read go on without the server; only a secure address has this.
if (import.meta.env.PROD && 'serviceWorker' in navigator)
  setTimeout(() => void navigator.serviceWorker.register('/sw.js'), 3000)
