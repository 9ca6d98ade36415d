<script lang="ts">
  // Join codes, which are shown once.
  import type { JoinCode } from '../api'

  let { codes = $bindable() }: { codes: JoinCode[] } = $props()
</script>

{#if codes.length}
  <section class="mb-6 rounded-box border-2 border-primary p-4" aria-label="Join codes">
    <h2 class="mb-1 font-semibold">Join codes</h2>
    <p class="mb-2 text-sm">
      They are shown this once. Give each to its person: with it they choose their own password, once, within thirty
      days.
    </p>
    <table class="table table-sm w-auto">
      <tbody>
        {#each codes as c (c.login)}<tr
            ><th scope="row" class="font-medium">{c.name}</th><td class="font-mono">{c.login}</td><td
              class="font-mono select-all">{c.code ?? 'has a password already'}</td
            ></tr
          >{/each}
      </tbody>
    </table>
    <button class="btn btn-sm mt-2" onclick={() => (codes = [])}>They are given out</button>
  </section>
{/if}
