/** The lists of purchase orders that people live by. */
export const lists = {
  open: 'open',
  asked: 'asked for, offered',
  approve: 'to be approved',
  late: 'late',
  today: 'due today',
  week: 'due within a week',
  'part in': 'part in',
  waiting: 'waiting on the dock',
  unbilled: 'in, not billed',
  all: 'all',
} as const

export type List = keyof typeof lists
