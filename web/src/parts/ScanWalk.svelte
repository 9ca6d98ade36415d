<script lang="ts">
  // One scan walked through: step by step, in the order in which the machine goes, with a sentence for each.
  import type { Bench } from '../state/bench.svelte'

  let { bench, go }: { bench: Bench; go: (line: number) => void } = $props()
  const stages = $derived(bench.stages ?? [])
  const now = $derived(stages[bench.step])
  let list: HTMLOListElement | undefined = $state()
  $effect(() => {
    const n = bench.step
    list?.children[n]?.scrollIntoView({ block: 'nearest' })
  })
  function keys(event: KeyboardEvent) {
    const to = {
      ArrowDown: bench.step + 1,
      ArrowRight: bench.step + 1,
      ArrowUp: bench.step - 1,
      ArrowLeft: bench.step - 1,
      Home: 0,
      End: stages.length - 1,
    }[event.key]
    if (to === undefined) return
    event.preventDefault()
    bench.stepTo(to)
  }
  const heading = (n: number) => {
    const [s, before] = [stages[n], stages[n - 1]]
    const number = s.rung || s.network
    if (!number || ((before?.rung || before?.network) === number && before.instance === s.instance)) return ''
    return `${s.rung ? 'Rung' : 'Network'} ${number} ${s.title}${s.instance ? ' in ' + s.instance : ''}`
  }
</script>

{#if !bench.stages}
  <p class="flex flex-wrap items-center gap-3 p-2 text-sm">
    <button class="btn btn-sm btn-primary" disabled={!bench.loaded} onclick={() => bench.walk()}
      >Walk through this scan</button
    >
    Step inside scan {bench.view?.scan ?? 0}: what each element looks at, what it remembers from the scan before, what
    it writes.
  </p>
{:else}
  <div class="flex min-h-0 grow flex-col gap-1">
    <div class="flex flex-wrap items-center gap-2 text-sm">
      <button class="btn btn-xs" disabled={!bench.step} onclick={() => bench.stepTo(bench.step - 1)}>Step back</button>
      <button
        class="btn btn-xs btn-primary"
        disabled={bench.step >= stages.length - 1}
        onclick={() => bench.stepTo(bench.step + 1)}>Step</button
      >
      <span class="tabular-nums" role="status" data-testid="step"
        >Step {bench.step + 1} of {stages.length} in scan {bench.view?.scan}{#if now?.writes.length}:
          {#each now.writes as w (w.name)}<b class="ml-3 font-mono text-xs whitespace-nowrap"
              >{w.name} {w.before === w.after ? w.after : `${w.before} → ${w.after}`}</b
            >{/each}{/if}</span
      >
      <button class="btn btn-ghost btn-xs ml-auto" onclick={() => bench.leave()}>Leave the scan</button>
    </div>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <ol
      bind:this={list}
      class="min-h-0 grow overflow-y-auto rounded-box border border-base-300 text-sm"
      tabindex="0"
      aria-label="The scan, step by step"
      onkeydown={keys}
    >
      {#each stages as s, n (n)}
        <li class:later={n > bench.step} class:here={n === bench.step}>
          {#if heading(n)}<p class="px-2 pt-1 text-xs font-semibold">{heading(n)}</p>{/if}
          <button
            class="flex w-full gap-2 px-2 py-0.5 text-left"
            tabindex="-1"
            aria-current={n === bench.step ? 'step' : undefined}
            onclick={() => bench.stepTo(n)}
            ondblclick={() => s.line && go(s.line)}
          >
            <span class="w-6 shrink-0 text-right tabular-nums opacity-80">{n + 1}</span>
            {#if s.text}<code class="shrink-0 text-xs leading-5">{s.text}</code>{/if}
            <span>{s.say}</span>
          </button>
        </li>
      {/each}
    </ol>
  </div>
{/if}

<style>
  .here {
    background: color-mix(in oklab, var(--color-primary) 35%, var(--color-base-100));
  }
  .later {
    background: var(--color-base-200);
  }
</style>
