<script lang="ts">
  // What is written at the cursor: a name, picked from the list or typed; a block with its pins; a title; a comment.
  import type { Point } from '../api'
  import { focused } from '../focus'
  import type { Drawing } from '../state/drawing.svelte'

  let { drawing, points, done }: { drawing: Drawing; points: Point[]; done: () => void } = $props()
  const w = $derived(drawing.writing!)
  // svelte-ignore state_referenced_locally
  let text = $state(drawing.writing && 'text' in drawing.writing ? drawing.writing.text : '')
  let wanted = $state('')
  let picked = $state(-1)

  /** What a block of that type gives, as the core lists it; nothing for what is no block. */
  const outputs = (type: string) => drawing.blocks.find((b) => !b.function && b.name.toLowerCase() === type.toLowerCase())?.pins?.filter((p) => p.output).map((p) => p.name)
  const names = $derived([
    ...points.map((p) => ({ name: p.name, about: `${p.at} ${p.label}` })),
    ...drawing.listed.filter((v) => v.unit === drawing.place.unit).flatMap((v) => {
      const gives = outputs(v.type)
      return gives ? gives.map((m) => ({ name: `${v.name}.${m}`, about: 'of ' + v.type })) : [{ name: v.name, about: `${v.type} ${v.description}` }]
    }),
  ])
  const word = $derived(/[\w.]*$/.exec(text)?.[0] ?? '')
  const offered = $derived(names.filter((n) => n.name.toLowerCase().includes(word.toLowerCase()) && n.name !== text).slice(0, 7))
  const boxes = $derived(drawing.blocks.filter((b) => (b.name + ' ' + b.purpose).toLowerCase().includes(wanted.toLowerCase())))

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
    else if (what === 'block') void drawing.putBlock()
    else void drawing.name(picked >= 0 && offered[picked] ? take(offered[picked].name) : text, next)
    if (next === 'right') done()
    text = ''
    picked = -1
  }
</script>

<form class="flex flex-col gap-2 rounded-box border-2 border-info p-2 text-sm" aria-label="Writing" onsubmit={(e) => { e.preventDefault(); accept() }}>
  {#if w.what === 'name'}
    <label class="flex items-center gap-2 font-medium">Name
      <input class="input input-sm grow font-mono" {@attach focused} bind:value={text} oninput={() => (picked = -1)} onkeydown={key} placeholder="a name, or a comparison such as bed_temp >= 250" autocomplete="off" role="combobox" aria-expanded="true" aria-controls="offered-names" aria-activedescendant={picked >= 0 ? 'offered-' + picked : undefined} />
      <button class="btn btn-primary btn-sm">Take</button>
      <button type="button" class="btn btn-ghost btn-sm" onclick={leave}>Later</button>
    </label>
    <ul id="offered-names" role="listbox" aria-label="Names that fit" class="flex flex-wrap gap-1">
      {#each offered as o, n (o.name)}
        <li role="option" id="offered-{n}" aria-selected={n === picked}>
          <button type="button" tabindex="-1" class="btn btn-xs font-mono {n === picked ? 'btn-primary' : ''}" onclick={() => { void drawing.name(take(o.name)); done() }}>{o.name} <span class="font-sans font-normal opacity-80">{o.about}</span></button>
        </li>
      {/each}
    </ul>
  {:else if w.what === 'block' && !w.block}
    <label class="flex items-center gap-2 font-medium">Which block
      <input class="input input-sm grow" {@attach focused} bind:value={wanted} placeholder="timer, counter, ADD …" onkeydown={(e) => { if (e.key === 'Enter') { e.preventDefault(); if (boxes[0]) drawing.choose(boxes[0]) } else key(e) }} />
      <button type="button" class="btn btn-ghost btn-sm" onclick={leave}>Leave it</button>
    </label>
    <ul class="flex max-h-36 flex-wrap gap-1 overflow-y-auto" aria-label="Blocks">
      {#each boxes as b (b.name)}<li><button type="button" class="btn btn-xs" onclick={() => drawing.choose(b)}><span class="font-mono">{b.name}</span> <span class="font-normal">{b.purpose}</span></button></li>{/each}
    </ul>
  {:else if w.what === 'block' && w.block}
    {@const b = w.block}
    <div class="flex flex-wrap items-end gap-2">
      <span class="self-center"><b class="font-mono">{b.name}</b> {b.purpose}</span>
      {#if !b.function}
        <label class="flex flex-col">Its name <input class="input input-sm w-32 font-mono" {@attach focused} bind:value={w.instance} onkeydown={key} /></label>
      {/if}
      {#each (b.pins ?? []).filter((p) => p.name !== b.power || w.en) as p (p.name)}
        <label class="flex flex-col"><span class="font-mono">{p.output ? p.name + ' →' : '→ ' + p.name}</span><input class="input input-sm w-24 font-mono" placeholder={p.type} bind:value={w.values[p.name]} onkeydown={key} list="pin-names" /></label>
      {/each}
      {#if !b.function && b.power !== 'EN'}<label class="flex items-center gap-1 self-center"><input type="checkbox" class="checkbox checkbox-xs" bind:checked={w.en} />power on EN</label>{/if}
      <button class="btn btn-primary btn-sm">{w.placed ? 'Change' : 'Put in'}</button>
      <button type="button" class="btn btn-ghost btn-sm" onclick={leave}>Leave it</button>
    </div>
    <datalist id="pin-names">{#each names as n (n.name)}<option value={n.name}></option>{/each}</datalist>
  {:else}
    <label class="flex items-center gap-2 font-medium">{w.what === 'title' ? 'Title of the rung' : 'Comment above the rung'}
      <input class="input input-sm grow" {@attach focused} bind:value={text} onkeydown={key} />
      <button class="btn btn-primary btn-sm">Take</button>
      <button type="button" class="btn btn-ghost btn-sm" onclick={leave}>Leave it</button>
    </label>
  {/if}
</form>
