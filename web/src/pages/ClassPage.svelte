<script lang="ts">
  // A class's settings, and making another class.
  import { api, type Class } from '../api'
  import { session } from '../state/session.svelte'
  import ClassForm from '../parts/ClassForm.svelte'

  let saved = $state('')
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone

  async function change(settings: Omit<Class, 'id'>) {
    const c = await api.changeClass(session.class!.id, settings)
    await session.look(c.id)
    saved = 'Saved.'
  }
  async function make(settings: Omit<Class, 'id'>) {
    const c = await api.makeClass(settings)
    await session.look(c.id)
    location.hash = '#/people'
  }
</script>

<div class="grid grid-cols-[minmax(0,1fr)] gap-10 lg:grid-cols-2">
  {#if session.class}
    <section class="flex flex-col gap-3">
      <h1 class="text-2xl font-semibold">{session.class.name}</h1>
      <ClassForm settings={session.class} words="Save" send={change} />
      <p role="status" class="text-sm">{saved}</p>
    </section>
  {/if}
  <section class="flex flex-col gap-3">
    <svelte:element this={session.class ? 'h2' : 'h1'} class="text-2xl font-semibold"
      >Make {session.class ? 'another' : 'a'} class</svelte:element
    >
    <p class="text-sm">You teach it; further instructors are added on its People page.</p>
    <ClassForm
      settings={{ name: '', timeZone: session.class?.timeZone ?? here, counts: 'best' }}
      words="Make the class"
      send={make}
    />
  </section>
</div>
