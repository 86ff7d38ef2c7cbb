import type { Schemas } from '@/api/client'

/** The roles in words, and what those who have them do. */
export const roles: Record<Schemas['StaffMember']['role'], { label: string; may: string }> = {
  lead: { label: 'lead', may: 'decide, give rights, and do whatever others do' },
  receiver: { label: 'receiver', may: 'receive, inspect and put away, and count' },
  picker: { label: 'picker', may: 'pick, pack and put away, and count' },
  office: { label: 'office', may: 'write orders and invoices' },
  viewer: { label: 'viewer', may: 'see what is there, and change nothing' },
}
