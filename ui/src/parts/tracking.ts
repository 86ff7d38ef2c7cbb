interface Tracked {
  tracking: string
}

/** Whether goods are known by lots in stock. */
export const byLots = (l: Tracked) => l.tracking === 'lot' || l.tracking === 'lot_expiry'

/** Whether goods are known unit by unit in stock. */
export const byUnits = (l: Tracked) => l.tracking === 'serial'
