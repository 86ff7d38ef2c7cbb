import '@fontsource/atkinson-hyperlegible/latin-400.css'
import '@fontsource/atkinson-hyperlegible/latin-700.css'
import '@fontsource/atkinson-hyperlegible-mono/latin-400.css'
import '@fontsource/atkinson-hyperlegible-mono/latin-700.css'
import 'ant-design-vue/dist/reset.css'
import './styles.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import Table from 'ant-design-vue/es/table'
import { createApp } from 'vue'
import { Problem } from './api/client'
import { noteTouches } from './api/touch'
import App from './App.vue'
import { router } from './router'
import { dress } from './theme/theme'

dress()
noteTouches()

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 15_000,
      retry: (n, e) => n < 2 && e instanceof Problem && (e.status === 0 || e.status >= 500),
    },
  },
})

// How many questions to the server are open stands on the page, for whoever waits until it is settled.
const open = () => (document.documentElement.dataset.fetching = String(queryClient.isFetching()))
queryClient.getQueryCache().subscribe(open)
open()

// The table is what most stations share: it comes with the first load, so that each adds little to it.
createApp(App).use(Table).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
