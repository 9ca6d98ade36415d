<script lang="ts">
  // What a closer look at a hand-in found: the known mistake that it behaves like, and the shortest script on which it differs.
  import type { Handin } from '../api'
  import { session } from '../state/session.svelte'
  import SideBySide from './SideBySide.svelte'

  let { handin: h }: { handin: Handin } = $props()
  const look = $derived(h.look)
  const mistake = $derived(look?.mistake)
  const difference = $derived(look?.difference)
  const whole = $derived(h.earned === h.points)
  let playing = $state(false)
</script>

{#if look}
  <section aria-label="A closer look" class="mb-2 flex flex-col gap-1 text-xs" data-look={look.verdict ?? 'told'}>
    {#if mistake?.words}
      <p class="border-l-4 border-warning pl-3">
        {h.programs ? 'Drawn as if' : 'Behaves like'}: <b>{mistake.words}</b>{#if mistake.says}<span class="block"
            >{mistake.says}</span
          >{/if}
      </p>
    {:else if mistake?.says}
      <p class="border-l-4 border-warning pl-3">{mistake.says}</p>
    {/if}
    {#if difference}
      <div class="border-l-4 pl-3 {whole ? 'border-warning' : 'border-base-300'}">
        <p>
          {whole ? 'All marks, and yet it differs' : 'The shortest way to see it'}:
          {difference.steps.join(', ') || 'nothing is touched'}.
          <span class="tabular-nums opacity-80">{difference.say}</span>
          {#if session.teaches && h.text}
            <button class="btn btn-xs" onclick={() => (playing = !playing)}
              >{playing ? 'Put it away' : 'Play it beside the solution'}</button
            >
          {/if}
        </p>
      </div>
      {#if playing}<SideBySide handin={h} {difference} />{/if}
    {:else if look.verdict === 'same' && session.teaches}
      <p class="opacity-80">It does what the solution does, in every state that it can reach.</p>
    {/if}
  </section>
{/if}
