<script lang="ts">
  // Points and variables, to be given to the element at the cursor by a press, or carried to any.
  import type { Point } from '../api'
  import type { Drawing } from '../state/drawing.svelte'

  let { drawing, points, give, carry }: { drawing: Drawing; points: Point[]; give: (name: string) => unknown; carry: (event: PointerEvent, name: string) => void } = $props()
  const own = $derived(drawing.listed.filter((v) => v.unit === drawing.place.unit))
  /** More names than a person reads at a glance are filtered. */
  const many = 40
  let wanted = $state('')
  const found = $derived(own.filter((v) => v.name.toLowerCase().includes(wanted.toLowerCase())))
  const about = (p: Point) => `${p.type} ${p.at} ${p.label}${p.contact === 'closed' ? ', normally closed' : ''}`
</script>

<details class="text-sm" open>
  <summary class="cursor-pointer">Names: press one for the element at the cursor, or carry it to one</summary>
  <ul class="mt-1 flex flex-wrap gap-1" aria-label="Names">
    {#each points as p (p.name)}
      <li><button class="btn btn-xs touch-none font-mono" title={about(p)} onpointerdown={(e) => carry(e, p.name)} onclick={() => give(p.name)}>{p.name}</button></li>
    {/each}
    {#each found.slice(0, many) as v (v.name)}
      <li><button class="btn btn-outline btn-xs touch-none font-mono" title="{v.type} {v.description}" onpointerdown={(e) => carry(e, v.name)} onclick={() => give(v.name)}>{v.name}</button></li>
    {/each}
  </ul>
  {#if own.length > many}
    <label class="mt-1 flex items-center gap-2">Only names with <input class="input input-xs w-32 font-mono" bind:value={wanted} /><span>{found.length > many ? `${found.length - many} more are not shown` : ''}</span></label>
  {/if}
</details>
