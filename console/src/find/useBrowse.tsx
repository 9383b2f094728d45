import { useQuery, useQueryClient } from '@tanstack/react-query'
import type { TreeDataNode } from 'antd'
import { useState } from 'react'
import { answered, api, type Schemas } from '../api/client'
import { KindIcon } from '../shared/kinds'

const MAX_ASSETS = 1000

/** One level of the tree of places: what is in a system, a database, a schema, a folder. */
function levelQuery(path: string[]) {
  return {
    queryKey: ['browse', path],
    queryFn: () => answered(api.GET('/api/v1/browse', { params: { query: { path, limit: MAX_ASSETS } } })),
  }
}

/** The tree of places as far as it was opened. */
export function useBrowse() {
  const client = useQueryClient()
  const top = useQuery(levelQuery([]))
  const [opened, setOpened] = useState<Record<string, TreeDataNode[]>>({})
  const [failure, setFailure] = useState<Error>()
  const open = async (key: string) => {
    if (opened[key]) return
    try {
      const level = await client.fetchQuery(levelQuery(JSON.parse(key)))
      setOpened((before) => ({ ...before, [key]: nodesOf(level) }))
    } catch (error) {
      setFailure(error as Error)
    }
  }
  return { nodes: grown(top.data ? nodesOf(top.data) : [], opened), open, error: failure ?? top.error }
}

function nodesOf(level: Schemas['Level']): TreeDataNode[] {
  const containers = level.containers.map((container) => ({
    key: JSON.stringify([...level.path, container.name]),
    title: `${container.name}  (${container.assets})`,
    selectable: false,
  }))
  const assets = level.assets.map((asset) => ({
    key: asset.ref,
    isLeaf: true,
    title: (
      <>
        <KindIcon kind={asset.kind} /> {asset.title ?? asset.name}
      </>
    ),
  }))
  return [...containers, ...assets, ...rest(level), ...restricted(level)]
}

/** How much the caller's grants do not cover. */
function restricted(level: Schemas['Level']): TreeDataNode[] {
  if (!level.restricted) return []
  const title = (
    <>
      <KindIcon kind="restricted" /> restricted ({level.restricted})
    </>
  )
  return [{ key: '["restricted"]', isLeaf: true, selectable: false, title }]
}

/** What a level has beyond what is listed is said, not dropped. */
function rest(level: Schemas['Level']): TreeDataNode[] {
  const more = level.total - level.assets.length
  if (more <= 0) return []
  const key = JSON.stringify([...level.path, '…'])
  return [{ key, isLeaf: true, selectable: false, title: `${more} more; search for them by name` }]
}

/** The tree with what was opened put under each of its nodes. */
export function grown(nodes: TreeDataNode[], opened: Record<string, TreeDataNode[]>): TreeDataNode[] {
  return nodes.map((node) => {
    const children = opened[String(node.key)]
    return children ? { ...node, children: grown(children, opened) } : node
  })
}
