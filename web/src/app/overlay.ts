import type { App } from 'vue'
import { createVuetify } from 'vuetify'
import { VDialog } from 'vuetify/components/VDialog'
import 'vuetify/styles/core'
import { watch } from 'vue'
import { dark } from '@/state/session'

/** What opens over the page. It is fetched when a first dialog is wanted, or when there is nothing else to do. */
export function overlay(app: App) {
  const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce
  const vuetify = createVuetify({
    theme: { cspNonce: nonce, defaultTheme: 'light' },
    defaults: { global: { ripple: false, elevation: 0 } },
  })
  app.use(vuetify)
  watch(dark, (d) => vuetify.theme.change(d ? 'dark' : 'light'), { immediate: true })
  return VDialog
}
