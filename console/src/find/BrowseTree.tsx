import { Tree, type TreeDataNode } from 'antd'
import { useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import { get, type Schemas } from '../api/client'
import { ProblemNotice } from '../shared/Answer'
import { assetPath } from '../shared/format'
import { KindMark } from '../shared/marks'

async function level(path: string[]): Promise<TreeDataNode[]> {
  const query = path.map((part) => `path=${encodeURIComponent(part)}`).join('&')
  const answer = await get<Schemas['Level']>(`browse?${query}`)
  const containers = answer.containers.map((container) => ({
    key: JSON.stringify([...path, container.name]),
    title: `${container.name}  (${container.assets})`,
    selectable: false,
  }))
  const assets = answer.assets.map((asset) => ({
    key: asset.ref,
    isLeaf: true,
    title: (
      <>
        <KindMark kind={asset.kind} /> {asset.title ?? asset.name}
      </>
    ),
  }))
  return [...containers, ...assets]
}

/** Systems, the places in them, and the assets there, opened one by one. */
export function BrowseTree() {
  const navigate = useNavigate()
  const [nodes, setNodes] = useState<TreeDataNode[]>([])
  const [failure, setFailure] = useState<Error>()
  useEffect(() => {
    level([]).then(setNodes, setFailure)
  }, [])
  const open = async (node: TreeDataNode) => {
    if (node.children) return
    try {
      const children = await level(JSON.parse(String(node.key)))
      setNodes((before) => grown(before, String(node.key), children))
    } catch (error) {
      setFailure(error as Error)
    }
  }
  if (failure) return <ProblemNotice error={failure} />
  return (
    <Tree
      blockNode
      treeData={nodes}
      loadData={open}
      expandAction="click"
      onSelect={(_, { node }) => navigate(assetPath(String(node.key)))}
      style={{ background: 'transparent' }}
    />
  )
}

/** The tree with children put under one of its nodes. */
export function grown(nodes: TreeDataNode[], key: string, children: TreeDataNode[]): TreeDataNode[] {
  return nodes.map((node) => {
    if (node.key === key) return { ...node, children }
    return node.children ? { ...node, children: grown(node.children, key, children) } : node
  })
}
