import type { Schemas } from '../api/client'

type Detail = Schemas['AssetDetail']

/** A field that a chart or page uses, and how. */
export type UsedField = { name: string; field: string; use: string[]; text: string | undefined }

/** Reads of a report in a period. */
export type Reads = { from: string; until: string; reads: number; readers: { name: string; reads: number }[] }

const BI_KINDS = ['model', 'chart', 'report', 'dashboard']

/** Whether people know it as a part of a BI tool, with fields and refreshes. */
export function isBi(kind: string): boolean {
  return BI_KINDS.includes(kind)
}

/** The trade's words for what an asset of a kind has. */
export function wordsFor(kind: string) {
  return isBi(kind)
    ? {
        column: 'Field',
        columns: 'Fields',
        written: 'Data as of',
        lastRun: 'Last refresh',
        runs: 'Refreshes',
      }
    : { column: 'Column', columns: 'Columns', written: 'Written', lastRun: 'Last run', runs: 'Runs' }
}

type Values = Record<string, unknown>

function facet(asset: Detail, key: string): Values {
  const value = asset.facets.find((one) => one.key === key)?.value
  return typeof value === 'object' && value !== null ? (value as Values) : {}
}

function listOf(value: unknown): Values[] {
  return Array.isArray(value) ? value.filter((one) => typeof one === 'object' && one !== null) : []
}

function textOf(value: unknown): string | undefined {
  return typeof value === 'string' ? value : undefined
}

/** The workspace that an item is in, by its reference. */
export function workspaceOf(asset: Detail): { ref: string; title: string } | undefined {
  const workspace = facet(asset, 'longthread_item').workspace as Values | undefined
  const namespace = textOf(workspace?.namespace)
  const id = textOf(workspace?.id)
  return namespace && id ? { ref: `${namespace}/${id}`, title: textOf(workspace?.title) ?? id } : undefined
}

/** The fields that a chart uses, shown or not. */
export function usedFields(asset: Detail): UsedField[] {
  const item = facet(asset, 'longthread_item')
  const fields = listOf(item.fields).map((field) => ({
    name: textOf(field.name) ?? '',
    field: textOf(field.field) ?? '',
    use: Array.isArray(field.use) ? field.use.map(String) : ['shown'],
    text: textOf(field.text),
  }))
  const filters = listOf(item.filters).map((filter) => ({
    name: textOf(filter.field) ?? '',
    field: `${textOf(filter.of) ?? ''}#${textOf(filter.field) ?? ''}`,
    use: ['filtered'],
    text: textOf(filter.text),
  }))
  return [...fields.filter((one) => one.field !== ''), ...filters]
}

/** Who read it, the newest period first. */
export function readsOf(asset: Detail): Reads[] {
  return listOf(facet(asset, 'longthread_usage').periods)
    .map((period) => ({
      from: textOf(period.from) ?? '',
      until: textOf(period.until) ?? '',
      reads: Number(period.reads ?? 0),
      readers: listOf(period.readers).map((one) => ({
        name: textOf(one.name) ?? '',
        reads: Number(one.reads ?? 0),
      })),
    }))
    .sort((a, b) => b.until.localeCompare(a.until))
}
