<script lang="ts">
  // An exercise on paper: the task, how the panel is wired, and a timing diagram to be filled in with a pencil.
  import { onDestroy } from 'svelte'
  import { api, type Exercise } from '../api'
  import { Core } from '../core/core'
  import EmptySheet from '../parts/EmptySheet.svelte'
  import Loading from '../parts/Loading.svelte'
  import PanelTable from '../parts/PanelTable.svelte'
  import ShownProgram from '../parts/ShownProgram.svelte'

  let { params }: { params: { name: string } } = $props()
  const core = new Core()
  onDestroy(() => core.end())
  const sheet = $derived(
    api.exercise(params.name).then(async (e) => {
      const picture = await core.open(e).then(
        () => core.wiring(),
        () => ({ svg: '' }), // the list of the wiring stands beside it
      )
      return { e, svg: picture.svg }
    }),
  )
  const cells = 24
  const names = 170
  const cell = 21
  const row = 34
  const lanes = (e: Exercise) => [...e.inputs, ...e.outputs]
</script>

<Loading what={sheet}>
  {#snippet children({ e, svg })}
    <div class="worksheet mx-auto max-w-3xl">
      <p class="mb-3 flex gap-3 print:hidden">
        <a class="link" href="#/exercise/{e.name}">Back to “{e.title}”</a>
        <button class="btn btn-primary btn-sm ml-auto" onclick={() => print()}>Print</button>
      </p>
      <div class="mb-4 flex items-baseline gap-4 border-b-2 border-base-content pb-1">
        <h1 class="text-2xl font-semibold">{e.title}</h1>
        <span>{e.topic} · {e.points} points</span>
        <span class="ml-auto">Name: ______________________</span>
      </div>
      <!-- eslint-disable-next-line svelte/no-at-html-tags -- the service renders and sanitizes the brief -->
      <div class="brief">{@html e.brief}</div>
      <section class="break-inside-avoid">
        <h2 class="mt-4 mb-2 font-semibold">Wiring</h2>
        <!-- eslint-disable-next-line svelte/no-at-html-tags -- drawn by our own core, which escapes every word in it -->
        <div class="mb-2 max-w-xl">{@html svg}</div>
        <PanelTable exercise={e} />
      </section>
      {#if e.programs}
        <h2 class="mt-4 mb-1 font-semibold">The program</h2>
        <ShownProgram programs={e.programs} {core} />
        {#each e.scenarios as s (s.name)}<EmptySheet exercise={e} scenario={s} />{/each}
      {:else}<section class="break-inside-avoid">
          <h2 class="mt-4 mb-1 font-semibold">What should happen</h2>
          <p class="mb-1 text-sm">Draw the inputs first, then what each output does. One column is ________.</p>
          <svg
            width={names + cells * cell + 2}
            height={lanes(e).length * row + 2}
            viewBox="0 0 {names + cells * cell + 2} {lanes(e).length * row + 2}"
            class="h-auto w-full"
            role="img"
            aria-label="An empty timing diagram: {lanes(e)
              .map((p) => p.name)
              .join(', ')}"
          >
            {#each lanes(e) as p, n (p.name)}
              <text x="0" y={n * row + 22} class="name">{p.name}</text>
              <path d="M{names} {n * row + 28}H{names + cells * cell}" class="ground" />
              <path d="M{names} {n * row + 8}H{names + cells * cell}" class="grid" />
            {/each}
            {#each { length: cells + 1 } as _, n (n)}<path
                d="M{names + n * cell} 0V{lanes(e).length * row}"
                class="grid"
              />{/each}
          </svg>
        </section>{/if}
    </div>
  {/snippet}
</Loading>

<style>
  .name {
    font-family: var(--font-mono);
    font-size: 13px;
    fill: currentColor;
  }
  .grid {
    stroke: color-mix(in oklab, currentColor 30%, transparent);
    stroke-dasharray: 2 3;
  }
  .ground {
    stroke: currentColor;
  }
</style>
