<script lang="ts">
  // Everything that lies at an address: words with their bits, and the names on them.
  import type { Word } from '../core/core'
  import type { Bench } from '../state/bench.svelte'
  import TableFrame from './TableFrame.svelte'

  let { bench }: { bench: Bench } = $props()
  let words = $state.raw<Word[]>([])
  $effect(() => {
    if (!bench.loaded || !bench.text) return
    void bench.core.words().then((list) => {
      words = list
      bench.alsoShow(list.flatMap((w) => [...w.bits.filter(Boolean), ...w.wide.map((v) => v.name)]))
    })
    return () => bench.alsoShow([])
  })
  const areas: Record<string, string> = { I: 'Inputs', Q: 'Outputs', M: 'Memory' }
  /** The bit of a word: of a name of its own, else of the variable that lies across it. */
  function bit(w: Word, n: number): boolean | undefined {
    if (w.bits[n]) return bench.value(w.bits[n]) === undefined ? undefined : bench.value(w.bits[n]) === 'TRUE'
    const wide = w.wide.find((v) => n >= v.from && n < v.from + v.size)
    const value = wide && bench.value(wide.name)
    if (value === undefined || !/^(-?\d+|16#[0-9A-F_]+)$/i.test(value)) return undefined
    const number = BigInt(value.replace(/^16#/, '0x').replaceAll('_', ''))
    return ((number >> BigInt(n - wide!.from)) & 1n) === 1n
  }
  /** The bits that have names of their own, the lowest first. */
  const named = (w: Word) => w.bits.flatMap((name, n) => (name ? [{ n, name }] : []))
  const byte = (w: Word) => Number(w.address.slice(3))
  const bitAddress = (w: Word, n: number) => `%${w.address[1]}X${byte(w) + (n >> 3)}.${n & 7}`
</script>

<TableFrame label="By address">
  <table class="table table-xs">
    <thead>
      <tr class="text-base-content">
        <th scope="col">Word</th>
        <th scope="col" class="font-mono">15 … 8 · 7 … 0</th>
        <th scope="col">Names on it</th>
      </tr>
    </thead>
    <tbody>
      {#each words as w, i (w.address)}
        {#if words[i - 1]?.address[1] !== w.address[1]}
          <tr><th colspan="3" scope="rowgroup" class="pt-2">{areas[w.address[1]]}</th></tr>
        {/if}
        <tr>
          <th scope="row" class="font-mono">{w.address}</th>
          <td class="whitespace-nowrap">
            {#each { length: 16 } as _, k (k)}
              {@const n = 15 - k}
              {@const b = bit(w, n)}
              <span
                class="bit"
                class:on={b}
                class:gap={n === 7}
                class:none={b === undefined}
                title="{bitAddress(w, n)} {w.bits[n]}">{b === undefined ? '·' : b ? '1' : '0'}</span
              >
            {/each}
          </td>
          <td>
            {#each w.wide as v (v.name)}<span class="mr-3 font-mono">{v.name} <b>{bench.value(v.name) ?? ''}</b></span
              >{/each}
            {#each named(w) as x (x.n)}<span class="mr-3 font-mono whitespace-nowrap"
                ><span class="opacity-80">{bitAddress(w, x.n)}</span> {x.name}</span
              >{/each}
          </td>
        </tr>
      {:else}
        <tr><td colspan="3">Nothing of this program lies at an address.</td></tr>
      {/each}
    </tbody>
  </table>
</TableFrame>

<style>
  .bit {
    display: inline-block;
    width: 1.15rem;
    text-align: center;
    font-family: var(--font-mono);
    border: 1px solid var(--color-base-300);
  }
  .bit.on {
    background: var(--color-primary);
    color: var(--color-primary-content);
    font-weight: 700;
  }
  .bit.none {
    border-color: transparent;
  }
  .bit.gap {
    margin-left: 0.5rem;
  }
</style>
