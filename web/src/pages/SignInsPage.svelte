<script lang="ts">
  // What acts for one: browsers and tokens, each of which can be ended.
  import { api, type SignIn } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import Loading from '../parts/Loading.svelte'
  import TableFrame from '../parts/TableFrame.svelte'

  let list = $state(api.signIns())
  const attempt = new Attempt()
  const may = { read: 'read', 'hand-in': 'read, and hand in', all: 'all that you may' }

  async function end(s: SignIn) {
    await attempt.do(() => (s.this ? session.signOut() : api.endSignIn(s.id)))
    if (session.person) list = api.signIns()
  }
</script>

<h1 class="mb-1 text-2xl font-semibold">Your sign-ins</h1>
<p class="mb-4 max-w-prose opacity-80">
  Whatever acts for you: browsers, and tokens of the command line. End what you do not know or no longer need; it stops
  at once.
</p>
{#if attempt.problem}<p class="alert mb-4" role="alert">{attempt.problem}</p>{/if}
<Loading what={list}>
  {#snippet children(all)}
    <TableFrame label="Sign-ins">
      <table class="table table-sm">
        <thead
          ><tr class="text-base-content"
            ><th scope="col">What</th><th scope="col">May</th><th scope="col">Began</th><th scope="col">Last used</th
            ><th scope="col">Ends by itself</th><th scope="col"><span class="sr-only">End</span></th></tr
          ></thead
        >
        <tbody>
          {#each all as s (s.id)}
            <tr>
              <th scope="row" class="font-medium whitespace-nowrap"
                >{s.name || 'without a name'}{#if s.kind === 'token'}
                  <span class="badge badge-sm ml-2 whitespace-nowrap">token</span>{/if}{#if s.this}
                  <span class="badge badge-primary badge-sm ml-2 whitespace-nowrap">this one</span>{/if}</th
              >
              <td>{may[s.scope]}</td>
              <td class="whitespace-nowrap">{spoken(s.began)}</td>
              <td class="whitespace-nowrap">{s.used ? spoken(s.used) : 'never'}</td>
              <td class="whitespace-nowrap">{spoken(s.expires)}</td>
              <td
                ><button
                  class="btn btn-xs"
                  aria-label="{s.this ? 'Sign out' : 'End'} {s.name || 'the one without a name'}, number {s.id}"
                  onclick={() => end(s)}>{s.this ? 'Sign out' : 'End'}</button
                ></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </TableFrame>
  {/snippet}
</Loading>
