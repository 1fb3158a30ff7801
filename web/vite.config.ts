import vue from '@vitejs/plugin-vue'
import { fileURLToPath, URL } from 'node:url'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'
import { compression } from 'vite-plugin-compression2'

export default defineConfig({
  plugins: [
    vue(),
    // Beside each file its shorter forms; fonts are short already, and the page and its worker are written at each asking.
    compression({
      algorithms: ['brotliCompress', 'gzip'],
      include: /\.(js|css|svg)$/,
      exclude: /sw\.js$/,
      threshold: 400,
    }),
    // The shell, and what was last read of the open inspections, without the server (docs/decisions/19-out-of-reach.md).
    VitePWA({
      injectRegister: null,
      manifest: {
        name: 'Jade Gate',
        short_name: 'Jade Gate',
        description: 'Safety inspection of e-bike and trike conversions',
        start_url: '/',
        display: 'standalone',
        background_color: '#F4EFE2',
        theme_color: '#11302A',
        icons: [{ src: '/gate.svg', sizes: 'any', type: 'image/svg+xml', purpose: 'any' }],
      },
      workbox: {
        inlineWorkboxRuntime: true,
        sourcemap: false,
        skipWaiting: true,
        clientsClaim: true,
        cleanupOutdatedCaches: true,
        globPatterns: ['**/*.{html,js,css,svg,woff2}'],
        navigateFallback: null,
        runtimeCaching: [
          {
            urlPattern: ({ request }) => request.mode === 'navigate',
            handler: 'NetworkFirst',
            options: {
              cacheName: 'jg-shell',
              networkTimeoutSeconds: 0.7,
              precacheFallback: { fallbackURL: 'index.html' },
              // Every address has the same page: one that was never opened here comes from it too.
              plugins: [{ cacheKeyWillBeUsed: () => Promise.resolve('/') }],
            },
          },
          {
            urlPattern: ({ url }) =>
              /^\/api\/(session|words|workshop|instruments|calc|kits|board|inspections\/[^/]+(\/(checks\/.+|ledger|bench\/tests|bench\/matrix))?)$/.test(
                url.pathname,
              ),
            handler: 'NetworkFirst',
            options: {
              cacheName: 'jg-said',
              // A server that hangs: page, who is here, and what was read last come one after the other within four seconds.
              networkTimeoutSeconds: 1.2,
              cacheableResponse: { statuses: [200] },
              expiration: { maxEntries: 300, maxAgeSeconds: 14 * 86400 },
            },
          },
          {
            urlPattern: /\/api\/photos\/[0-9a-f]{64}\/thumbnail$/,
            handler: 'CacheFirst',
            options: {
              cacheName: 'jg-said-photos',
              cacheableResponse: { statuses: [200] },
              expiration: { maxEntries: 400, maxAgeSeconds: 14 * 86400 },
            },
          },
        ],
      },
    }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: { outDir: '../internal/webui/dist', emptyOutDir: true, assetsInlineLimit: 0 },
  server: { proxy: { '/api': 'http://127.0.0.1:8480' } },
})
