<script lang="ts">
  // What a scenario expects: the solution's own trace, a table that is pinned, or checks; and which holds where the solution moved.
  import X from '@lucide/svelte/icons/x'
  import type { Script } from '../state/script.svelte'
  import { clock } from '../trace'
  import WrittenCell from './WrittenCell.svelte'

  let { script }: { script: Script } = $props()
  const w = $derived(script.workshop)
  const expect = $derived(script.form!.expect)
  const moved = $derived(script.scene?.moved ?? [])
  /** The stretch of an output, whose expected trace can be drawn. */
  const drawn = $derived(script.stretch?.signal && !script.isInput(script.stretch.signal) ? script.stretch : null)
  const said = $derived(script.scripted?.checks ?? [])
  const removeCheck = (n: number) =>
    expect.checks.length === 1
      ? script.unpin()
      : w.change('edit', { edits: [{ do: 'remove', at: `${script.at}/expect/${n}` }] })
  const removeWindow = (n: number) => w.change('edit', { edits: [{ do: 'remove', at: `${script.at}/ignore/${n}` }] })
  const erratic = (reason: string) => (reason ? { erratic: reason } : 'solution')
  const part = (n: number) => script.scene?.parts[n]
</script>

<div class="flex flex-col gap-2 text-sm">
  {#if moved.length}
    <div role="alert" class="alert flex-wrap alert-soft alert-warning">
      <span
        >The solution changed: {#each moved as m, n (m.signal)}{n ? ', ' : ''}<span class="font-mono">{m.signal}</span>
          from
          {clock(script.inputs!, m.scan)} on{/each}. Which holds?</span
      >
      {#if expect.table}
        <button class="btn btn-sm" onclick={() => script.pin()}>What it does now: pin that</button>
        <span>The table stays what is expected until then.</span>
      {:else}
        <button class="btn btn-sm" onclick={() => w.settle()}>What it does now</button>
        <button class="btn btn-sm" onclick={() => script.pinBefore()}>What it did before: pin that</button>
      {/if}
    </div>
  {/if}
  {#if w.predicts && (script.form!.byHand === 'true' || expect.erratic)}
    <label class="flex flex-wrap items-center gap-2"
      >Can anybody tell what happens?
      <select
        class="select w-auto select-sm"
        aria-label="What is expected of a prediction"
        value={expect.erratic}
        onchange={(e) => w.put(`${script.at}/expect`, erratic(e.currentTarget.value))}
      >
        <option value="">Yes, it is predictable</option>
        {#each w.outline!.form.reasons as r, n (n)}<option value={r}>No: {r}</option>{/each}
      </select></label
    >
    {#if !expect.erratic}<p class="opacity-80">
        Expected is what the program does; a hand a scan off changes nothing.
      </p>{/if}
  {:else if expect.checks.length}
    <p>These checks are what is expected; each is an equal part of the scenario.</p>
    <ul class="flex flex-col gap-1" aria-label="Checks">
      {#each expect.checks as c, n (n)}
        <li class="flex flex-wrap items-center gap-2">
          <span class="font-mono">{c.signal}</span>
          {said[n]?.says ?? ''}
          <label class="flex items-center gap-1"
            >from <span class="w-20"
              ><WrittenCell
                workshop={w}
                at="{script.at}/expect/{n}/from"
                value={c.from}
                label="From"
                optional
                mono
              /></span
            ></label
          >
          <label class="flex items-center gap-1"
            >to <span class="w-20"
              ><WrittenCell workshop={w} at="{script.at}/expect/{n}/to" value={c.to} label="To" optional mono /></span
            ></label
          >
          {#if part(n)}<span class="badge badge-sm {part(n)!.ok ? 'badge-success' : 'badge-error'}"
              >{part(n)!.ok ? 'the solution passes' : 'the solution does not pass'}</span
            >{#if part(n)!.still}<span class="opacity-80">still: it only takes away</span>{/if}{/if}
          <button
            class="btn btn-square btn-ghost btn-xs"
            aria-label="Take this check out"
            onclick={() => removeCheck(n)}><X size={14} /></button
          >
        </li>
      {/each}
    </ul>
    <button class="btn self-start btn-xs" onclick={() => script.unpin()}>Expect the solution’s trace instead</button>
  {:else if expect.table}
    <p>
      Expected is the table <span class="font-mono">{expect.table}</span>: a change of the solution shows instead of
      moving the marks.
    </p>
    <div class="flex gap-2">
      <button class="btn btn-xs" onclick={() => script.unpin()}>Expect whatever the solution does</button>
      {#if !moved.length}<button class="btn btn-xs" onclick={() => script.pin()}>Write it anew from the solution</button
        >{/if}
    </div>
  {:else}
    <p>
      Expected is what the solution does, in every graded signal.
      {#if !w.predicts}To ask for less, choose a stretch of an output’s lane and make a check of it.{/if}
    </p>
    <button class="btn self-start btn-xs" onclick={() => script.pin()}>Pin it as a table</button>
  {/if}
  {#if drawn && !expect.checks.length}
    <div class="flex flex-wrap items-center gap-2" role="group" aria-label="Draw what is expected">
      <span>Draw by hand: from the chosen stretch <span class="font-mono">{drawn.signal}</span> is</span>
      <button class="btn btn-xs" onclick={() => script.draw('true', drawn)}>TRUE</button>
      <button class="btn btn-xs" onclick={() => script.draw('false', drawn)}>FALSE</button>
    </div>
  {/if}
  {#if script.form!.ignore.length}
    <h2 class="font-semibold">Not compared</h2>
    <ul aria-label="Not compared" class="flex flex-col gap-1">
      {#each script.form!.ignore as i, n (n)}
        <li class="flex items-center gap-2">
          <span class="w-20"
            ><WrittenCell workshop={w} at="{script.at}/ignore/{n}/from" value={i.from} label="From" mono /></span
          >
          to
          <span class="w-20"
            ><WrittenCell workshop={w} at="{script.at}/ignore/{n}/to" value={i.to} label="To" optional mono /></span
          >
          <button class="btn btn-square btn-ghost btn-xs" aria-label="Compare it again" onclick={() => removeWindow(n)}
            ><X size={14} /></button
          >
        </li>
      {/each}
    </ul>
  {/if}
</div>
