// Files as JSON carries them.

/** The text of a file in base64. */
export function textOf(base64: string): string {
  return new TextDecoder('utf-8', { ignoreBOM: true }).decode(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)))
}

/** A text as base64 of its bytes. */
export function bytesOf(text: string): string {
  return base64Of(new TextEncoder().encode(text))
}

export function base64Of(bytes: Uint8Array): string {
  let binary = ''
  for (let at = 0; at < bytes.length; at += 0x8000) binary += String.fromCharCode(...bytes.subarray(at, at + 0x8000))
  return btoa(binary)
}
