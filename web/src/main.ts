import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import { createVuetify } from 'vuetify'
import 'vuetify/styles/core'
import './app/tokens.css'
import './app/base.css'
import App from './App.vue'
import { router } from './app/router'
import { client } from './state/reading'

const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce

createApp(App)
  .directive('focus', { mounted: (el: HTMLElement) => el.focus() })
  .use(router)
  .use(VueQueryPlugin, { queryClient: client })
  .use(
    createVuetify({
      theme: { cspNonce: nonce, defaultTheme: 'light' },
      defaults: { global: { ripple: false, elevation: 0 }, VBtn: { variant: 'outlined', height: 46 } },
    }),
  )
  .mount('#app')

// The shell and what was last read go on without the server; only a secure address has this.
if (import.meta.env.PROD && 'serviceWorker' in navigator) void navigator.serviceWorker.register('/sw.js')
