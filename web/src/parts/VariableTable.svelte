<script lang="ts">
  // Every variable and point: type, address, initial value, description; where it is used and written. A series is added in one go.
  import type { Listed } from '../core/core'
  import type { Drawing } from '../state/drawing.svelte'

  let { drawing, go }: { drawing: Drawing; go: (line: number, column: number) => void } = $props()
  let wanted = $state('')
  let open = $state('')
  const unitName = (v: Listed) => (v.unit < 0 ? 'panel' : (drawing.units[v.unit]?.name ?? ''))
  const rows = $derived(
    drawing.listed.filter((v) =>
      (v.name + ' ' + v.description + ' ' + v.type).toLowerCase().includes(wanted.toLowerCase()),
    ),
  )
  const key = (v: Listed) => v.unit + '.' + v.name
  const uses = (v: Listed) => (v.places ?? []).filter((p) => p.use !== 'declares')
  const writes = (v: Listed) => uses(v).filter((p) => p.use === 'writes' || p.use === 'calls').length

  function alter(v: Listed, change: Partial<Listed>) {
    const { name, type, address, initial, description } = { ...v, ...change }
    void drawing.change(() => [
      { do: 'redeclare', at: { unit: v.unit }, variable: { name, type, address, initial, description } },
    ])
  }
  function rename(v: Listed, to: string) {
    const declared = v.places?.find((p) => p.use === 'declares')
    if (declared && to !== v.name) void drawing.change(() => [{ do: 'rename', offset: declared.offset, text: to }])
  }

  const empty = { name: '', section: 'VAR', type: 'BOOL', address: '', initial: '', description: '' }
  let fresh = $state({ ...empty })
  let unit = $state(-1)
  const programs = $derived(drawing.units.map((u, n) => ({ ...u, n })))
  const target = $derived(unit >= 0 ? unit : (programs.find((u) => u.kind === 'PROGRAM')?.n ?? 0))
  async function add() {
    await drawing.change(() => [{ do: 'declare', at: { unit: target }, variable: { ...fresh } }])
    if (!drawing.problem) fresh = { ...empty, type: fresh.type, section: fresh.section }
  }
  /** How a series of variables is written, as an example. */
  const series = { name: 'tray_{1..10}', description: 'Tray {n}' }
</script>

<section aria-label="Variables" class="flex flex-col gap-2">
  <label class="flex items-center gap-2 text-sm">Find <input class="input input-sm w-48" bind:value={wanted} /></label>
  {#if drawing.problem}<p class="alert alert-soft" role="alert">{drawing.problem}</p>{/if}
  <div class="max-h-96 overflow-auto">
    <table class="table table-xs">
      <thead
        ><tr class="text-base-content"
          ><th>Name</th><th>Type</th><th>Address</th><th>Initial</th><th>Description</th><th>Used</th><th
            ><span class="sr-only">Do</span></th
          ></tr
        ></thead
      >
      <tbody>
        {#each rows as v (key(v))}
          <tr>
            {#if v.unit < 0}
              <td class="font-mono">{v.name}</td><td class="font-mono">{v.type}</td><td class="font-mono"
                >{v.address}</td
              ><td></td><td>{v.description} <span class="badge badge-xs">panel</span></td>
            {:else}
              <td
                ><input
                  class="input input-xs w-28 font-mono"
                  aria-label="Name of {v.name}"
                  value={v.name}
                  onchange={(e) => {
                    rename(v, e.currentTarget.value)
                    e.currentTarget.value = v.name
                  }}
                /></td
              >
              <td
                ><input
                  class="input input-xs w-20 font-mono"
                  aria-label="Type of {v.name}"
                  value={v.type}
                  onchange={(e) => alter(v, { type: e.currentTarget.value })}
                /></td
              >
              <td
                ><input
                  class="input input-xs w-18 font-mono"
                  aria-label="Address of {v.name}"
                  value={v.address}
                  onchange={(e) => alter(v, { address: e.currentTarget.value })}
                /></td
              >
              <td
                ><input
                  class="input input-xs w-16 font-mono"
                  aria-label="Initial value of {v.name}"
                  value={v.initial}
                  onchange={(e) => alter(v, { initial: e.currentTarget.value })}
                /></td
              >
              <td
                ><input
                  class="input input-xs w-36"
                  aria-label="Description of {v.name}"
                  value={v.description}
                  onchange={(e) => alter(v, { description: e.currentTarget.value })}
                /></td
              >
            {/if}
            <td
              ><button
                class="btn btn-ghost px-1 btn-xs whitespace-nowrap"
                aria-expanded={open === key(v)}
                onclick={() => (open = open === key(v) ? '' : key(v))}
                ><span class="sr-only">Where {v.name} is used: </span>{uses(v).length}{writes(v)
                  ? `, ${writes(v)} written`
                  : ''}</button
              ></td
            >
            <td
              >{#if v.unit >= 0}<button
                  class="btn btn-ghost btn-xs"
                  aria-label="Remove {v.name}"
                  onclick={() =>
                    drawing.change(() => [{ do: 'undeclare', at: { unit: v.unit }, variable: { name: v.name } }])}
                  >×</button
                >{/if}</td
            >
          </tr>
          {#if open === key(v)}
            <tr
              ><td colspan="7" class="bg-base-200">
                <ul class="flex flex-col gap-0.5">
                  {#each v.places ?? [] as p, n (n)}<li>
                      <button class="link font-mono text-xs" onclick={() => go(p.line, p.column)}>line {p.line}</button>
                      {p.use}: <span class="font-mono text-xs">{p.words}</span>
                    </li>{:else}<li>It stands nowhere in {unitName(v)}.</li>{/each}
                </ul>
              </td></tr
            >
          {/if}
        {:else}
          <tr><td colspan="7">{wanted ? 'No name fits.' : 'There is no variable yet.'}</td></tr>
        {/each}
      </tbody>
    </table>
  </div>
  <form
    class="flex flex-wrap items-end gap-2 text-sm"
    aria-label="New variable"
    onsubmit={(e) => {
      e.preventDefault()
      void add()
    }}
  >
    <label class="flex flex-col"
      >New name, or a series <input
        class="input input-sm w-36 font-mono"
        placeholder={series.name}
        required
        bind:value={fresh.name}
      /></label
    >
    <label class="flex flex-col"
      >Type <input class="input input-sm w-24 font-mono" list="types" required bind:value={fresh.type} /></label
    >
    <label class="flex flex-col"
      >Address <input class="input input-sm w-22 font-mono" placeholder="%MX0.0" bind:value={fresh.address} /></label
    >
    <label class="flex flex-col"
      >Initial <input class="input input-sm w-18 font-mono" bind:value={fresh.initial} /></label
    >
    <label class="flex flex-col"
      >Description <input
        class="input input-sm w-40"
        placeholder={series.description}
        bind:value={fresh.description}
      /></label
    >
    {#if programs.length > 1}
      <label class="flex flex-col"
        >In <select class="select select-sm w-32" bind:value={unit}
          >{#each programs as u (u.n)}<option value={u.n}>{u.name}</option>{/each}</select
        ></label
      >
      <label class="flex flex-col"
        >As <select class="select select-sm w-32" bind:value={fresh.section}
          >{#each ['VAR', 'VAR_INPUT', 'VAR_OUTPUT', 'VAR_IN_OUT', 'VAR_TEMP'] as s (s)}<option>{s}</option
            >{/each}</select
        ></label
      >
    {/if}
    <button class="btn btn-sm">Declare</button>
    <datalist id="types"
      >{#each ['BOOL', 'INT', 'DINT', 'REAL', 'TIME', 'WORD', 'STRING', ...drawing.blocks
          .filter((b) => !b.function)
          .map((b) => b.name)] as t (t)}<option value={t}></option>{/each}</datalist
    >
  </form>
</section>
