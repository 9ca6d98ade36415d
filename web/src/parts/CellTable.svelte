<script lang="ts">
  // The script as a scan table: a row wherever an input changes; a value that is written holds until the next row that changes it.
  import type { Script } from '../state/script.svelte'
  import TableFrame from './TableFrame.svelte'

  let { script }: { script: Script } = $props()
  const w = $derived(script.workshop)
  const rows = $derived((void w.outline, w.core.ask('rows', { files: w.named, scenario: script.number })))
  const columns = $derived(script.inputs?.signals ?? [])
  let at = $state('')
  let more = $state<number[]>([])

  const set = (scan: number, input: string, value: string) =>
    w.change('setCell', { scenario: script.number, scan, input, value })
  async function row(event: Event) {
    event.preventDefault()
    const { scan } = await w.core.ask('scanOf', { period: w.outline!.period, text: at }).catch((error: Error) => {
      w.problem = error.message
      return { scan: -1 }
    })
    if (scan >= 0) more = [...more, scan]
    at = ''
  }
</script>

{#await rows then list}
  {@const all = [
    ...list,
    ...more
      .filter((scan) => !list.some((r) => r.scan === scan))
      .map((scan) => ({
        scan,
        time: '',
        values: list.findLast((r) => r.scan < scan)?.values ?? [],
        now: columns.map(() => false),
      })),
  ].sort((a, b) => a.scan - b.scan)}
  <TableFrame label="Scan table">
    <table class="table table-xs">
      <thead
        ><tr class="text-base-content"
          ><th>Scan</th><th>Time</th>{#each columns as c (c.name)}<th class="font-mono">{c.name}</th>{/each}</tr
        ></thead
      >
      <tbody>
        {#each all as r (r.scan)}
          <tr>
            <th scope="row" class="font-normal tabular-nums">{r.scan}</th><td class="font-mono">{r.time}</td>
            {#each columns as c, n (c.name)}
              <td
                >{#if c.type === 'BOOL'}<button
                    class="btn btn-xs {r.now[n] ? '' : 'btn-ghost opacity-70'}"
                    aria-label="{r.values[n] === 'TRUE' ? 1 : 0}: {c.name} in scan {r.scan}"
                    onclick={() => set(r.scan, c.name, r.values[n] === 'TRUE' ? 'FALSE' : 'TRUE')}
                    >{r.values[n] === 'TRUE' ? 1 : 0}</button
                  >{:else}<input
                    class="input input-xs w-20 font-mono"
                    class:opacity-70={!r.now[n]}
                    aria-label="{c.name} in scan {r.scan}"
                    value={r.values[n]}
                    onchange={(e) => set(r.scan, c.name, e.currentTarget.value)}
                  />{/if}</td
              >
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
  </TableFrame>
{/await}
<form class="flex items-end gap-2 text-sm" onsubmit={row} aria-label="Another row">
  <label class="flex flex-col"
    >Another row at <input class="input input-xs w-28 font-mono" required placeholder="1.5s" bind:value={at} /></label
  >
  <button class="btn btn-xs">Add</button>
</form>
