<script lang="ts">
  // Chosen variables side by side, to be forced, written or asked about.
  import type { Bench } from '../state/bench.svelte'

  let { bench }: { bench: Bench } = $props()
  let wanted = $state('')
  let entered = $state<Record<string, string>>({})
  const isForced = (name: string) => bench.view?.forced.includes(name) ?? false

  function give(verb: 'force' | 'write', name: string) {
    const now = bench.value(name)
    void bench.do(verb, name, entered[name] || (now === 'TRUE' ? 'FALSE' : now === 'FALSE' ? 'TRUE' : now) || '')
  }
</script>

<section aria-label="Watch list">
  <div class="overflow-x-auto">
    <table class="table table-xs">
      <thead
        ><tr
          ><th class="text-base-content">Name</th><th class="text-base-content">Value</th><th class="text-base-content"
            >Since</th
          ><th class="text-base-content">New value</th><th><span class="sr-only">Do</span></th></tr
        ></thead
      >
      <tbody>
        {#each bench.watch as name (name)}
          <tr>
            <td class="font-mono">{name}</td>
            <td class="font-mono font-semibold"
              >{bench.value(name) ?? '–'}{#if isForced(name)}
                <span class="badge badge-error badge-xs">forced</span>{/if}</td
            >
            <td class="text-xs whitespace-nowrap">{bench.view?.since[name] ?? 'the start'}</td>
            <td
              ><input
                class="input input-xs w-16 font-mono"
                aria-label="New value of {name}"
                placeholder={bench.value(name) === 'TRUE' ? 'FALSE' : 'TRUE'}
                bind:value={entered[name]}
              /></td
            >
            <td class="whitespace-nowrap">
              {#if isForced(name)}
                <button class="btn btn-xs" onclick={() => bench.do('unforce', name)}>Release</button>
              {:else}
                <button class="btn btn-xs" onclick={() => give('force', name)}>Force</button>
              {/if}
              <button class="btn btn-xs" onclick={() => give('write', name)}>Write</button>
              <button class="btn btn-xs" onclick={() => bench.ask(name)}>Why?</button>
              <button
                class="btn btn-ghost btn-xs"
                aria-label="Take {name} off the list"
                onclick={() => bench.removeWatch(name)}>×</button
              >
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <form
    class="mt-2 flex gap-2"
    onsubmit={(e) => {
      e.preventDefault()
      void bench.addWatch(wanted)
      wanted = ''
    }}
  >
    <input
      class="input input-sm font-mono"
      list="names"
      placeholder="settle.ET"
      aria-label="Name to watch"
      bind:value={wanted}
    />
    <datalist id="names"
      >{#each bench.names as n (n)}<option value={n}></option>{/each}</datalist
    >
    <button class="btn btn-sm">Watch</button>
  </form>
</section>
