<script lang="ts">
  // What can be done with an element of the living drawing: work its device, force, write, watch, ask why, see where else it stands.
  import { untrack } from 'svelte'
  import type { NamePlace } from '../core/core'
  import { focused } from '../focus'
  import type { Bench } from '../state/bench.svelte'

  let {
    bench,
    name,
    title,
    places,
    at,
    go,
    edit,
    close,
  }: {
    bench: Bench | null
    /** The name on the bench; "" for an element that has none. */
    name: string
    title: string
    /** Where the name stands in the text. */
    places: NamePlace[]
    at: { x: number; y: number }
    go: (place: NamePlace) => void
    edit: () => void
    close: () => void
  } = $props()

  let list: HTMLDivElement | undefined = $state()
  let writing = $state(false)
  let value = $state('')
  const alive = $derived(!!bench?.loaded && bench.names.includes(name))
  const now = $derived(bench?.value(name))
  const bit = $derived(now === 'TRUE' || now === 'FALSE')
  const device = $derived(bench?.deviceOf(name))
  const button = $derived(!!device && bench!.devices[device.device]?.picture === 'button')
  const forced = $derived(bench?.view?.forced.includes(name) ?? false)
  const writes = $derived(places.filter((p) => p.use === 'writes' || p.use === 'calls'))
  const others = $derived(places.filter((p) => p.use === 'reads'))

  $effect(() => {
    const e = list
    if (e) untrack(() => e.querySelector<HTMLElement>('[role=menuitem]')?.focus())
  })
  function done(work?: () => unknown) {
    void work?.()
    close()
  }
  function key(event: KeyboardEvent) {
    event.stopPropagation()
    if (event.key === 'Escape' || event.key === 'Tab') return void (event.preventDefault(), close())
    if (writing || !/^(Arrow(Up|Down)|Home|End)$/.test(event.key)) return
    event.preventDefault()
    const items = [...list!.querySelectorAll<HTMLElement>('[role=menuitem]:not([disabled])')]
    const here = items.indexOf(document.activeElement as HTMLElement)
    const to = { ArrowDown: here + 1, ArrowUp: here - 1, Home: 0, End: -1 }[event.key]!
    items.at(to % items.length)?.focus()
  }
  const left = $derived(Math.max(4, Math.min(at.x, innerWidth - 300)))
  let high = $state(300)
  const top = $derived(Math.max(4, Math.min(at.y, innerHeight - high - 8)))
</script>

<!-- svelte-ignore a11y_no_static_element_interactions, a11y_click_events_have_key_events -->
<div class="fixed inset-0 z-40" onclick={close} oncontextmenu={(e) => (e.preventDefault(), close())}></div>
<div
  bind:this={list}
  bind:clientHeight={high}
  role="menu"
  tabindex="-1"
  aria-label={title}
  class="fixed z-50 max-h-[calc(100dvh-1rem)] w-72 overflow-y-auto rounded-box border border-base-300 bg-base-100 p-1 text-sm shadow-xl"
  style:left="{left}px"
  style:top="{top}px"
  onkeydown={key}
>
  <p class="px-2 py-1 text-xs"><b class="font-mono text-sm">{title}</b> {alive ? (now ?? '') : ''}</p>
  {#snippet item(words: string, work: () => unknown)}
    <button type="button" role="menuitem" tabindex="-1" onclick={() => done(work)}>{words}</button>
  {/snippet}
  {#if alive && bench}
    {#if device}
      {#if button}
        {@render item(`${bench.states[device.name] ? 'Let go of' : 'Press and hold'} ${device.label}`, () =>
          bench.hand(device, !bench.states[device.name]),
        )}
      {:else}{@render item(`Switch ${device.label} ${bench.states[device.name] ? 'off' : 'on'}`, () =>
          bench.hand(device, true),
        )}{/if}
    {/if}
    {#if bit}
      {@render item('Force on', () => bench.do('force', name, 'TRUE'))}
      {@render item('Force off', () => bench.do('force', name, 'FALSE'))}
    {/if}
    {#if forced}{@render item('Release the force', () => bench.do('unforce', name))}{/if}
    {#if writing}
      <form
        class="flex gap-1 px-2 py-1"
        onsubmit={(e) => {
          e.preventDefault()
          done(() => bench.do('write', name, value))
        }}
      >
        <input class="input input-xs grow font-mono" aria-label="Value of {name}" bind:value {@attach focused} />
        <button class="btn btn-primary btn-xs">Write</button>
      </form>
    {:else}
      <button
        type="button"
        role="menuitem"
        tabindex="-1"
        onclick={() => {
          value = now ?? ''
          writing = true
        }}>Write a value …</button
      >
    {/if}
    {#if !bench.watch.includes(name)}{@render item('Watch it', () => bench.addWatch(name))}{/if}
    {@render item(`Why is it ${now ?? 'so'}?`, () => bench.ask(name))}
  {/if}
  {@render item('Change it …', edit)}
  {#if writes.length}
    <p class="px-2 pt-1 text-xs opacity-80">Where it is written</p>
    {#each writes as p, n (n)}{@render item(`line ${p.line}: ${p.words}`, () => go(p))}{/each}
  {/if}
  {#if others.length}
    <p class="px-2 pt-1 text-xs opacity-80">Where it is used</p>
    {#each others as p, n (n)}{@render item(`line ${p.line}: ${p.words}`, () => go(p))}{/each}
  {/if}
</div>

<style>
  [role='menuitem'] {
    display: block;
    width: 100%;
    overflow: hidden;
    padding: 0.3rem 0.5rem;
    border-radius: 0.3rem;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
    cursor: pointer;
  }
  [role='menuitem']:hover,
  [role='menuitem']:focus {
    outline: none;
    background: color-mix(in oklab, var(--color-primary) 45%, var(--color-base-100));
  }
</style>
