<script lang="ts">
  // The languages in which learners may write it.
  import type { Workshop } from '../state/workshop.svelte'
  import { programming, words, type Language } from '../state/written.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const chosen = $derived(w.exercise!.languages)
  const turn = (language: Language, on: boolean) =>
    w.put(
      'languages',
      programming.filter((l) => (l === language ? on : chosen.includes(l))),
    )
</script>

<fieldset class="text-sm">
  <legend class="font-semibold">Learners write it in</legend>
  {#each programming as l (l)}
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="checkbox checkbox-xs"
        checked={chosen.includes(l)}
        disabled={chosen.length === 1 && chosen.includes(l)}
        onchange={(e) => turn(l, e.currentTarget.checked)}
      />{words[l]}</label
    >
  {/each}
</fieldset>
