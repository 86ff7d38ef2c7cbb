/** The lists of purchase orders that people live by. */
export const lists = {
  open: 'open',
  asked: 'asked for, offered',
  approve: 'to be approved',
  late: 'late',
  today: 'due today',
  week: 'due within a week',
  partly_received: 'partly received',
  waiting: 'waiting on the dock',
  uninvoiced: 'received, not invoiced',
  all: 'all',
} as const

export type List = keyof typeof lists

export const listOptions = (Object.entries(lists) as [List, string][]).map(([value, label]) => ({ value, label }))
