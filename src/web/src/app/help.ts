import { useQuery } from '@tanstack/react-query'
import { client, unwrap } from './api'

/** The help that ships. */
export const useHelp = () => useQuery({ queryKey: ['help'], staleTime: Infinity, queryFn: () => unwrap(client.GET('/api/help')) })
