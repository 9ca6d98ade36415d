<script lang="ts">
  // Who is in the class; a class list is looked at before it is enrolled.
  import { api, type Enrolled, type JoinCode } from '../api'
  import { textOf } from '../file'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import JoinCodes from '../parts/JoinCodes.svelte'
  import Loading from '../parts/Loading.svelte'
  import MemberTable from '../parts/MemberTable.svelte'

  const id = session.class!.id
  let members = $state(api.members(id))
  let csv = $state('')
  const listed = 'login,name\nnoor,Noor Aziz'
  let preview = $state<Enrolled | null>(null)
  let codes = $state<JoinCode[]>([])
  const attempt = new Attempt()
  let login = $state('')

  const look = () => attempt.do(async () => void (preview = await api.enrol(id, csv, true)))
  const enrol = () =>
    attempt.do(async () => {
      const done = await api.enrol(id, csv, false)
      if (done.problems.length) return void (preview = done)
      codes = done.added
      preview = null
      csv = ''
      members = api.members(id)
    })
  const issue = (login: string) => attempt.do(async () => void (codes = [await api.issueCode(id, login)]))
  const add = () =>
    attempt.do(async () => {
      await api.addMember(id, login)
      login = ''
      members = api.members(id)
    })
  const remove = (who: string) =>
    attempt.do(async () => {
      await api.removeMember(id, who)
      members = api.members(id)
    })
  async function open(files: FileList | null) {
    const file = files?.[0]
    if (file) csv = await textOf(file)
    preview = null
  }
</script>

<h1 class="mb-4 text-2xl font-semibold">People</h1>
{#if attempt.problem}<p class="alert mb-4" role="alert">{attempt.problem}</p>{/if}
<JoinCodes bind:codes />
<div class="grid grid-cols-[minmax(0,1fr)] gap-8 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
  <Loading what={members}>
    {#snippet children(list)}
      <MemberTable {list}>
        {#snippet actions(m)}
          {#if m.role === 'learner'}<button
              class="btn btn-xs"
              aria-label="New code for {m.name}"
              onclick={() => issue(m.login)}>New code</button
            >{/if}
          {#if m.login !== session.person?.login}<button
              class="btn btn-ghost btn-xs"
              aria-label="Take out {m.name}"
              onclick={() => confirm(`Take ${m.name} out of the class? Hand-ins and marks stay.`) && remove(m.login)}
              >Take out</button
            >{/if}
        {/snippet}
      </MemberTable>
    {/snippet}
  </Loading>
  <div class="flex flex-col gap-6">
    <section aria-label="Class list" class="flex flex-col gap-2">
      <h2 class="font-semibold">Enrol a class list</h2>
      <p class="text-sm">
        CSV with the columns <code>login</code> and <code>name</code>. All of it is enrolled, or nothing.
      </p>
      <input
        type="file"
        accept=".csv,text/csv"
        class="file-input file-input-sm"
        aria-label="Class list file"
        onchange={(e) => open(e.currentTarget.files)}
      />
      <textarea
        class="textarea h-36 w-full font-mono text-sm"
        aria-label="Class list"
        placeholder={listed}
        bind:value={csv}
        oninput={() => (preview = null)}></textarea>
      <div class="flex gap-2"><button class="btn btn-sm" disabled={!csv.trim()} onclick={look}>Look at it</button></div>
      {#if preview}
        {#if preview.problems.length}
          <div role="alert" class="rounded-field border-l-4 border-error bg-base-200 p-3 text-sm">
            <p class="mb-1 font-medium">Nothing was enrolled.</p>
            <ul>
              {#each preview.problems as p (p.line + p.say)}<li>
                  <b class="tabular-nums">line {p.line}</b>
                  {p.say}
                </li>{/each}
            </ul>
          </div>
        {:else}
          <div role="status" class="rounded-field bg-base-200 p-3 text-sm">
            <p class="mb-1">{preview.added.length} new to the class, {preview.known} in it already.</p>
            <ul class="mb-2 max-h-40 overflow-auto">
              {#each preview.added as a (a.login)}<li><span class="font-mono">{a.login}</span> {a.name}</li>{/each}
            </ul>
            <button class="btn btn-primary btn-sm" disabled={!preview.added.length} onclick={enrol}
              >Enrol {preview.added.length}</button
            >
          </div>
        {/if}
      {/if}
    </section>
    <form
      class="flex flex-col gap-2"
      onsubmit={(e) => {
        e.preventDefault()
        void add()
      }}
    >
      <h2 class="font-semibold">Add somebody who has a login</h2>
      <p class="text-sm">A second instructor, or a learner of another class.</p>
      <div class="flex gap-2">
        <input class="input input-sm font-mono" aria-label="Login to add" required bind:value={login} /><button
          class="btn btn-sm">Add</button
        >
      </div>
    </form>
  </div>
</div>
