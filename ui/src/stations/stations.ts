/** The stations in the order goods flow, as they hang on the Row. */
export const stations = [
  { id: 'receive', name: 'Receive', path: '/receive' },
  { id: 'putaway', name: 'Put away', path: '/putaway' },
  { id: 'stock', name: 'Stock', path: '/stock' },
  { id: 'orders', name: 'Orders', path: '/orders' },
  { id: 'pick', name: 'Pick', path: '/pick' },
  { id: 'pack', name: 'Pack', path: '/pack' },
  { id: 'dispatch', name: 'Dispatch', path: '/dispatch' },
  { id: 'transfers', name: 'Transfers', path: '/transfers' },
  { id: 'returns', name: 'Returns', path: '/returns' },
  { id: 'audit', name: 'Audit', path: '/audit' },
] as const
