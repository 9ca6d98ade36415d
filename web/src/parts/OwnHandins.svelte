<script lang="ts">
  import { api } from '../api'
  import { session } from '../state/session.svelte'
  import Mark from './Mark.svelte'

  let { exercise }: { exercise: string } = $props()
  const list = $derived(api.handins(exercise, session.person?.login).then((page) => page.items))
</script>

{#await list then handins}
  {#if handins.length}
    <div>
      <h2 class="mb-2 font-semibold">Your hand-ins</h2>
      <ul class="flex flex-col gap-1">
        {#each handins as h (h.id)}
          <li>
            <a class="flex items-center gap-3 rounded-field px-2 py-1 hover:bg-base-200" href="#/handin/{h.id}">
              <span class="flex-1">Hand-in {h.number}</span>
              {#if h.earned !== undefined}<Mark earned={h.earned} points={h.points} />{:else}being graded{/if}
            </a>
          </li>
        {/each}
      </ul>
    </div>
  {/if}
{/await}
