<script lang="ts">
  // What points are taken off for, as sentences: each chosen from what the language has.
  import X from '@lucide/svelte/icons/x'
  import type { Workshop } from '../state/workshop.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const rules = $derived(w.outline!.form.rules)
  const words = $derived(w.outline!.words)
  const kinds = ['require', 'forbid', 'warning', 'chatter'] as const
  type Kind = (typeof kinds)[number]
  const says: Record<Kind, string> = {
    require: 'needs',
    forbid: 'must not have',
    warning: 'must not get the warning',
    chatter: 'must not chatter:',
  }
  let kind = $state<Kind>('require')
  let what = $state('')
  const choices = $derived(
    kind === 'warning'
      ? words.warnings
      : kind === 'chatter'
        ? w.exercise!.outputs.map((p) => ({ name: p.name, says: p.label }))
        : words.elements,
  )
  const of = (r: (typeof rules)[number]) => kinds.find((k) => r[k]) ?? 'require'
  const describe = (name: string) =>
    [...words.elements, ...words.warnings].find((c) => c.name.toLowerCase() === name.toLowerCase())?.says ?? name

  async function add(event: Event) {
    event.preventDefault()
    const value = { [kind]: what, ...(kind === 'chatter' ? { at_most: '4 per 1s' } : {}), deduct: 1 }
    if (await w.change('edit', { edits: [{ do: 'insert', at: `rules/${rules.length}`, value }] })) what = ''
  }
  const remove = (n: number) =>
    w.change('edit', { edits: [{ do: 'remove', at: rules.length === 1 ? 'rules' : `rules/${n}` }] })
</script>

<section aria-label="Rules" class="flex flex-col gap-2">
  <h2 class="font-semibold">Rules</h2>
  <ul class="flex flex-col gap-2" aria-label="Rules">
    {#each rules as r, n (n)}
      {@const k = of(r)}
      {@const at = `rules/${n}`}
      <li class="flex flex-wrap items-center gap-x-2 gap-y-1 rounded-box border border-base-300 p-2 text-sm">
        <span
          >A hand-in {says[k]}
          {#if k === 'require' && r.atLeast}at least{/if}</span
        >
        {#if k === 'require'}<span class="w-14"
            ><WrittenCell
              workshop={w}
              at="{at}/at_least"
              value={r.atLeast}
              label="At least"
              kind="number"
              optional
              usual="1"
            /></span
          >{/if}
        <b class="font-mono">{r[k]}</b>
        {#if describe(r[k]) !== r[k]}<span class="opacity-80">({describe(r[k])})</span>{/if}
        {#if k === 'forbid'}<span>more than</span><span class="w-14"
            ><WrittenCell
              workshop={w}
              at="{at}/at_most"
              value={r.atMost}
              label="At most"
              kind="number"
              optional
              usual="0"
            /></span
          ><span>times</span>{/if}
        {#if k === 'chatter'}<span>at most</span><span class="w-24"
            ><WrittenCell workshop={w} at="{at}/at_most" value={r.atMost} label="At most" /></span
          ><span>changes</span>{/if}
        <span>– or it loses</span>
        <span class="w-14"
          ><WrittenCell workshop={w} at="{at}/deduct" value={r.deduct} label="Points taken off" kind="number" /></span
        >
        <span>points.</span>
        <span class="flex min-w-56 grow items-center gap-1"
          >Learners read <WrittenCell
            workshop={w}
            at="{at}/say"
            value={r.say}
            label="What learners read"
            optional
          /></span
        >
        <button class="btn btn-square btn-ghost btn-xs" aria-label="Take this rule out" onclick={() => remove(n)}
          ><X size={14} /></button
        >
        {#each w.wrong(at).filter((p) => !/\/(at_least|at_most|deduct|say)$/.test(p.at)) as p (p.message)}<p
            class="w-full"
            class:text-error={p.error}
          >
            {p.message}
            {p.hint}
          </p>{/each}
      </li>
    {:else}<li class="text-sm opacity-80">No rule: only what the program does counts.</li>{/each}
  </ul>
  <form class="flex flex-wrap items-end gap-2 text-sm" onsubmit={add} aria-label="New rule">
    <label class="flex flex-col"
      >A hand-in <select class="select select-sm w-56" bind:value={kind} onchange={() => (what = '')}
        >{#each kinds as k (k)}<option value={k}>{says[k]}</option>{/each}</select
      ></label
    >
    <label class="flex flex-col"
      >what <select class="select select-sm w-64" required bind:value={what}
        ><option value="" disabled>choose</option>{#each choices as c (c.name)}<option value={c.name}
            >{c.name} – {c.says}</option
          >{/each}</select
      ></label
    >
    <button class="btn btn-sm">Add the rule</button>
  </form>
</section>
