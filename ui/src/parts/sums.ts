/** The sum of decimal figures, exactly; what is empty counts nothing. */
export function sumOf(figures: string[]): string {
  const places = Math.max(0, ...figures.map((f) => (f.split('.')[1] ?? '').length))
  const whole = (f: string) => {
    const [units = '', parts = ''] = f.split('.')
    return BigInt(units + parts.padEnd(places, '0'))
  }
  const sum = figures.filter((f) => f !== '').reduce((n, f) => n + whole(f), 0n)
  if (!places) return String(sum)
  const digits = String(sum < 0n ? -sum : sum).padStart(places + 1, '0')
  const text = `${digits.slice(0, -places)}.${digits.slice(-places)}`.replace(/\.?0+$/, '')
  return sum < 0n ? `-${text}` : text
}
