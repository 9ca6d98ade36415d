// Names of files and courses, as the core makes them of words.

/** Small letters, digits and single hyphens; '' of words that have none. */
export function nameFor(words: string): string {
  return words
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 60)
}
