import { expect, test } from 'vitest'
import { textOf } from './file'

const saved: [string, number[]][] = [
  ['UTF-8', [0x41, 0xc3, 0xbc]],
  ['UTF-8 with a mark', [0xef, 0xbb, 0xbf, 0x41, 0xc3, 0xbc]],
  ['UTF-16, low byte first', [0xff, 0xfe, 0x41, 0, 0xfc, 0]],
  ['UTF-16, high byte first', [0xfe, 0xff, 0, 0x41, 0, 0xfc]],
]
test.each(saved)('a file in %s is read', async (_, bytes) => {
  expect(await textOf(new Blob([new Uint8Array(bytes)]))).toBe('Aü')
})
