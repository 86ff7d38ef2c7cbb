import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import { AntDesignVueResolver } from 'unplugin-vue-components/resolvers'
import Components from 'unplugin-vue-components/vite'
import { compression } from 'vite-plugin-compression2'
import { defineConfig } from 'vite'
import { mendAntd } from './build/mend.ts'

export default defineConfig({
  plugins: [
    mendAntd(),
    vue(),
    Components({ dts: 'src/components.d.ts', dirs: [], resolvers: [AntDesignVueResolver({ importStyle: false })] }),
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
