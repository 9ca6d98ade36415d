<script lang="ts">
  // A text editor for the brief: names of points are offered as they are typed; pictures are dropped or pasted.
  import { autocompletion, completionKeymap, type CompletionContext } from '@codemirror/autocomplete'
  import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
  import { EditorState } from '@codemirror/state'
  import { drawSelection, EditorView, keymap } from '@codemirror/view'
  import { untrack } from 'svelte'
  import { difference } from '../state/history'

  let {
    text,
    names,
    change,
    pictures,
  }: {
    text: string
    names: { name: string; label: string }[]
    change: (text: string) => void
    pictures: (files: File[]) => void
  } = $props()
  let view: EditorView | undefined

  function offered(context: CompletionContext) {
    const word = context.matchBefore(/[A-Za-z_]\w*/)
    if (!word && !context.explicit) return null
    return {
      from: word?.from ?? context.pos,
      options: names.map((n) => ({ label: n.name, detail: n.label, type: 'variable' })),
    }
  }
  function taken(data: DataTransfer | null) {
    const files = [...(data?.files ?? [])]
    if (files.length) pictures(files)
    return files.length > 0
  }
  function edit(parent: HTMLElement) {
    const state = EditorState.create({
      doc: untrack(() => text),
      extensions: [
        history(),
        drawSelection(),
        EditorView.lineWrapping,
        autocompletion({ override: [offered] }),
        keymap.of([...completionKeymap, ...historyKeymap, ...defaultKeymap]),
        EditorView.contentAttributes.of({ 'aria-label': 'Brief, in Markdown', spellcheck: 'true' }),
        EditorView.updateListener.of((u) => u.docChanged && change(u.state.doc.toString())),
        EditorView.domEventHandlers({
          drop: (event) => taken(event.dataTransfer) && (event.preventDefault(), true),
          paste: (event) => taken(event.clipboardData) && (event.preventDefault(), true),
        }),
      ],
    })
    view = new EditorView({ state, parent })
    return () => view?.destroy()
  }
  // What was changed elsewhere is followed.
  $effect(() => {
    const now = view?.state.doc.toString()
    if (now === undefined || now === text) return
    const d = difference(now, text)
    view!.dispatch({ changes: { from: d.at, to: d.at + d.out.length, insert: d.in } })
  })

  /** Puts words in where the cursor is. */
  export function put(words: string) {
    if (!view) return
    view.dispatch(view.state.replaceSelection(words))
    view.focus()
  }
</script>

<div class="editor min-h-64 grow overflow-auto rounded-box border border-base-300 bg-base-100" {@attach edit}></div>

<style>
  .editor :global(.cm-editor) {
    min-height: 100%;
  }
  .editor :global(.cm-content) {
    font-family: var(--font-sans);
    font-size: 15px;
    caret-color: var(--color-base-content);
  }
</style>
