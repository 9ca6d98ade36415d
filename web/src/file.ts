/** Gives the person a text as a file. */
export function give(name: string, text: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/plain' }))
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 1000)
}

/** The text of a file, as it was saved: UTF-16 is known by its byte order mark; all else is UTF-8. */
export async function textOf(file: Blob): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  const wide = { '255,254': 'utf-16le', '254,255': 'utf-16be' }[bytes.slice(0, 2).join()]
  return new TextDecoder(wide ?? 'utf-8').decode(bytes)
}
