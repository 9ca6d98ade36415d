<script lang="ts">
  import Moon from '@lucide/svelte/icons/moon'
  import Sun from '@lucide/svelte/icons/sun'
  import LogOut from '@lucide/svelte/icons/log-out'
  import Router from 'svelte-spa-router'
  import { look } from './state/look.svelte'
  import { session } from './state/session.svelte'
  import ExercisePage from './pages/ExercisePage.svelte'
  import HandinPage from './pages/HandinPage.svelte'
  import HandinsPage from './pages/HandinsPage.svelte'
  import Home from './pages/Home.svelte'
  import NotFound from './pages/NotFound.svelte'
  import SignIn from './pages/SignIn.svelte'

  const routes = {
    '/': Home,
    '/exercise/:name': ExercisePage,
    '/exercise/:name/handins': HandinsPage,
    '/handin/:id': HandinPage,
    '*': NotFound,
  }

  session.load()
  $effect(() => {
    document.documentElement.dataset.theme = look.theme
  })
</script>

<div class="flex min-h-screen flex-col">
  <header class="border-b border-base-300 bg-base-100">
    <div class="mx-auto flex max-w-7xl items-center gap-4 px-6 py-3">
      <a href="#/" class="flex items-center gap-2 text-lg font-semibold">
        <img src="/celandine.svg" alt="" class="size-7" />
        Celandine
      </a>
      {#if session.person}
        <span class="hidden text-sm opacity-80 sm:inline">{session.person.class}</span>
      {/if}
      <div class="ml-auto flex items-center gap-1">
        {#if session.person}
          <span class="mr-2 text-sm">{session.person.name}</span>
        {/if}
        <button class="btn btn-ghost btn-sm btn-square" aria-label={look.dark ? 'Light colours' : 'Dark colours'} onclick={() => look.turn()}>
          {#if look.dark}<Sun size={18} />{:else}<Moon size={18} />{/if}
        </button>
        {#if session.person}
          <button class="btn btn-ghost btn-sm" onclick={() => session.signOut()}><LogOut size={16} /> Sign out</button>
        {/if}
      </div>
    </div>
  </header>
  <main class="mx-auto w-full max-w-7xl flex-1 px-6 py-6">
    {#if session.person}
      <Router {routes} />
    {:else if session.known}
      <SignIn />
    {/if}
  </main>
</div>
