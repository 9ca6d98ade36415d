<script lang="ts">
  // Why a value was what it was: in a few sentences, then step by step with the rung and its contacts, or the network and its lines.
  import type { Why, Reason } from '../api'
  import { undrawn, type Drawn, type NetworkLine, type PlacedNetwork, type Rung } from '../core/core'
  import NetworkDrawing from './NetworkDrawing.svelte'
  import RungDrawing from './RungDrawing.svelte'

  let { why, drawn = undrawn, go }: { why: Why; drawn?: Drawn; go?: (step: Reason) => void } = $props()

  const at = <T extends { start: number; end: number }>(list: T[], s: Reason) =>
    s.place ? list.find((r) => s.place!.start >= r.start && s.place!.start < r.end) : undefined
  const rungOf = (s: Reason) => at(drawn.rungs, s)
  const networkOf = (s: Reason) => at(drawn.networks, s)
  /** What a line carried in that scan, as far as the reason tells: what stands at a place, or a block's output by its name. */
  const carries = (s: Reason, n: PlacedNetwork, l: NetworkLine) =>
    s.elements.find((e) =>
      l.from.start === l.from.end
        ? e.text === l.from.name
        : e.start === n.start + l.from.start && e.end === n.start + l.from.end,
    )?.state
  const element = (s: Reason, start: number) => s.elements.find((e) => e.start === start)
  /** The power at an element in that scan; the coil has what reached the end of the rung. */
  function flow(s: Reason, rung: Rung, start: number) {
    const e = element(s, start)
    if (e) return { in: !!e.in, out: !!e.out, closed: e.state === 'closed' || e.state === 'TRUE' }
    const coil = rung.geometry.items?.find((i) => rung.start + i.start === start && i.kind === 'coil')
    if (!coil) return undefined
    const reached = s.elements.filter((e) => e.decides).every((e) => e.out)
    return { in: reached, out: reached, closed: reached }
  }
</script>

<div class="why border-l-4 border-primary pl-3">
  {#each why.short as line, n (n)}<p>{line}</p>{/each}
  {#if why.steps.some((s) => rungOf(s) ?? networkOf(s)) || go}
    <details class="mt-1">
      <summary class="cursor-pointer text-sm">Step by step</summary>
      <ol class="mt-2 flex flex-col gap-3">
        {#each why.steps as s, n (n)}
          {@const rung = rungOf(s)}
          {@const network = networkOf(s)}
          <li>
            <p class="text-sm">
              {#if go}<button class="link text-left" onclick={() => go(s)}>{s.signal} {s.value}, scan {s.scan}</button
                >:{:else}<b>{s.signal} {s.value}, scan {s.scan}</b>:{/if}
              {s.say}
            </p>
            {#if rung}
              <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
              <div
                class="overflow-x-auto"
                role="region"
                aria-label="The rung that wrote {s.signal} in scan {s.scan}"
                tabindex="0"
              >
                <RungDrawing
                  {rung}
                  flow={(start) => flow(s, rung, start)}
                  decides={(start) => element(s, start)?.decides ?? false}
                  words={(start) => {
                    const e = element(s, start)
                    return e?.decides ? `${e.state} ${e.since ? 'since ' + e.since : 'from the start'}` : ''
                  }}
                />
              </div>
            {:else if network}
              <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
              <div
                class="overflow-x-auto"
                role="region"
                aria-label="The network that wrote {s.signal} in scan {s.scan}"
                tabindex="0"
              >
                <NetworkDrawing {network} carries={(l) => carries(s, network, l)} />
              </div>
            {/if}
          </li>
        {/each}
      </ol>
    </details>
  {/if}
</div>
