<script lang="ts">
  import { api } from '../api'
  import Loading from './Loading.svelte'
  import Mark from './Mark.svelte'

  const marks = api.marks()
</script>

<h1 class="mb-1 text-2xl font-semibold">The class</h1>
<p class="mb-5 opacity-80">Best marks. Open a mark to see the hand-in that earned it, or an exercise to see all its hand-ins.</p>
<Loading what={marks}>
  {#snippet children(m)}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="overflow-x-auto rounded-box border border-base-300" role="region" aria-label="Marks of the class" tabindex="0">
      <table class="table">
        <thead>
          <tr class="align-bottom text-base-content">
            <th scope="col" class="sticky left-0 bg-base-100">Learner</th>
            {#each m.exercises as e (e.name)}
              <th scope="col" class="max-w-44 whitespace-normal"><a class="link" href="#/exercise/{e.name}/handins">{e.title}</a></th>
            {/each}
          </tr>
        </thead>
        <tbody>
          {#each m.rows as row (row.person.login)}
            <tr>
              <th scope="row" class="sticky left-0 bg-base-100 font-medium whitespace-nowrap">{row.person.name}</th>
              {#each row.marks as mark, i (i)}
                <td>
                  {#if mark.earned !== undefined}
                    <a class="hover:underline" href="#/handin/{mark.handin}"><Mark earned={mark.earned} points={m.exercises[i].points} /></a>
                  {:else if mark.handins}
                    waiting
                  {:else}
                    <span class="opacity-70">–</span>
                  {/if}
                </td>
              {/each}
            </tr>
          {:else}
            <tr><td>Nobody is enrolled yet.</td></tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/snippet}
</Loading>
