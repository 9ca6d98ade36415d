<script lang="ts">
  import { api } from '../api'
  import Loading from '../parts/Loading.svelte'
  import Mark from '../parts/Mark.svelte'

  let { params }: { params: { name: string } } = $props()
  const both = $derived(Promise.all([api.exercise(params.name), api.handins(params.name)]))
  const when = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' })
</script>

<Loading what={both}>
  {#snippet children([exercise, handins])}
    <p class="mb-1 text-sm"><a class="link" href="#/">The class</a></p>
    <h1 class="mb-1 text-2xl font-semibold">{exercise.title}</h1>
    <p class="mb-5 opacity-80">
      {handins.length} {handins.length === 1 ? 'hand-in' : 'hand-ins'}, newest first ·
      <a class="link" href="#/exercise/{exercise.name}">open the exercise</a>
    </p>
    <div class="overflow-x-auto rounded-box border border-base-300">
      <table class="table">
        <thead>
          <tr class="text-base-content"><th scope="col">Learner</th><th scope="col">Hand-in</th><th scope="col">File</th><th scope="col">Handed in</th><th scope="col">Mark</th></tr>
        </thead>
        <tbody>
          {#each handins as h (h.id)}
            <tr>
              <th scope="row" class="font-medium whitespace-nowrap">{h.person.name}</th>
              <td>{h.number}</td>
              <td><a class="link font-mono text-sm" href="#/handin/{h.id}">{h.file}</a></td>
              <td class="whitespace-nowrap">{when.format(new Date(h.handedIn))}</td>
              <td>{#if h.earned !== undefined}<Mark earned={h.earned} points={h.points} />{:else}waiting{/if}</td>
            </tr>
          {:else}
            <tr><td colspan="5">Nobody has handed in yet.</td></tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/snippet}
</Loading>
