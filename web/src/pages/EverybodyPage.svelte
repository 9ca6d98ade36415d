<script lang="ts">
  // Everybody who signs in at this service; for administrators.
  import { api, type JoinCode, type Member, type Person } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import JoinCodes from '../parts/JoinCodes.svelte'
  import MemberTable from '../parts/MemberTable.svelte'

  let letters = $state('')
  let list = $state<Member[]>([])
  let next = $state<string | undefined>()
  let codes = $state<JoinCode[]>([])
  const attempt = new Attempt()
  let login = $state('')
  let full = $state('')
  let role = $state<Person['role']>('instructor')

  /** Answers may overtake each other while one types: only the last question counts. */
  let asked = 0
  const fetchPage = (after: string) =>
    attempt.do(async () => {
      const question = ++asked
      const page = await api.people(letters, after)
      if (question !== asked) return
      list = after ? [...list, ...page.items] : page.items
      next = page.next
    })
  const add = () =>
    attempt.do(async () => {
      codes = [await api.addPerson(login, full, role)]
      login = full = ''
      await fetchPage('')
    })
  const issue = (who: string) => attempt.do(async () => void (codes = [await api.issueCodeTo(who)]))
  const disable = (m: Member) =>
    attempt.do(async () => {
      const changed = await api.disable(m.login, !m.disabled)
      list = list.map((one) => (one.login === changed.login ? changed : one))
    })
  void fetchPage('')
</script>

<h1 class="mb-1 text-2xl font-semibold">Everybody</h1>
<p class="mb-4 opacity-80">
  All who sign in here, whatever their classes. Nobody is deleted, since marks name them; whoever is disabled is signed
  out at once.
</p>
{#if attempt.problem}<p class="alert mb-4" role="alert">{attempt.problem}</p>{/if}
<JoinCodes bind:codes />
<div class="grid grid-cols-[minmax(0,1fr)] gap-8 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
  <div>
    <input
      type="search"
      class="input input-sm mb-3 w-full max-w-sm"
      aria-label="Find by login or name"
      placeholder="Find by login or name"
      bind:value={letters}
      oninput={() => fetchPage('')}
    />
    <MemberTable {list} empty={letters ? 'Nobody’s login or name contains this.' : undefined}>
      {#snippet actions(m)}
        <button class="btn btn-xs" aria-label="New code for {m.name}" onclick={() => issue(m.login)}>New code</button>
        {#if m.login !== session.person?.login}<button
            class="btn btn-ghost btn-xs"
            aria-label="{m.disabled ? 'Enable' : 'Disable'} {m.name}"
            onclick={() =>
              (m.disabled || confirm(`Disable ${m.name}? They are signed out at once; hand-ins and marks stay.`)) &&
              disable(m)}>{m.disabled ? 'Enable' : 'Disable'}</button
          >{/if}
      {/snippet}
    </MemberTable>
    {#if next}<button class="btn btn-sm mt-3" onclick={() => fetchPage(next!)}>More</button>{/if}
  </div>
  <form
    class="flex flex-col gap-3"
    onsubmit={(e) => {
      e.preventDefault()
      void add()
    }}
  >
    <h2 class="font-semibold">Add somebody</h2>
    <p class="text-sm">
      They choose their own password with the code that you will see. Learners are more easily enrolled as a class list,
      on the class’s People page.
    </p>
    <label class="flex flex-col gap-1 text-sm"
      >Login <input class="input input-sm font-mono" required maxlength="63" bind:value={login} /></label
    >
    <label class="flex flex-col gap-1 text-sm"
      >Name <input class="input input-sm" required maxlength="100" bind:value={full} /></label
    >
    <label class="flex flex-col gap-1 text-sm"
      >Role <select class="select select-sm" bind:value={role}
        ><option>instructor</option><option>learner</option><option>administrator</option></select
      ></label
    >
    <button class="btn btn-primary btn-sm self-start">Add</button>
  </form>
</div>
