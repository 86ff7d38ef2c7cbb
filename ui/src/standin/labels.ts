import type { Schemas } from '@/api/client'

/** How many labels of these jobs have not come out yet. */
export const labelsLeft = (jobs: Schemas['LabelsJob'][]) => jobs.reduce((n, j) => n + j.copies - j.printed, 0)
