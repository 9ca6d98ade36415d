// Where everything of a drawn network stands, in pixels: its geometry is in letters and lines.
import type { Network, NetworkLine } from '../core/core'

const letter = 7.6
const step = 24

/** The middle of a letter, and of a line. */
export const across = (x: number) => x * letter + 10
export const along = (y: number) => y * step + 16
/** The radius of a circle that inverts. */
export const circle = 4.5
export const faceHeight = 18

export const size = (g: Network) => ({ width: across(g.width + 2), height: along(g.height) + 2 })

/** A line whose value is no constant: what a function or a block gives, or a variable. */
export const placed = (l: NetworkLine) => !/^[-+\d'%]|^\w+#|^(TRUE|FALSE)$/i.test(l.from.name)
