import { useQuery } from '@tanstack/vue-query'
import { api, ask } from '@/api/client'

/** All sites that there are. */
export const useSites = () => useQuery({ queryKey: ['sites'], queryFn: () => ask(api.GET('/api/v1/sites')) })
