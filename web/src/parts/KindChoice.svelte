<script lang="ts">
  // What learners hand in: a program, or what the one that is shown will do.
  import type { Workshop } from '../state/workshop.svelte'
  import LanguageChoice from './LanguageChoice.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()

  /** Nothing is written where a trace is predicted, so that no languages are chosen. */
  const predict = () =>
    w.change('edit', {
      edits: [
        { do: 'put', at: 'kind', value: 'predict' },
        ...(w.outline!.form.languages.length ? [{ do: 'remove', at: 'languages' } as const] : []),
      ],
    })
</script>

<fieldset class="text-sm">
  <legend class="font-semibold">Learners</legend>
  <label class="flex items-center gap-2"
    ><input
      type="radio"
      class="radio radio-xs"
      name="kind"
      checked={!w.predicts}
      onchange={() => w.put('kind', undefined)}
    />write a program</label
  >
  <label class="flex items-center gap-2"
    ><input type="radio" class="radio radio-xs" name="kind" checked={w.predicts} onchange={predict} />predict what it
    does</label
  >
</fieldset>
{#if !w.predicts}<LanguageChoice workshop={w} />{/if}
