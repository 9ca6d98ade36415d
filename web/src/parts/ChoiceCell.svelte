<script lang="ts">
  // One value of exercise.yaml that is one of a few; what holds where nothing is written is written by leaving it out.
  import type { Workshop } from '../state/workshop.svelte'

  let {
    workshop,
    at,
    value,
    label,
    choices,
    usual = '',
  }: { workshop: Workshop; at: string; value: string; label: string; choices: string[]; usual?: string } = $props()
  const wrong = $derived(workshop.wrong(at))
</script>

<select
  class="select select-xs w-full min-w-20"
  class:select-error={wrong.some((p) => p.error)}
  aria-label={label}
  {value}
  data-at={at}
  onchange={(e) => workshop.put(at, e.currentTarget.value === usual ? undefined : e.currentTarget.value)}
>
  {#if value && !choices.includes(value)}<option {value}>{value}</option>{/if}
  {#each choices as c (c)}<option value={c}>{c}</option>{/each}
</select>
{#each wrong as p (p.message)}<p class="mt-0.5 text-xs" class:text-error={p.error}>{p.message} {p.hint}</p>{/each}
