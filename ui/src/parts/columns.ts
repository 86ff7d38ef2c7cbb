import { seesMoney } from '@/api/session'

/** A column of a table: what it is called, what stands in it, and how. */
export interface Column<R> {
  /** What the server calls it: the name it is sorted and chosen by. */
  name: string
  label: string
  /** The text of a row's cell; a slot of the column's name may draw more than that. */
  of?: (row: R) => string | number | null | undefined
  /** Where the cell leads. */
  to?: (row: R) => string | undefined
  right?: boolean
  mono?: boolean
  /** Whether its figures are money, which not everybody sees. */
  money?: boolean
  late?: (row: R) => boolean
  /** How wide it begins, in pixels. */
  width?: number
  /** Whether it can be sorted by. */
  sort?: boolean
}

export interface Sort {
  by: string
  down: boolean
}

export const classesOf = <R>(c: Column<R>, row?: R) => ({
  r: c.right,
  mono: c.mono && row !== undefined,
  late: row !== undefined && c.late?.(row),
})

/** The columns that whoever is signed on sees. */
export const seen = <C extends { money?: boolean }>(columns: readonly C[]) =>
  columns.filter((c) => !c.money || seesMoney())
