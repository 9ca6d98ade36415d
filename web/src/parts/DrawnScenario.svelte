<script lang="ts">
  // What somebody says of one scenario: a drawing, or that nobody can tell and why.
  import type { Scenario } from '../api'
  import type { Sheet } from '../state/sheet.svelte'
  import DrawnDiagram from './DrawnDiagram.svelte'

  let { sheet, scenario: s }: { sheet: Sheet; scenario: Scenario } = $props()
  const drawn = $derived(sheet.of(s))
  const slack = $derived(Math.max(...sheet.asked.map((g) => g.slack)))
</script>

{#if s.byHand}
  <fieldset class="flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
    <legend class="mb-1"
      >A hand works these devices: each change comes a scan sooner or later than it stands here. Can anybody tell what
      happens?</legend
    >
    <label class="flex items-center gap-1.5"
      ><input
        type="radio"
        class="radio radio-sm"
        name="told"
        checked={drawn.erratic === undefined}
        onchange={() => sheet.erratic(s, undefined)}
      /> Yes, it is predictable</label
    >
    <label class="flex items-center gap-1.5"
      ><input
        type="radio"
        class="radio radio-sm"
        name="told"
        checked={drawn.erratic !== undefined}
        onchange={() => sheet.erratic(s, '')}
      /> No, it is erratic</label
    >
    {#if drawn.erratic !== undefined}
      <select
        class="select w-auto select-sm"
        aria-label="Why it is erratic"
        value={drawn.erratic}
        onchange={(event) => sheet.erratic(s, event.currentTarget.value)}
      >
        <option value="" disabled>because …</option>
        {#each sheet.exercise.reasons ?? [] as reason (reason)}<option value={reason}>{reason}</option>{/each}
      </select>
    {/if}
  </fieldset>
{:else}
  <p class="text-sm opacity-80">
    What stands here is exact to the scan. {slack
      ? `A change may be ${slack === 1 ? 'a scan' : slack + ' scans'} off.`
      : 'Every scan counts.'}
  </p>
{/if}
{#if drawn.erratic === undefined}
  <DrawnDiagram
    script={sheet.script(s)}
    asked={sheet.asked}
    {drawn}
    change={(signal, line) => sheet.line(s, signal, line)}
  />
  {#if !sheet.said(s)}
    <p class="text-sm">
      Nothing is drawn yet: drag over a lane where it is TRUE, or press where it changes.
      <button class="link" onclick={() => sheet.nothing(s)}>Nothing happens here</button>
    </p>
  {/if}
{/if}
