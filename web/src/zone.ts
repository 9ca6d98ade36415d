// Times of a class are written and read in its own time zone, wherever the instructor sits.

/** How a moment reads on the wall of a zone: 2026-03-02T08:00. */
export function toWall(iso: string | undefined, zone: string): string {
  if (!iso) return ''
  const parts = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short', timeStyle: 'short' }).format(
    new Date(iso),
  )
  return parts.replace(' ', 'T')
}

/**
 * The moment at which a wall of the zone reads so.
 * In the hour that the clocks skip it is the moment after it; in the hour they repeat, the first.
 */
export function fromWall(wall: string, zone: string): string | undefined {
  if (!wall) return undefined
  const wanted = Date.parse(wall + 'Z')
  const reads = (at: number) => Date.parse(toWall(new Date(at).toISOString(), zone) + 'Z')
  // Zones lie between 12 hours behind and 14 ahead of UTC, in quarters of an hour.
  for (let at = wanted - 14 * 3_600_000; at <= wanted + 12 * 3_600_000; at += 900_000)
    if (reads(at) === wanted) return new Date(at).toISOString()
  return fromWall(new Date(wanted + 3_600_000).toISOString().slice(0, 16), zone)
}

export const spoken = (iso: string, zone?: string) =>
  new Intl.DateTimeFormat('en-GB', { timeZone: zone, dateStyle: 'medium', timeStyle: 'short' }).format(new Date(iso))
