import type { Palette } from '@/theme/palette'

/** What a picture of figures shows, whatever draws it. */
export interface Chart {
  /** What stands along it: names in their order, or instants. */
  along: string[] | 'time'
  /** Bars that lie, their names beside them. */
  lying?: boolean
  series: Series[]
  /** Instants that matter, each with its words. */
  marks?: { at: string; words: string }[]
  /** What the figures count. */
  unit: string
}

export interface Series {
  name: string
  /** A value for each name, or for each instant. */
  values: number[] | [string, number][]
  as: 'bar' | 'line' | 'step'
  colour: keyof Palette
  /** Stands on the series before it. */
  stacked?: boolean
}
