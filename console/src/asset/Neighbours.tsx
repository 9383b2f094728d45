import type { Schemas } from '../api/client'
import { KindIcon } from '../shared/kinds'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import styles from './asset.module.css'

type Props = {
  title: string
  none: string
  /** What is said of a neighbour that contains the asset, or is contained in it. */
  containing: string
  list: Schemas['Neighbour'][]
}

/** The assets one hop away, on one side. */
export function Neighbours({ title, none, containing, list }: Props) {
  return (
    <section className={styles.neighbours}>
      <h2 className={shared.subheading}>
        {title} {list.length > 0 && `(${list.length})`}
      </h2>
      {list.length === 0 && <span className={shared.quiet}>{none}</span>}
      {list.map((one) => (
        <div key={one.ref} className={styles.neighbour}>
          <KindIcon kind={one.kind} /> <AssetLink refText={one.ref} name={one.name} />{' '}
          <small className={shared.quiet}>
            {one.holds ? containing : one.kind !== 'restricted' && one.system}
          </small>
        </div>
      ))}
    </section>
  )
}

/** The jobs before and after a job by control flow: apart from where data flows. */
export function Ties({ ties }: { ties: Schemas['Tied'][] }) {
  if (ties.length === 0) return null
  return (
    <section>
      <h2 className={shared.subheading}>Runs before and after ({ties.length})</h2>
      {ties.map((tie) => (
        <div key={`${tie.ref} ${tie.before} ${tie.data}`} className={styles.tie}>
          <span className={shared.quiet}>{tie.before ? 'after ' : 'before '}</span>
          <AssetLink refText={tie.ref} name={tie.name} />{' '}
          <small className={shared.quiet}>
            {tie.data ? 'takes its data' : 'control flow'}
            {tie.rule ? `, ${tie.rule}` : ''}
          </small>
        </div>
      ))}
    </section>
  )
}
