<script lang="ts">
  // One's own marks: what stands for each exercise, and why.
  import { api } from '../api'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import Loading from '../parts/Loading.svelte'
  import Mark from '../parts/Mark.svelte'
  import TableFrame from '../parts/TableFrame.svelte'

  const marks = api.marks()
  const zone = session.class?.timeZone
</script>

<h1 class="mb-1 text-2xl font-semibold">My marks</h1>
<p class="mb-4 opacity-80">Of each exercise the {session.class?.counts === 'last' ? 'last' : 'best'} hand-in counts.</p>
<Loading what={marks}>
  {#snippet children(m)}
    {@const own = m.rows[0]?.marks ?? []}
    <TableFrame label="My marks">
      <table class="table">
        <thead
          ><tr class="text-base-content"
            ><th scope="col">Exercise</th><th scope="col">Mark</th><th scope="col">Hand-ins</th><th scope="col">Due</th
            ></tr
          ></thead
        >
        <tbody>
          {#each m.exercises as e, n (e.name)}
            <tr>
              <th scope="row" class="font-medium"><a class="link" href="#/exercise/{e.name}">{e.title}</a></th>
              <td
                >{#if own[n]?.earned !== undefined}<a class="hover:underline" href="#/handin/{own[n].handin}"
                    ><Mark earned={own[n].earned!} points={e.points} /></a
                  >{#if own[n].byHand}
                    <span class="badge badge-sm">given by hand</span>{/if}{#if own[n].late}
                    <span class="badge badge-sm">late</span>{/if}{:else}–{/if}</td
              >
              <td class="tabular-nums">{own[n]?.handins || '–'}</td>
              <td>{e.due ? spoken(e.due, zone) : ''}</td>
            </tr>
          {/each}
        </tbody>
        <tfoot
          ><tr class="text-base-content"
            ><th scope="row">Sum</th><td class="tabular-nums"
              >{Math.round(own.reduce((s, x) => s + (x.earned ?? 0), 0) * 100) / 100} of {m.exercises.reduce(
                (s, e) => s + e.points,
                0,
              )}</td
            ><td></td><td></td></tr
          ></tfoot
        >
      </table>
    </TableFrame>
  {/snippet}
</Loading>
