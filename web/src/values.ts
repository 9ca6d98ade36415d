// What the names in a line are on the bench, written behind the line.
import { RangeSetBuilder, StateEffect } from '@codemirror/state'
import {
  Decoration,
  ViewPlugin,
  WidgetType,
  type DecorationSet,
  type EditorView,
  type ViewUpdate,
} from '@codemirror/view'

/** Where values come from. A name is asked for as it stands in a line of that number. */
export interface Live {
  /** The names of the lines in view, to be had with the next scan. */
  read: (names: { line: number; name: string }[]) => void
  value: (line: number, name: string) => string | undefined
}

/** The values are to be written anew. */
export const valuesChanged = StateEffect.define<null>()

class Beside extends WidgetType {
  constructor(readonly values: [name: string, value: string][]) {
    super()
  }
  override eq(other: Beside) {
    return JSON.stringify(other.values) === JSON.stringify(this.values)
  }
  toDOM() {
    const span = document.createElement('span')
    span.className = 'cm-beside'
    span.setAttribute('aria-hidden', 'true')
    this.values.forEach(([name, value], n) => {
      if (n) span.append('  ')
      span.append(name + ' ')
      const b = document.createElement('b')
      b.textContent = value
      if (value === 'TRUE') b.className = 'on'
      span.append(b)
    })
    return span
  }
}

const most = 4

/** The names that stand in a line, before any comment. */
const namesIn = (text: string) => [
  ...new Set(
    [...text.replace(/\/\/.*|\(\*.*?\*\)|'[^']*'/g, ' ').matchAll(/[A-Za-z_]\w*(?:\[\d+\])?(?:\.\w+)*/g)].map(
      (m) => m[0],
    ),
  ),
]

export function valuesBeside(live: Live) {
  return ViewPlugin.fromClass(
    class {
      decorations: DecorationSet
      constructor(view: EditorView) {
        this.decorations = this.write(view)
        this.ask(view)
      }
      update(update: ViewUpdate) {
        if (update.docChanged || update.viewportChanged) this.ask(update.view)
        if (
          update.docChanged ||
          update.viewportChanged ||
          update.transactions.some((t) => t.effects.some((e) => e.is(valuesChanged)))
        )
          this.decorations = this.write(update.view)
      }
      *lines(view: EditorView) {
        for (const { from, to } of view.visibleRanges) {
          for (let at = from; at <= to;) {
            const line = view.state.doc.lineAt(at)
            yield line
            at = line.to + 1
          }
        }
      }
      ask(view: EditorView) {
        live.read([...this.lines(view)].flatMap((l) => namesIn(l.text).map((name) => ({ line: l.number, name }))))
      }
      write(view: EditorView) {
        const builder = new RangeSetBuilder<Decoration>()
        for (const l of this.lines(view)) {
          const values = namesIn(l.text).flatMap((name): [string, string][] => {
            const value = live.value(l.number, name)
            return value === undefined ? [] : [[name, value]]
          })
          if (values.length)
            builder.add(l.to, l.to, Decoration.widget({ widget: new Beside(values.slice(0, most)), side: 1 }))
        }
        return builder.finish()
      }
    },
    { decorations: (plugin) => plugin.decorations },
  )
}
