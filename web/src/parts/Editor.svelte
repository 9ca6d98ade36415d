<script lang="ts">
  // A text editor for programs. What is written is told; a text changed elsewhere, in the drawing or by undoing, is followed.
  import { autocompletion, completionKeymap } from '@codemirror/autocomplete'
  import { defaultKeymap, indentWithTab } from '@codemirror/commands'
  import { bracketMatching, indentUnit } from '@codemirror/language'
  import { lintGutter, setDiagnostics, type Diagnostic as Marked } from '@codemirror/lint'
  import { Annotation, EditorState } from '@codemirror/state'
  import {
    drawSelection,
    EditorView,
    highlightActiveLine,
    highlightActiveLineGutter,
    keymap,
    lineNumbers,
  } from '@codemirror/view'
  import { untrack } from 'svelte'
  import type { Diagnostic } from '../api'
  import type { Fix } from '../core/calls'
  import { completing, offsetOf, telling, waysOut, type Writer } from '../offers'
  import { difference } from '../state/history'
  import { valuesBeside, valuesChanged, type Live } from '../values'
  import { controllerText } from '../highlight'

  let {
    text,
    diagnostics,
    change,
    readonly = false,
    label,
    fixes = [],
    writer,
    value = () => undefined,
    undo,
    redo,
    live,
    beat,
    at,
  }: {
    text: string
    diagnostics: Diagnostic[]
    change?: (text: string) => void
    readonly?: boolean
    label: string
    /** The ways out of each of the diagnostics. */
    fixes?: Fix[][]
    /** The core, which knows what could be written. */
    writer?: Writer
    /** What a name is on the bench now. */
    value?: (name: string) => string | undefined
    /** Take the last change back, make it again. */
    undo?: () => void
    redo?: () => void
    /** Values beside the lines; they are read again with each beat. */
    live?: Live
    beat?: unknown
    /** The cursor has moved. */
    at?: (line: number, column: number) => void
  } = $props()

  let view: EditorView | undefined

  const look = EditorView.theme({
    '&': { fontSize: '14px', height: '100%' },
    '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '1.6', fontVariantLigatures: 'none' },
    '.cm-gutters': {
      backgroundColor: 'var(--color-base-200)',
      color: 'color-mix(in oklab, var(--color-base-content) 75%, transparent)',
      border: 'none',
    },
    '.cm-activeLine, .cm-activeLineGutter': {
      backgroundColor: 'color-mix(in oklab, var(--color-primary) 12%, transparent)',
    },
    '&.cm-focused': { outline: 'none' },
    '.cm-cursor': { borderLeftColor: 'var(--color-base-content)', borderLeftWidth: '2px' },
    '.cm-diagnosticAction': { backgroundColor: 'var(--color-primary)', color: 'var(--color-primary-content)' },
    '.cm-tooltip-autocomplete ul li[aria-selected]': {
      backgroundColor: 'var(--color-primary)',
      color: 'var(--color-primary-content)',
    },
    '.cm-tooltip-hover': { maxWidth: '36rem' },
    '.cm-tooltip': {
      backgroundColor: 'var(--color-base-200)',
      color: 'var(--color-base-content)',
      border: '1px solid var(--color-base-300)',
    },
    '.cm-beside': {
      marginLeft: '2rem',
      padding: '0 0.35rem',
      borderRadius: '0.25rem',
      backgroundColor: 'var(--color-base-200)',
      fontSize: '0.85em',
    },
    '.cm-beside b': { fontWeight: '600' },
    '.cm-beside .on': {
      backgroundColor: 'color-mix(in oklab, var(--color-primary) 55%, var(--color-base-100))',
      padding: '0 0.2rem',
      borderRadius: '0.2rem',
    },
    '.cm-selectionBackground': {
      backgroundColor: 'color-mix(in oklab, var(--color-primary) 35%, transparent) !important',
    },
  })

  function build(host: HTMLElement) {
    return untrack(() => {
      const made = new EditorView({
        parent: host,
        state: EditorState.create({
          doc: text,
          extensions: [
            lineNumbers(),
            drawSelection(),
            bracketMatching(),
            indentUnit.of('  '),
            lintGutter(),
            controllerText,
            look,
            telling(
              () => writer,
              (name) => value(name),
            ),
            keymap.of([
              { key: 'Mod-z', run: () => (undo?.(), true) },
              { key: 'Mod-y', run: () => (redo?.(), true) },
              { key: 'Mod-Shift-z', run: () => (redo?.(), true) },
              ...completionKeymap,
              ...defaultKeymap,
              indentWithTab,
            ]),
            live ? valuesBeside(live) : [],
            EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
            EditorView.lineWrapping, // nothing of a line, nor what stands beside it, is out of sight
            readonly
              ? EditorState.readOnly.of(true)
              : [
                  highlightActiveLine(),
                  highlightActiveLineGutter(),
                  autocompletion({ override: [completing(() => writer)], activateOnTyping: true }),
                ],
            EditorView.updateListener.of((update) => {
              if (update.docChanged && !update.transactions.some((t) => t.annotation(followed)))
                change?.(update.state.doc.toString())
              if (update.selectionSet || update.docChanged) tell(update.state)
            }),
          ],
        }),
      })
      view = made
      mark(made, diagnostics)
      // Lines are as high as the font that has come, not as the one before it.
      const measure = () => made.requestMeasure()
      document.fonts.addEventListener('loadingdone', measure)
      return () => {
        document.fonts.removeEventListener('loadingdone', measure)
        made.destroy()
      }
    })
  }

  const followed = Annotation.define<boolean>()
  function tell(state: EditorState) {
    const head = state.selection.main.head
    const line = state.doc.lineAt(head)
    at?.(line.number, head - line.from + 1)
  }

  // Follows a text that was changed elsewhere.
  $effect(() => {
    if (!view || text === view.state.doc.toString()) return
    const d = difference(view.state.doc.toString(), text)
    view.dispatch({
      changes: { from: d.at, to: d.at + d.out.length, insert: d.in },
      annotations: followed.of(true),
      scrollIntoView: view.hasFocus,
      ...(view.hasFocus ? { selection: { anchor: d.at + d.in.length } } : {}),
    })
  })

  $effect(() => {
    void beat
    view?.dispatch({ effects: valuesChanged.of(null) })
  })

  function mark(v: EditorView, list: Diagnostic[]) {
    const marked: Marked[] = list.map((d, n) => {
      const from = offsetOf(v.state, d.line, d.column)
      const to = Math.max(from, offsetOf(v.state, d.endLine, d.endColumn))
      const actions = readonly ? [] : waysOut(fixes[n] ?? [])
      return { from, to, severity: d.severity, message: d.message + (d.hint ? ' ' + d.hint : ''), actions }
    })
    v.dispatch(setDiagnostics(v.state, marked))
  }

  $effect(() => {
    if (view) mark(view, diagnostics)
  })

  /** Puts the cursor at a place and shows it. */
  export function go(line: number, column: number) {
    if (!view) return
    const at = offsetOf(view.state, line, column)
    view.dispatch({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: 'center' }) })
    view.focus()
  }
</script>

<div
  class="h-full overflow-hidden rounded-box border border-base-300 focus-within:border-base-content"
  {@attach build}
></div>
