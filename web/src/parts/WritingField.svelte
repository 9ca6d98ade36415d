<script lang="ts">
  // What is written where it stands in the drawing: a name, picked from the list or typed; a block with its pins; a title; a comment.
  import { tick } from 'svelte'
  import type { Point } from '../api'
  import { begun, focused } from '../focus'
  import type { Box } from '../core/core'
  import type { Drawing } from '../state/drawing.svelte'
  import type { Frame } from '../state/layout'
  import BlockPicture from './BlockPicture.svelte'

  let {
    drawing,
    points,
    at,
    room,
    done,
  }: {
    drawing: Drawing
    points: Point[]
    /** Where the element stands that is written, in the drawing's pane. */
    at: Frame
    /** The pane. */
    room: { width: number; height: number }
    done: () => void
  } = $props()
  const w = $derived(drawing.writing!)
  // svelte-ignore state_referenced_locally
  let text = $state(drawing.writing && 'text' in drawing.writing ? drawing.writing.text : '')
  let wanted = $state('')
  let picked = $state(-1)

  /** What a block of that type gives, as the core lists it; nothing for what is no block. */
  const outputs = (type: string) =>
    drawing.blocks
      .find((b) => !b.function && b.name.toLowerCase() === type.toLowerCase())
      ?.pins?.filter((p) => p.output)
      .map((p) => p.name)
  const names = $derived([
    ...points.map((p) => ({ name: p.name, about: `${p.at} ${p.label}` })),
    ...drawing.listed
      .filter((v) => v.unit === drawing.place.unit)
      .flatMap((v) => {
        const gives = outputs(v.type)
        return gives
          ? gives.map((m) => ({ name: `${v.name}.${m}`, about: 'of ' + v.type }))
          : [{ name: v.name, about: `${v.type} ${v.description}` }]
      }),
  ])
  const word = $derived(/[\w.]*$/.exec(text)?.[0] ?? '')
  const offered = $derived(
    names.filter((n) => n.name.toLowerCase().includes(word.toLowerCase()) && n.name !== text).slice(0, 40),
  )
  const boxes = $derived(
    drawing.blocks.filter((b) => (b.name + ' ' + b.purpose).toLowerCase().includes(wanted.toLowerCase())),
  )

  let field: HTMLFormElement | undefined = $state()
  let high = $state(30)
  const width = $derived(
    w.what === 'block' ? Math.min(680, room.width - 16) : Math.min(w.what === 'name' ? 300 : 460, room.width - 16),
  )
  const left = $derived(Math.max(8, Math.min(at.x + at.width / 2 - width / 2, room.width - width - 8)))
  /** Over the name that is written; what needs more room than there is beneath stands above, or wherever it is seen whole. */
  const top = $derived(w.what === 'block' ? Math.max(8, Math.min(at.y + 12, room.height - high - 8)) : at.y - 2)
  const listAbove = $derived(at.y + 34 + Math.min(offered.length, 6) * 27 > room.height && at.y > 150)

  const chosen = $derived(w.what === 'block' ? (w.block ?? undefined) : undefined)
  const problem = $derived(
    w.what === 'block' && w.block && !w.block.function ? drawing.instanceProblem(w.block, w.instance) : '',
  )
  let tried = $state(false)
  /** The kind that is chosen follows what is looked for, and the arrow keys. */
  function look(text: string) {
    wanted = text
    if (boxes[0]) drawing.choose(boxes[0])
  }
  function step(by: 1 | -1) {
    const n = boxes.findIndex((b) => b.name === chosen?.name)
    const next = boxes[(n + by + boxes.length) % boxes.length]
    if (next) drawing.choose(next)
  }
  function kindKey(event: KeyboardEvent) {
    if (event.key === 'Enter') {
      event.preventDefault()
      if (!chosen && boxes[0]) drawing.choose(boxes[0])
      void tick().then(() => field?.querySelector<HTMLInputElement>('[data-next]')?.select())
    } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault()
      step(event.key === 'ArrowDown' ? 1 : -1)
    } else key(event)
  }
  function pick(b: Box) {
    drawing.choose(b)
    void tick().then(() => field?.querySelector<HTMLInputElement>('[data-next]')?.select())
  }
  const take = (name: string) => text.slice(0, text.length - word.length) + name

  function leave() {
    drawing.writing = null
    done()
  }
  function key(event: KeyboardEvent) {
    if (event.key === 'Escape') return void (event.preventDefault(), leave())
    if (w.what !== 'name') return
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault()
      const n = offered.length
      picked = event.key === 'ArrowDown' ? (picked + 1) % Math.max(n, 1) : picked <= 0 ? n - 1 : picked - 1
    }
    if (event.key === 'Tab') {
      event.preventDefault()
      accept('unnamed')
    }
  }
  function accept(next: 'right' | 'unnamed' = 'right') {
    const what = w.what
    if (what === 'title') void drawing.title(text)
    else if (what === 'comment') void drawing.comment(text)
    else if (what === 'block') {
      tried = true
      if (!chosen || problem) return
      void drawing.putBlock()
    } else void drawing.name(picked >= 0 && offered[picked] ? take(offered[picked].name) : text, next)
    if (next === 'right') done()
    text = ''
    picked = -1
  }
</script>

<form
  bind:this={field}
  bind:clientHeight={high}
  class="absolute z-20 text-sm"
  class:panel={w.what === 'block'}
  style:left="{left}px"
  style:top="{top}px"
  style:width="{width}px"
  aria-label="Writing"
  onsubmit={(e) => {
    e.preventDefault()
    accept()
  }}
>
  {#if w.what === 'name'}
    <div class="join w-full shadow-lg">
      <input
        class="input join-item input-sm grow border-info bg-base-100 font-mono"
        aria-label="Name"
        {@attach w.begun ? begun : focused}
        bind:value={text}
        oninput={() => (picked = -1)}
        onkeydown={key}
        placeholder="a name, or bed_temp >= 250"
        autocomplete="off"
        role="combobox"
        aria-expanded="true"
        aria-controls="offered-names"
        aria-activedescendant={picked >= 0 ? 'offered-' + picked : undefined}
      />
      <button class="btn join-item btn-primary btn-sm">Take</button>
      <button type="button" class="btn join-item btn-sm bg-base-200" title="Esc" onclick={leave}>Later</button>
    </div>
    <ul
      id="offered-names"
      role="listbox"
      aria-label="Names that fit"
      class="absolute w-full max-h-42 overflow-y-auto rounded-field border border-base-300 bg-base-100 shadow-lg empty:hidden"
      class:bottom-full={listAbove}
    >
      {#each offered as o, n (o.name)}
        <li role="option" id="offered-{n}" aria-selected={n === picked}>
          <button
            type="button"
            tabindex="-1"
            class="flex w-full items-baseline gap-2 px-2 py-1 text-left font-mono text-xs hover:bg-base-200"
            class:bg-primary={n === picked}
            class:text-primary-content={n === picked}
            {@attach (e) => void (n === picked && e.scrollIntoView({ block: 'nearest' }))}
            onclick={() => {
              void drawing.name(take(o.name))
              done()
            }}>{o.name} <span class="truncate font-sans opacity-80">{o.about}</span></button
          >
        </li>
      {/each}
    </ul>
  {:else if w.what === 'block'}
    <div class="flex gap-3">
      {#if !w.placed}
        <div class="flex w-52 shrink-0 flex-col gap-1">
          <input
            class="input input-sm w-full"
            aria-label="Which block"
            {@attach focused}
            value={wanted}
            oninput={(e) => look(e.currentTarget.value)}
            placeholder="Which: timer, counter, ADD …"
            onkeydown={kindKey}
          />
          <ul class="max-h-48 overflow-y-auto" aria-label="Blocks">
            {#each boxes as b (b.name)}<li>
                <button
                  type="button"
                  class="w-full rounded-field px-2 py-1 text-left hover:bg-base-200"
                  class:bg-base-300={b.name === chosen?.name}
                  aria-pressed={b.name === chosen?.name}
                  {@attach (e) => void (b.name === chosen?.name && e.scrollIntoView({ block: 'nearest' }))}
                  onclick={() => pick(b)}
                  ><span class="block font-mono text-xs font-semibold">{b.name}</span>
                  <span class="block text-xs opacity-80">{b.purpose}</span></button
                >
              </li>{:else}<li class="p-2">No block is called that.</li>{/each}
          </ul>
        </div>
      {/if}
      <div class="flex min-w-0 grow flex-col gap-2">
        {#if chosen}
          {@const b = chosen}
          <p class="flex items-center gap-3">
            <BlockPicture block={b} /> <span><b class="font-mono">{b.name}</b> {b.purpose}</span>
          </p>
          {#if !b.function}
            <label class="flex items-center gap-2"
              >Its name <input
                class="input input-sm w-40 font-mono"
                class:input-error={!!problem}
                data-next
                aria-describedby="block-problem"
                {@attach (e) => w.placed && focused(e)}
                bind:value={w.instance}
                onkeydown={key}
              />
              {#if !w.placed && !problem && !drawing.known(w.instance)}<span class="text-xs opacity-80"
                  >is declared with it</span
                >{/if}
            </label>
          {/if}
          <p id="block-problem" class="text-error" role="alert">
            {#if problem && (tried || w.instance)}{problem}{/if}
          </p>
          <div class="flex flex-wrap gap-2">
            {#each b.pins.filter((p) => p.name !== b.power || w.en) as p, n (p.name)}
              <label class="flex flex-col text-xs"
                ><span class="font-mono">{p.output ? p.name + ' →' : '→ ' + p.name}</span><input
                  class="input input-sm w-24 font-mono"
                  data-next={b.function && !n ? '' : undefined}
                  placeholder={p.type}
                  bind:value={w.values[p.name]}
                  onkeydown={key}
                  list="pin-names"
                /></label
              >
            {/each}
          </div>
          {#if !b.function && b.power !== 'EN'}<label class="flex items-center gap-1"
              ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={w.en} />power on EN</label
            >{/if}
        {:else}
          <p class="opacity-80">Choose the kind of block; its name and its pins are written here.</p>
        {/if}
        <p class="mt-auto flex gap-2">
          <button class="btn btn-primary btn-sm" disabled={!chosen}>{w.placed ? 'Change' : 'Put in'}</button>
          <button type="button" class="btn btn-ghost btn-sm" title="Esc" onclick={leave}>Leave it</button>
        </p>
      </div>
    </div>
    <datalist id="pin-names">
      {#each names as n (n.name)}<option value={n.name}>{n.about}</option>{/each}
    </datalist>
  {:else}
    <div class="join w-full shadow-lg">
      <input
        class="input join-item input-sm grow border-info bg-base-100"
        aria-label={w.what === 'title' ? 'Title' : 'Comment'}
        placeholder={w.what === 'title' ? 'The title of this rung' : 'A comment on this rung'}
        {@attach focused}
        bind:value={text}
        onkeydown={key}
      />
      <button class="btn join-item btn-primary btn-sm">Take</button>
      <button type="button" class="btn join-item btn-sm bg-base-200" title="Esc" onclick={leave}>Leave it</button>
    </div>
  {/if}
</form>

<style>
  .panel {
    border: 2px solid var(--color-info);
    border-radius: var(--radius-box);
    background: var(--color-base-100);
    padding: 0.6rem;
    box-shadow: 0 8px 24px rgb(0 0 0 / 0.18);
  }
</style>
