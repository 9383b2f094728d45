import { useQuery } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

export type Workspace = Schemas['WorkspaceMap']
export type Box = Schemas['MapBox']
export type Line = Schemas['MapLine']
export type ListedWorkspace = Schemas['ListedWorkspace']

const MAX_LISTED = 1000
const AGAIN_MS = 15_000

/** All workspaces, with what is in them and how their refreshes went. */
export function useWorkspaces() {
  return useQuery({
    queryKey: ['workspaces'],
    refetchInterval: AGAIN_MS,
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/workspaces', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** Everything in one workspace, what feeds it and what rests on it. */
export function useWorkspace(ref: string) {
  return useQuery({
    queryKey: ['workspace', ref],
    refetchInterval: AGAIN_MS,
    queryFn: ({ signal }) => answered(api.GET('/api/v1/workspace', { params: { query: { ref } }, signal })),
  })
}
