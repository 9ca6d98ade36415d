<script lang="ts">
  // Points and variables, to be given to the element at the cursor by a press, or carried to any.
  import type { Point } from '../api'
  import type { Drawing } from '../state/drawing.svelte'

  let {
    drawing,
    points,
    give,
    carry,
  }: {
    drawing: Drawing
    points: Point[]
    give: (name: string) => unknown
    carry: (event: PointerEvent, name: string) => void
  } = $props()
  const own = $derived(drawing.listed.filter((v) => v.unit === drawing.place.unit))
  /** More names than a person reads at a glance are filtered. */
  const many = 40
  let wanted = $state('')
  const found = $derived(own.filter((v) => v.name.toLowerCase().includes(wanted.toLowerCase())))
  const about = (p: Point) => `${p.type} ${p.at} ${p.label}${p.contact === 'closed' ? ', normally closed' : ''}`
</script>

<div class="flex shrink-0 items-center gap-2 text-sm">
  <span class="shrink-0 text-xs opacity-80" title="Press one for the element at the cursor, or carry it to one"
    >Names</span
  >
  {#if own.length > many}
    <input
      class="input input-xs w-28 shrink-0 font-mono"
      aria-label="Only names with"
      placeholder="only with …"
      bind:value={wanted}
    />
  {/if}
  <ul class="flex gap-1 overflow-x-auto py-0.5" aria-label="Names">
    {#each points as p (p.name)}
      <li>
        <button
          class="btn btn-xs touch-none font-mono"
          title={about(p)}
          onpointerdown={(e) => carry(e, p.name)}
          onclick={() => give(p.name)}>{p.name}</button
        >
      </li>
    {/each}
    {#each found.slice(0, many) as v (v.name)}
      <li>
        <button
          class="btn btn-outline btn-xs touch-none font-mono"
          title="{v.type} {v.description}"
          onpointerdown={(e) => carry(e, v.name)}
          onclick={() => give(v.name)}>{v.name}</button
        >
      </li>
    {/each}
    {#if found.length > many}<li class="self-center text-xs whitespace-nowrap">
        {found.length - many} more are not shown
      </li>{/if}
  </ul>
</div>
