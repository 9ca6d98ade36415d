<script lang="ts">
  import { onDestroy } from 'svelte'
  import { api, followClass, type Handin, type Marks } from '../api'
  import { arranged, rateOf, sections, stateOf, totalOf, type Filter, type Sort, type State } from '../state/grid'
  import { session } from '../state/session.svelte'
  import { wordFor } from '../trace'
  import Loading from './Loading.svelte'

  const id = session.class!.id
  let marks = $state(api.marks())
  let progress = $state<{ graded: number; waiting: number } | null>(null)
  let first = true
  // The grid follows the hand-ins as they are graded; many at once are shown together.
  let timer: ReturnType<typeof setTimeout>
  const stop = followClass(id, (p) => {
    progress = p
    if (!first) {
      clearTimeout(timer)
      timer = setTimeout(async () => {
        const fresh = await api.marks().catch(() => null)
        if (fresh) marks = Promise.resolve(fresh)
      }, 300)
    }
    first = false
  })
  onDestroy(() => {
    stop()
    clearTimeout(timer)
    clearTimeout(telling)
  })

  let filter = $state<Filter>('all')
  let sort = $state<Sort>({ by: 'name', down: false })
  let dense = $state(localStorage.getItem('celandine.dense') !== 'no')
  $effect(() => localStorage.setItem('celandine.dense', dense ? 'yes' : 'no'))
  const filters: [Filter, string][] = [
    ['all', 'Everybody'],
    ['missing', 'Something missing'],
    ['late', 'Late'],
    ['below', 'Below 60 %'],
  ]
  function sortBy(by: Sort['by']) {
    sort = { by, down: sort.by === by ? !sort.down : by !== 'name' }
  }
  const arrow = (by: Sort['by']) => (sort.by !== by ? '' : sort.down ? ' ▾' : ' ▴')
  const ordered = (by: Sort['by']) => (sort.by !== by ? 'none' : sort.down ? 'descending' : 'ascending')
  const percent = (rate: number) => `${Math.round(rate * 100)} %`
  const words: Record<State, string> = {
    whole: 'all of it',
    part: 'in part',
    none: 'nothing earned',
    waiting: 'waiting',
    missing: 'not handed in',
  }

  // What the cell under the mouse or the focus is about: of a hand-in its first difference, fetched when somebody stays there.
  let told = $state('')
  let telling: ReturnType<typeof setTimeout>
  const known = new Map<number, string>()
  function tell(person: string, title: string, mark: Marks['rows'][number]['marks'][number], points: number) {
    const about = `${person}, ${title}: `
    const id = mark.handin
    clearTimeout(telling)
    told = about + (mark.earned === undefined ? words[stateOf(mark, points)] : `${mark.earned} of ${points}`)
    if (id === undefined || mark.earned === undefined || mark.earned >= points) return
    const said = known.get(id)
    if (said !== undefined) return void (told += '. ' + said)
    const before = told
    telling = setTimeout(async () => {
      const why = await api.handin(String(id)).then(firstDifference, () => '')
      known.set(id, why)
      if (told === before && why) told += '. ' + why
    }, 250)
  }
  function firstDifference(h: Handin): string {
    if (h.result?.diagnostics.some((d) => d.severity === 'error'))
      return 'It has errors: ' + h.result.diagnostics[0].message
    for (const s of h.result?.scenarios ?? []) {
      for (const g of s.signals) {
        const d = g.difference
        const should = d && `should be ${wordFor(d.expected)} and was ${wordFor(d.actual)}`
        if (d) return `In “${s.name}”, at scan ${d.scan} (${d.time}), ${g.signal} ${should}.`
      }
    }
    return ''
  }

  // The arrow keys go from cell to cell.
  function keys(event: KeyboardEvent & { currentTarget: HTMLElement }) {
    const by = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key]
    const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-cell]')
    if (!by || !cell) return
    const [row, column] = cell.dataset.cell!.split(',').map(Number)
    const next = event.currentTarget.querySelector<HTMLElement>(`[data-cell="${row + by[0]},${column + by[1]}"]`)
    if (!next) return
    event.preventDefault()
    next.focus()
  }
</script>

<h1 class="mb-1 text-2xl font-semibold">The class<span class="hidden print:inline">: {session.class?.name}</span></h1>
<div class="mb-5 flex flex-wrap items-center gap-x-4 gap-y-1">
  <p class="opacity-80 print:hidden">
    The {session.class?.counts === 'last' ? 'last' : 'best'} hand-in counts. Open a mark to see it, or an exercise to see
    all its hand-ins.
  </p>
  <p role="status" class="text-sm">
    {#if progress}{progress.graded} graded{progress.waiting ? `, ${progress.waiting} waiting` : ''}{/if}
  </p>
  <span class="ml-auto flex gap-2"
    ><a class="btn btn-sm" href="/api/classes/{id}/marks.csv" download>CSV</a><a
      class="btn btn-sm"
      href="/api/classes/{id}/marks.xlsx"
      download>Spreadsheet</a
    ></span
  >
</div>
<Loading what={marks}>
  {#snippet children(m)}
    {#if !m.exercises.length || !m.rows.length}
      <p class="alert alert-soft mb-4" role="status">
        <span>
          {#if !m.exercises.length}This class has no exercises yet: <a class="link" href="#/assignments"
              >take some from another class, or add one from a file</a
            >.{/if}
          {#if !m.rows.length}Nobody is enrolled yet: <a class="link" href="#/people">enrol a class list</a>.{/if}
        </span>
      </p>
    {/if}
    {@const rows = arranged(m, filter, sort)}
    <div class="mb-2 flex flex-wrap items-center gap-2 text-sm print:hidden">
      <div role="group" aria-label="Who is shown" class="join">
        {#each filters as [f, name] (f)}<button
            class="btn join-item btn-xs"
            class:btn-primary={filter === f}
            aria-pressed={filter === f}
            onclick={() => (filter = f)}>{name}</button
          >{/each}
      </div>
      <span role="status">{rows.length} of {m.rows.length}</span>
      <label class="ml-auto flex items-center gap-2"
        ><input type="checkbox" class="toggle toggle-xs" bind:checked={dense} />Dense</label
      >
      <button class="btn btn-xs" onclick={() => print()}>Print</button>
    </div>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
      class="frame"
      class:dense
      role="region"
      aria-label="Marks of the class"
      tabindex="0"
      onkeydown={keys}
      onmouseleave={() => (told = '')}
    >
      <table>
        <thead>
          <tr class="topics">
            <td class="name"></td>
            <td colspan="2"></td>
            {#each sections(m.exercises) as s, n (n)}<th scope="colgroup" colspan={s.count}><span>{s.topic}</span></th
              >{/each}
          </tr>
          <tr>
            <th scope="col" class="name" aria-sort={ordered('name')}
              ><button onclick={() => sortBy('name')}>Learner{arrow('name')}</button></th
            >
            <th scope="col" aria-sort={ordered('total')}
              ><button onclick={() => sortBy('total')}>Total{arrow('total')}</button></th
            >
            <th scope="col" aria-sort={ordered('missing')}
              ><button title="How many were not handed in" onclick={() => sortBy('missing')}
                >Missing{arrow('missing')}</button
              ></th
            >
            {#each m.exercises as e, n (e.name)}
              <th scope="col" class="title" aria-sort={ordered(n)}>
                <a class="link" href="#/exercise/{e.name}/handins" title="{e.title}: all hand-ins">{e.title}</a>
                <span class="flex items-center gap-1 font-normal"
                  ><a
                    class="link"
                    href="#/insight/{e.name}"
                    title="{e.title}: how it went"
                    aria-label="How it went: {e.title}">◔</a
                  ><button aria-label="Sort by {e.title}" onclick={() => sortBy(n)}>{arrow(n) || '↕'}</button></span
                >
              </th>
            {/each}
          </tr>
          <tr class="rates">
            <th scope="row" class="name">Class</th>
            <td></td><td></td>
            {#each m.exercises as e, n (e.name)}
              {@const r = rateOf(m.rows, m.exercises, n)}
              <td title="{r.marked} of {m.rows.length} have a mark">{r.marked ? percent(r.rate) : '–'}</td>
            {/each}
          </tr>
        </thead>
        <tbody>
          {#each rows as row, y (row.person.login)}
            {@const t = totalOf(row, m.exercises)}
            <tr>
              <th scope="row" class="name">{row.person.name}</th>
              <td class="number" title="of {t.points}"
                >{t.earned}{#if t.points}<small> {percent(t.earned / t.points)}</small>{/if}</td
              >
              <td class="number">{t.missing || ''}</td>
              {#each row.marks as mark, x (x)}
                {@const e = m.exercises[x]}
                {@const state = stateOf(mark, e.points)}
                {@const say = () => tell(row.person.name, e.title, mark, e.points)}
                <td class={state} onmouseenter={say}>
                  <svelte:element
                    this={mark.handin !== undefined ? 'a' : 'span'}
                    href={mark.handin !== undefined ? `#/handin/${mark.handin}` : undefined}
                    role={mark.handin !== undefined ? undefined : 'note'}
                    tabindex={x + y ? -1 : 0}
                    data-cell="{y},{x}"
                    aria-label="{row.person.name}, {e.title}: {mark.earned === undefined
                      ? words[state]
                      : `${mark.earned} of ${e.points}`}"
                    onfocus={say}
                    ><svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
                      {#if state === 'whole'}<circle cx="6" cy="6" r="5.500" />
                      {:else if state === 'part'}<circle cx="6" cy="6" r="5" class="ring" /><path
                          d="M6 1a5 5 0 0 1 0 10z"
                        />
                      {:else if state === 'none'}<path d="M2 2l8 8M10 2l-8 8" class="ring" />
                      {:else if state === 'waiting'}<path d="M2 6h1M6 6h1M10 6h1" class="ring" />
                      {:else}<path d="M3 6h6" class="ring faint" />{/if}
                    </svg>{#if mark.earned !== undefined}<span class="earned">{mark.earned}</span
                      >{/if}{#if mark.byHand}<abbr title="marked by hand">✎</abbr>{/if}{#if mark.late}<abbr
                        title="{mark.late} d late">⏱</abbr
                      >{/if}</svelte:element
                  >
                </td>
              {/each}
            </tr>
          {:else}
            <tr><td colspan={m.exercises.length + 3}>Nobody.</td></tr>
          {/each}
        </tbody>
      </table>
    </div>
    <p class="mt-2 min-h-10 text-sm print:hidden" role="status" data-testid="told">
      {told || 'Stay on a mark, or go to it with the arrow keys, to read what first went wrong.'}
    </p>
  {/snippet}
</Loading>

<style>
  .frame {
    overflow: auto;
    max-height: calc(100dvh - 17rem);
    min-height: 12rem;
    border: 1px solid var(--color-base-300);
    border-radius: var(--radius-box);
  }
  table {
    border-collapse: separate;
    border-spacing: 0;
    font-size: 0.8rem;
  }
  th,
  td {
    padding: 0.2rem 0.45rem;
    border-bottom: 1px solid var(--color-base-300);
    white-space: nowrap;
    text-align: left;
  }
  .dense th,
  .dense td {
    padding: 0.05rem 0.3rem;
  }
  thead {
    position: sticky;
    top: 0;
    z-index: 2;
  }
  thead th,
  thead td {
    background: var(--color-base-200);
    vertical-align: bottom;
  }
  .name {
    position: sticky;
    left: 0;
    z-index: 1;
    background: var(--color-base-100);
    font-weight: 500;
    border-right: 1px solid var(--color-base-300);
  }
  thead .name {
    background: var(--color-base-200);
  }
  .title {
    width: 5rem;
    min-width: 5rem;
    font-weight: 500;
    line-height: 1.2;
    white-space: normal;
  }
  .title > a {
    display: -webkit-box;
    hyphens: auto;
    overflow: hidden;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
  }
  .dense .title {
    width: 3rem;
    min-width: 3rem;
    font-size: 0.7rem;
  }
  .topics th {
    border-left: 1px solid var(--color-base-300);
    font-weight: 600;
  }
  .topics span {
    display: block;
    width: 0;
    min-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .number {
    font-variant-numeric: tabular-nums;
  }
  small {
    margin-left: 0.35rem;
    opacity: 0.8;
  }
  td a,
  td [data-cell] {
    display: inline-flex;
    align-items: center;
    gap: 0.25rem;
    font-variant-numeric: tabular-nums;
  }
  .dense .earned {
    font-size: 0.72rem;
  }
  td svg {
    fill: currentColor;
    stroke: none;
    flex-shrink: 0;
  }
  .ring {
    fill: none;
    stroke: currentColor;
    stroke-width: 1.8;
  }
  .faint {
    opacity: 0.5;
  }
  .whole {
    background: color-mix(in oklab, var(--color-success) 14%, transparent);
  }
  .whole svg {
    color: var(--color-success);
  }
  .part {
    background: color-mix(in oklab, var(--color-primary) 18%, transparent);
  }
  .part svg {
    color: var(--color-warning);
  }
  .none {
    background: color-mix(in oklab, var(--color-error) 14%, transparent);
  }
  .none svg {
    color: var(--color-error);
  }
  @media print {
    .frame {
      max-height: none;
      overflow: visible;
      border: none;
    }
    table,
    .dense .title {
      width: 100%;
      font-size: 7pt;
    }
    th,
    td,
    .dense th,
    .dense td {
      padding: 0.1rem 0.15rem;
    }
    thead,
    .name {
      position: static;
    }
    /* Thirty titles have room on a page when they stand. */
    .title,
    .dense .title {
      width: auto;
      min-width: 0;
    }
    .title > a {
      display: block;
      max-height: 9rem;
      writing-mode: sideways-lr;
      text-decoration: none;
      -webkit-line-clamp: none;
      line-clamp: none;
    }
    .title > span {
      display: none;
    }
  }
</style>
