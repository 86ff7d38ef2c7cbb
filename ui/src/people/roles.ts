import type { Schemas } from '@/api/client'

/** The roles in words, and what those who have them do. */
export const roles: Record<Schemas['StaffMember']['roles'][number], { label: string; may: string }> = {
  lead: { label: 'lead', may: 'decide, give rights, and do whatever others do' },
  receiver: { label: 'receiver', may: 'receive, inspect and put away, and count' },
  picker: { label: 'picker', may: 'pick, pack and put away, and count' },
  office: { label: 'office', may: 'write orders, transfers and returns, and see prices' },
  accounts: { label: 'accounts', may: 'set prices, write invoices, and see what stock is worth' },
  viewer: { label: 'viewer', may: 'see what is there but no money, and change nothing' },
}

/** What somebody works as, in words. */
export const roleWords = (of: readonly (keyof typeof roles)[]) => of.map((r) => roles[r].label).join(', ')

/** What those who have these roles may do, as it goes on after "They". */
export const mayWords = (of: readonly (keyof typeof roles)[]) => of.map((r) => roles[r].may).join('; ')
