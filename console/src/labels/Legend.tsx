import { Tag } from 'antd'
import marks from '../shared/shared.module.css'
import styles from './labels.module.css'

/** What the marks of labels mean, wherever they stand in the console. */
export function Legend() {
  return (
    <dl className={styles.legend} aria-label="Legend">
      <dt>
        <Tag variant="outlined" className={marks.label}>
          personal
        </Tag>
      </dt>
      <dd>set here: by the source, by hand or by a rule</dd>
      <dt>
        <Tag variant="outlined" className={marks.inherited}>
          personal from …
        </Tag>
      </dt>
      <dd>came along lineage, from the column that is named</dd>
      <dt>
        <Tag variant="outlined" className={marks.inherited}>
          perhaps personal
        </Tag>
      </dt>
      <dd>the columns on the way are not known</dd>
      <dt className={styles.level}>▮▮▮▯</dt>
      <dd>its level, from 1 to 4</dd>
    </dl>
  )
}
