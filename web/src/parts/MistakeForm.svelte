<script lang="ts">
  // A known wrong program: begun as a copy of the one in sight, with the sentence that a learner is told.
  import { nameFor } from '../names'
  import type { Workshop } from '../state/workshop.svelte'
  import { languageOf } from '../state/written.svelte'

  let { workshop: w, file, choose }: { workshop: Workshop; file: string; choose: (file: string) => void } = $props()
  let name = $state('')
  const isMistake = $derived(file.startsWith('mistakes/'))
  const said = $derived(w.outline?.mistakes.find((m) => m.file === file)?.says ?? '')

  function add(event: Event) {
    event.preventDefault()
    const stem = nameFor(name)
    if (!stem || !file) return
    const path = w.free('mistakes/' + stem, '.' + languageOf(file))
    w.write(path, w.files.texts[file])
    void w.change('sentence', { file: path, says: name.trim() + '.' })
    choose(path)
    name = ''
  }
</script>

{#if isMistake}
  <label class="text-sm"
    >What a learner is told
    <textarea
      class="textarea textarea-sm w-full"
      rows="2"
      value={said}
      onchange={(e) => w.change('sentence', { file, says: e.currentTarget.value })}></textarea></label
  >
{/if}
<form class="flex flex-col gap-1" onsubmit={add} aria-label="New mistake">
  <label class="text-sm"
    >What is wrong with it <input
      class="input input-sm w-full"
      placeholder="stop not in series"
      required
      bind:value={name}
    /></label
  >
  <button class="btn btn-xs" disabled={!file}>Copy what is in sight</button>
</form>
