<script lang="ts">
  // The way through a first exercise: a point, a rung, a press, a hand-in. Each step is ticked by what is really done.
  import type { Bench } from '../state/bench.svelte'
  import type { Draft } from '../state/draft.svelte'
  import type { Drawing } from '../state/drawing.svelte'

  let {
    draft,
    drawing,
    bench,
    draw,
    toBench,
    end,
  }: { draft: Draft; drawing: Drawing; bench: Bench | null; draw: () => void; toBench: () => void; end: () => void } =
    $props()

  const e = $derived(draft.exercise)
  const uses = (name: string, use: string) =>
    !!drawing.listed
      .find((v) => v.unit === -1 && v.name.toLowerCase() === name.toLowerCase())
      ?.places?.some((p) => p.use === use)
  /** What the starter leaves to do. */
  const starter = $derived(e.starters[draft.language] ?? '')
  const changed = $derived(draft.text !== starter)
  const first = $derived(e.inputs.find((p) => !new RegExp(`\\b${p.name}\\b`, 'i').test(starter)) ?? e.inputs[0])
  const output = $derived(
    e.outputs.find((p) => !new RegExp(`\\(.?${p.name}\\)|=> */?${p.name}\\b|\\b${p.name} *:=`, 'i').test(starter)) ??
      e.outputs[0],
  )
  const errors = $derived(draft.checked?.diagnostics.some((d) => d.severity === 'error') ?? true)
  const rungs = $derived(draft.language === 'ladder')
  const blocks = $derived(draft.language === 'fbd')

  let pressed = $state(false)
  $effect(() => {
    if (bench?.touched) pressed = true
  })
  const point = $derived(`Every device of the panel is a point with a name: “${first.label}” is ${first.name}.`)
  const steps = $derived([
    {
      name: 'A point',
      done: changed && uses(first.name, 'reads'),
      say: rungs
        ? `${point} In the drawing press Contact (or the key c), and take that name.`
        : `${point} Write the name in the text.`,
      lead: { words: 'To the program', go: draw },
    },
    {
      name: 'A rung',
      done: changed && !errors && uses(output.name, 'writes'),
      say: rungs
        ? 'A rung runs from left to right: contacts let the power through, the coil at its end works an output. ' +
          `End yours with a coil (the key o) named ${output.name}, until there are 0 errors.`
        : blocks
          ? `A network takes points to AND, OR or NOT, and what comes out to an output: AND(…) => ${output.name}; until there are 0 errors.`
          : `Give the output its value: ${output.name} := …; until there are 0 errors.`,
      lead: { words: 'To the program', go: draw },
    },
    {
      name: 'A press',
      done: pressed,
      say: `Try it: on the bench press Run, then ${first.label}, and watch ${output.label ?? 'the outputs'}. Nobody marks this.`,
      lead: { words: 'To the bench', go: toBench },
    },
    {
      name: 'Hand in',
      done: !!draft.graded,
      say: 'When it does what the task says, hand it in. You get the mark and the reasons at once, and may hand in again.',
      lead: null,
    },
  ])
  const now = $derived(steps.findIndex((s) => !s.done))
</script>

<section aria-label="First steps" class="shrink-0 border-b border-base-300 bg-base-200 px-4 py-2">
  <div class="flex flex-wrap items-center gap-x-5 gap-y-2">
    <h2 class="font-semibold">First steps</h2>
    <ol class="flex flex-wrap gap-x-5 gap-y-1 text-sm">
      {#each steps as s, n (s.name)}
        <li
          class="flex items-center gap-1.5"
          class:font-semibold={n === now}
          aria-current={n === now ? 'step' : undefined}
        >
          <span
            class="grid size-5 place-items-center rounded-full border text-xs"
            class:bg-primary={s.done}
            class:text-primary-content={s.done}
            aria-hidden="true">{s.done ? '✓' : n + 1}</span
          >{s.name}{#if s.done}<span class="sr-only">, done</span>{/if}
        </li>
      {/each}
    </ol>
    <button class="btn btn-ghost btn-xs ml-auto" onclick={end}>I know my way</button>
  </div>
  {#if now >= 0}
    <div class="mt-2 flex flex-wrap items-center gap-3 text-sm" role="status">
      <p class="max-w-prose">{steps[now].say}</p>
      {#if steps[now].lead}<button class="btn btn-sm" onclick={steps[now].lead!.go}>{steps[now].lead!.words}</button
        >{/if}
    </div>
  {/if}
</section>
