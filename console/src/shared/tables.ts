/** The filters of a table's column: each value that occurs in it, once and in order. */
export function filtersOf(values: string[], words: (value: string) => string = (value) => value) {
  return [...new Set(values)].sort().map((value) => ({ text: words(value), value }))
}

/** Pages for long lists only. */
export function pagesOf(rows: unknown[], size = 100) {
  return rows.length > size ? { pageSize: size, showSizeChanger: false } : (false as const)
}
