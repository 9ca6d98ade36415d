<script lang="ts">
  import Moon from '@lucide/svelte/icons/moon'
  import Sun from '@lucide/svelte/icons/sun'
  import User from '@lucide/svelte/icons/user'
  import LogOut from '@lucide/svelte/icons/log-out'
  import Router from 'svelte-spa-router'
  import { wrap, type AsyncSvelteComponent } from 'svelte-spa-router/wrap'
  import { onMount } from 'svelte'
  import { look } from './state/look.svelte'
  import { session } from './state/session.svelte'
  import Home from './pages/Home.svelte'
  import Unfetched from './pages/Unfetched.svelte'
  import NotFound from './pages/NotFound.svelte'
  import SignIn from './pages/SignIn.svelte'

  // What the first page needs comes first; the others follow when somebody goes there, or has time.
  const ahead: AsyncSvelteComponent[] = []
  function later(page: AsyncSvelteComponent) {
    ahead.push(page)
    return wrap({ asyncComponent: () => page().catch(() => ({ default: Unfetched })) })
  }
  const routes = {
    '/': Home,
    '/exercise/:name': later(() => import('./pages/ExercisePage.svelte')),
    '/exercise/:name/worksheet': later(() => import('./pages/WorksheetPage.svelte')),
    '/exercise/:name/handins': later(() => import('./pages/HandinsPage.svelte')),
    '/handin/:id': later(() => import('./pages/HandinPage.svelte')),
    '/people': later(() => import('./pages/PeoplePage.svelte')),
    '/assignments': later(() => import('./pages/AssignmentsPage.svelte')),
    '/insight/:name': later(() => import('./pages/InsightPage.svelte')),
    '/log': later(() => import('./pages/LogPage.svelte')),
    '/marks': later(() => import('./pages/MyMarksPage.svelte')),
    '/class': later(() => import('./pages/ClassPage.svelte')),
    '/everybody': later(() => import('./pages/EverybodyPage.svelte')),
    '/signins': later(() => import('./pages/SignInsPage.svelte')),
    '/exercises': later(() => import('./pages/LibraryPage.svelte')),
    '/courses': later(() => import('./pages/CoursesPage.svelte')),
    '/courses/:owner/:name': later(() => import('./pages/CoursePage.svelte')),
    '/languages': later(() => import('./pages/LanguagesPage.svelte')),
    '/workshop/:owner/:name/:part?': later(() => import('./pages/WorkshopPage.svelte')),
    '*': NotFound,
  }

  const learning = [
    ['#/', 'Exercises'],
    ['#/marks', 'My marks'],
  ]
  const teaching = [
    ['#/', 'Marks'],
    ['#/exercises', 'Exercises'],
    ['#/assignments', 'Assignments'],
    ['#/people', 'People'],
    ['#/class', 'Class'],
    ['#/log', 'Log'],
  ]
  const rooms = $derived(
    !session.teaches
      ? learning
      : session.person?.role === 'administrator'
        ? [...teaching, ['#/everybody', 'Everybody']]
        : teaching,
  )
  /** Pages for which one needs to be in no class. */
  const classless = ['#/class', '#/everybody', '#/signins', '#/exercises', '#/languages']
  let hash = $state(location.hash || '#/')
  /** The workbench and a hand-in take the window as it is; every other page is as long as what it holds. */
  const fills = $derived(!!session.person && /^#\/((exercise|handin)\/[^/]+|workshop\/.+)$/.test(hash))

  session.load()
  onMount(() => {
    const fetchAhead = setTimeout(() => {
      performance.mark('celandine.ahead')
      void Promise.allSettled(ahead.map((page) => page()))
    }, 1500)
    return () => clearTimeout(fetchAhead)
  })
  $effect(() => {
    document.documentElement.dataset.theme = look.theme
  })
</script>

<svelte:window onhashchange={() => (hash = location.hash || '#/')} />

<div class="flex flex-col {fills ? 'h-dvh overflow-hidden print:h-auto print:overflow-visible' : 'min-h-screen'}">
  <header class="border-b border-base-300 bg-base-100 print:hidden">
    <div class="mx-auto flex flex-wrap items-center gap-x-4 gap-y-1 {fills ? 'px-4 py-1' : 'max-w-7xl px-6 py-3'}">
      <a href="#/" class="flex items-center gap-2 text-lg font-semibold">
        <img src="/celandine.svg" alt="" class="size-7" />
        Celandine
      </a>
      {#if session.person}
        {#if session.classes.length > 1}
          <select
            class="select select-sm w-56"
            aria-label="Class"
            value={session.class?.id}
            onchange={(e) => {
              session.choose(Number(e.currentTarget.value))
              location.hash = '#/'
            }}
          >
            {#each session.classes as c (c.id)}<option value={c.id}>{c.name}</option>{/each}
          </select>
        {:else}
          <span class="hidden text-sm opacity-80 lg:inline">{session.class?.name ?? ''}</span>
        {/if}
        <nav aria-label="Main" class="order-last flex w-full flex-wrap gap-1 md:order-none md:w-auto">
          {#each rooms as [to, words] (to)}<a
              class="btn btn-ghost btn-sm px-2"
              class:underline={hash === to}
              aria-current={hash === to ? 'page' : undefined}
              href={to}>{words}</a
            >{/each}
        </nav>
      {/if}
      <div class="ml-auto flex items-center gap-1">
        {#if session.person}
          <a
            class="btn btn-ghost btn-sm px-2 font-normal"
            href="#/signins"
            title="Your sign-ins"
            aria-current={hash === '#/signins' ? 'page' : undefined}
            ><User size={16} /><span class="sr-only sm:not-sr-only">{session.person.name}</span></a
          >
        {/if}
        <button
          class="btn btn-ghost btn-sm btn-square"
          aria-label={look.dark ? 'Light colours' : 'Dark colours'}
          onclick={() => look.turn()}
        >
          {#if look.dark}<Sun size={18} />{:else}<Moon size={18} />{/if}
        </button>
        {#if session.person}
          <button class="btn btn-ghost btn-sm" onclick={() => session.signOut()}><LogOut size={16} /> Sign out</button>
        {/if}
      </div>
    </div>
  </header>
  <main class={fills ? 'flex min-h-0 w-full flex-1 flex-col' : 'mx-auto w-full max-w-7xl flex-1 px-6 py-6 print:p-0'}>
    {#if session.person}
      {#if session.class || classless.includes(hash)}
        {#key session.class?.id}<Router {routes} />{/key}
      {:else}
        <h1 class="mb-3 text-2xl font-semibold">Welcome, {session.person.name}</h1>
        <p class="alert">
          You are in no class yet. {#if session.teaches}<a class="link" href="#/class">Make one</a>{:else}An instructor
            enrols people.{/if}
        </p>
      {/if}
    {:else if session.known}
      <SignIn />
    {:else if session.notice}
      <p class="alert mx-auto mt-10 max-w-md" role="status">{session.notice} This page goes on by itself.</p>
    {/if}
  </main>
</div>
