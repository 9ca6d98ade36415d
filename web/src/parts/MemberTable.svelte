<script lang="ts">
  // People, and what can be done with each.
  import type { Snippet } from 'svelte'
  import type { Member } from '../api'
  import TableFrame from './TableFrame.svelte'

  let {
    list,
    actions,
    empty = 'Nobody yet.',
  }: { list: Member[]; actions: Snippet<[Member]>; empty?: string } = $props()
</script>

<TableFrame label="People">
  <table class="table table-sm">
    <thead
      ><tr class="text-base-content"
        ><th scope="col">Name</th><th scope="col">Login</th><th scope="col">Role</th><th scope="col">Password</th><th
          scope="col"><span class="sr-only">Do</span></th
        ></tr
      ></thead
    >
    <tbody>
      {#each list as m (m.login)}
        <tr>
          <th scope="row" class="font-medium">{m.name}</th><td class="font-mono">{m.login}</td><td>{m.role}</td><td
            >{m.disabled ? 'disabled' : m.joined ? 'chosen' : 'not yet'}</td
          >
          <td class="whitespace-nowrap">{@render actions(m)}</td>
        </tr>
      {:else}
        <tr><td colspan="5">{empty}</td></tr>
      {/each}
    </tbody>
  </table>
</TableFrame>
