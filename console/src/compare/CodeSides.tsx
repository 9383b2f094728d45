import { moment } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import styles from './compare.module.css'
import type { Comparison } from './queries'

type Code = Comparison['code'][number]

/** The code of a job then and now, line by line side by side. */
export function CodeSides({ code }: { code: Code }) {
  return (
    <section aria-label={`Code of ${code.name}`}>
      <h2 className={shared.subheading}>
        Code of <AssetLink refText={code.job} name={code.name} />: version {code.versionBefore ?? '?'} →
        version {code.versionAfter ?? '?'}
        {code.since && <small className={shared.quiet}> since {moment(code.since)}</small>}
      </h2>
      <table className={styles.code}>
        <tbody>
          {code.lines.map((line) => (
            <tr key={`${line.before ?? ''}:${line.after ?? ''}`} className={styles[line.change]}>
              <td className={styles.number}>{line.before}</td>
              <td className={styles.before}>
                {line.change === 'changed' || line.change === 'removed' ? '− ' : '  '}
                {line.textBefore}
              </td>
              <td className={styles.number}>{line.after}</td>
              <td className={styles.after}>
                {line.change === 'changed' || line.change === 'added' ? '+ ' : '  '}
                {line.textAfter}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
