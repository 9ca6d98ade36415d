<script lang="ts">
  // What stands at the cursor of the text: where it is declared, all its uses, and another name for it.
  import type { NamePlace } from '../core/core'
  import { focused } from '../focus'
  import type { Drawing } from '../state/drawing.svelte'

  let {
    drawing,
    at,
    go,
  }: { drawing: Drawing; at: { line: number; column: number }; go: (line: number, column: number) => void } = $props()
  let places = $state.raw<NamePlace[]>([])
  let lists = $state(false)
  let renaming = $state<string | null>(null)
  $effect(() => {
    const { line, column } = at
    const program = { file: drawing.draft.file, text: drawing.draft.text }
    const timer = setTimeout(async () => {
      const found = await drawing.core.names(program, line, column).catch(() => [])
      if (found[0]?.name !== places[0]?.name) renaming = null
      places = found
    }, 150)
    return () => clearTimeout(timer)
  })
  const declared = $derived(places.find((p) => p.use === 'declares'))
  async function rename() {
    const to = renaming!
    await drawing.change(() => [{ do: 'rename', offset: places[0].offset, text: to }])
    if (!drawing.problem) renaming = null
  }
  export function key(event: KeyboardEvent) {
    if (!places.length) return
    if (event.key === 'F12' && declared) go(declared.line, declared.column)
    else if (event.key === 'F2' && declared) renaming = places[0].name
    else return
    event.preventDefault()
  }
</script>

{#if places.length}
  <div class="flex flex-wrap items-center gap-2 text-sm" role="group" aria-label="The name at the cursor">
    <b class="font-mono">{places[0].name}</b>
    {#if declared}<button class="btn btn-xs" title="F12" onclick={() => go(declared.line, declared.column)}
        >Declared in line {declared.line}</button
      >{:else}<span>is not declared in this text</span>{/if}
    <button class="btn btn-xs" aria-expanded={lists} onclick={() => (lists = !lists)}
      >{places.length === 1 ? 'Stands here only' : `Stands in ${places.length} places`}</button
    >
    {#if declared}
      {#if renaming === null}
        <button class="btn btn-xs" title="F2" onclick={() => (renaming = places[0].name)}>Rename</button>
      {:else}
        <form
          class="flex gap-1"
          onsubmit={(e) => {
            e.preventDefault()
            void rename()
          }}
        >
          <input class="input input-xs w-32 font-mono" aria-label="New name" {@attach focused} bind:value={renaming} />
          <button class="btn btn-primary btn-xs">Rename everywhere</button>
        </form>
      {/if}
    {/if}
  </div>
  {#if drawing.problem}<p class="alert alert-soft" role="alert">{drawing.problem}</p>{/if}
  {#if lists}
    <ul class="max-h-40 overflow-auto text-sm">
      {#each places as p, n (n)}<li>
          <button class="link font-mono text-xs" onclick={() => go(p.line, p.column)}>line {p.line}</button>
          {p.use}: <span class="font-mono text-xs">{p.words}</span>
        </li>{/each}
    </ul>
  {/if}
{/if}
