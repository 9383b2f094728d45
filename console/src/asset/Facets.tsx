import { Collapse, Empty } from 'antd'
import type { Schemas } from '../api/client'
import { moment } from '../shared/format'

/** Every facet of an asset as it was reported last. */
export function Facets({ facets }: { facets: Schemas['FacetValue'][] }) {
  if (facets.length === 0) return <Empty description="No event carried a facet of it." />
  return (
    <Collapse
      size="small"
      items={facets.map((facet) => ({
        key: `${facet.part} ${facet.key}`,
        label: facet.key,
        extra: moment(facet.at),
        children: <pre className="code">{JSON.stringify(facet.value, null, 2)}</pre>,
      }))}
    />
  )
}
