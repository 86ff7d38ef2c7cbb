/** Reads what was built into a folder: what the page asks for first, what a script fetches, what scripts reach. */
export function built(dist: string): {
  read(name: string): Buffer
  first(): string[]
  fetched(name: string): string[]
  reached(from: string[]): Set<string>
}
