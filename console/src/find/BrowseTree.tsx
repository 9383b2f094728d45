import { Tree } from 'antd'
import { useNavigate } from 'react-router'
import { ProblemNotice } from '../shared/Answer'
import { assetPath } from '../shared/format'
import styles from './find.module.css'
import { useBrowse } from './useBrowse'

/** Systems, the places in them, and the assets there, opened one by one. */
export function BrowseTree() {
  const navigate = useNavigate()
  const { nodes, open, error } = useBrowse()
  if (error) return <ProblemNotice error={error} />
  return (
    <Tree
      blockNode
      className={styles.tree}
      treeData={nodes}
      loadData={(node) => open(String(node.key))}
      expandAction="click"
      onSelect={(_, { node }) => navigate(assetPath(String(node.key)))}
    />
  )
}
