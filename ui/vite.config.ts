import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import { AntDesignVueResolver } from 'unplugin-vue-components/resolvers'
import Components from 'unplugin-vue-components/vite'
import { compression } from 'vite-plugin-compression2'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'
import type { ManifestTransform } from 'workbox-build'
import { built } from './build/chunks.mjs'
import { mendAntd } from './build/mend.ts'

const dist = fileURLToPath(new URL('../internal/platform/web/dist', import.meta.url))

/** A device keeps what the hand needs, and nothing of the desk's pages. */
const handOnly: ManifestTransform = (entries) => {
  const { first, reached } = built(dist)
  const part = (url: string) => url.match(/^assets\/(.+)-.{8}\.(js|css)$/)?.[1]
  const hand = entries.filter((e) => ['HandPage', 'presence'].includes(part(e.url) ?? '')).map((e) => e.url)
  // A script's styles are named as it is.
  const needed = new Set([...reached([...first(), ...hand])].map(part))
  return { manifest: entries.filter((e) => !part(e.url) || e.url.endsWith('woff2') || needed.has(part(e.url))) }
}

export default defineConfig({
  plugins: [
    mendAntd(),
    vue(),
    Components({ dts: 'src/components.d.ts', dirs: [], resolvers: [AntDesignVueResolver({ importStyle: false })] }),
    VitePWA({
      // The hand alone is kept on a device, and registers it itself: between rounds.
      injectRegister: null,
      manifest: {
        id: '/hand',
        name: 'Lantern Row, in the hand',
        short_name: 'Lantern Row',
        description: 'Picking, receiving and putting away on the floor, with a connection or without one.',
        start_url: '/hand',
        scope: '/hand',
        display: 'standalone',
        orientation: 'portrait',
        background_color: '#1d1813',
        theme_color: '#1d1813',
        icons: [
          { src: '/icons/hand-192.png', sizes: '192x192', type: 'image/png' },
          { src: '/icons/hand-512.png', sizes: '512x512', type: 'image/png' },
          { src: '/icons/hand-maskable-512.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
        ],
      },
      includeManifestIcons: false,
      workbox: {
        globPatterns: ['index.html', 'assets/*.{js,css,woff2}', 'lantern.svg'],
        manifestTransforms: [handOnly],
        navigateFallback: '/index.html',
        navigateFallbackAllowlist: [/^\/hand(\/|$)/],
        clientsClaim: true,
        cleanupOutdatedCaches: true,
      },
    }),
    compression({ algorithms: ['gzip', 'brotliCompress'], threshold: 1024 }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: {
    outDir: '../internal/platform/web/dist',
    emptyOutDir: false,
    chunkSizeWarningLimit: 700,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [{ name: 'vue', test: /node_modules[\\/](@vue|vue|vue-router|@tanstack|@vueuse)[\\/]/ }],
        },
      },
    },
  },
  optimizeDeps: {
    include: ['ant-design-vue/es', 'ant-design-vue/es/date-picker/dayjs', 'ant-design-vue/es/time-picker/dayjs'],
    rolldownOptions: { plugins: [mendAntd()] },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
})
