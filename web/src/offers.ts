// What the core knows while a program is written, as the editor takes it: what could stand at the cursor, what a name is, and the ways out
// of an error.
import type { CompletionContext, CompletionResult, CompletionSource } from '@codemirror/autocomplete'
import type { Action } from '@codemirror/lint'
import type { EditorState } from '@codemirror/state'
import { hoverTooltip } from '@codemirror/view'
import type { Core } from './core/core'
import type { Fix } from './core/calls'

/** The core, and the name of the file that is written. */
export interface Writer {
  core: Core
  file: string
}

const programOf = (w: Writer, state: EditorState) => ({ file: w.file, text: state.doc.toString() })

/** Where an offset lies, as the core counts. */
function position(state: EditorState, offset: number) {
  const line = state.doc.lineAt(offset)
  return { line: line.number, column: offset - line.from + 1, from: line.from }
}

/** The offset of a line and column, which may be beyond the text. */
export function offsetOf(state: EditorState, line: number, column: number) {
  const l = state.doc.line(Math.min(Math.max(line, 1), state.doc.lines))
  return Math.min(l.from + column - 1, l.to)
}

/** Completes what is written. */
export function completing(writer: () => Writer | undefined): CompletionSource {
  return async (context: CompletionContext): Promise<CompletionResult | null> => {
    const w = writer()
    if (!w || (!context.explicit && !context.matchBefore(/[\w.]$/))) return null
    const at = position(context.state, context.pos)
    const { from, offers } = await w.core.complete(programOf(w, context.state), at.line, at.column)
    if (!offers.length) return null
    return {
      from: at.from + from - 1,
      options: offers.map((o) => ({
        label: o.label,
        type: o.kind,
        detail: o.detail,
        apply: o.insert,
        boost: o.first ? 1 : 0,
      })),
      validFor: /^\w*$/,
    }
  }
}

/** Tells what a name is, and what it is on the bench now, where the mouse rests on it. */
export function telling(writer: () => Writer | undefined, value: (name: string) => string | undefined) {
  return hoverTooltip(async (view, offset) => {
    const w = writer()
    if (!w) return null
    const at = position(view.state, offset)
    const told = await w.core.describe(programOf(w, view.state), at.line, at.column)
    if (!told.words) return null
    return {
      pos: at.from + told.from - 1,
      above: true,
      create: () => {
        const dom = document.createElement('div')
        const now = value(told.name)
        dom.className = 'px-2 py-1 text-sm'
        dom.textContent = told.words + (now === undefined ? '' : `. On the bench: ${now}`)
        return { dom }
      },
    }
  })
}

/** The ways out of an error, to be chosen beside it. */
export function waysOut(fixes: Fix[]): Action[] {
  return fixes.map((f) => ({
    name: f.name,
    apply: (view) =>
      view.dispatch({
        changes: {
          from: offsetOf(view.state, f.from.line, f.from.column),
          to: offsetOf(view.state, f.to.line, f.to.column),
          insert: f.insert,
        },
      }),
  }))
}
