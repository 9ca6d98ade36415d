<script lang="ts">
  import { session } from '../state/session.svelte'

  /** With a join code one chooses a password instead. */
  let joins = $state(location.hash.startsWith('#/join'))
  let code = $state(new URLSearchParams(location.hash.split('?')[1]).get('code') ?? '')
  let login = $state('')
  let password = $state('')
  let problem = $state('')
  let busy = $state(false)

  async function submit(event: Event) {
    event.preventDefault()
    busy = true
    problem = ''
    try {
      const joined = joins
      await (joins ? session.join(code, password) : session.signIn(login.trim(), password))
      if (joined) location.hash = '#/'
    } catch (error) {
      problem = (error as Error).message
    }
    busy = false
  }
</script>

<div class="mx-auto mt-10 max-w-sm">
  <h1 class="mb-1 text-2xl font-semibold">{joins ? 'Join your class' : 'Sign in'}</h1>
  <p class="mb-6 opacity-80">Write controller logic, run it, and see why it did what it did.</p>
  {#if session.notice}
    <p class="alert mb-4" role="status">{session.notice}</p>
  {/if}
  <form class="flex flex-col gap-4" onsubmit={submit}>
    {#if joins}
      <label class="flex flex-col gap-1">
        <span class="text-sm font-medium">Join code, from your instructor</span>
        <input
          class="input w-full font-mono"
          name="code"
          autocomplete="off"
          required
          bind:value={code}
          placeholder="k7fq-2mzp-dxtw"
        />
      </label>
      <label class="flex flex-col gap-1">
        <span class="text-sm font-medium">A password of your own, ten letters or more</span>
        <input
          class="input w-full"
          name="password"
          type="password"
          autocomplete="new-password"
          minlength="10"
          required
          bind:value={password}
        />
      </label>
    {:else}
      <label class="flex flex-col gap-1">
        <span class="text-sm font-medium">Login</span>
        <input class="input w-full" name="login" autocomplete="username" required bind:value={login} />
      </label>
      <label class="flex flex-col gap-1">
        <span class="text-sm font-medium">Password</span>
        <input
          class="input w-full"
          name="password"
          type="password"
          autocomplete="current-password"
          required
          bind:value={password}
        />
      </label>
    {/if}
    {#if problem}
      <p class="text-error" role="alert">{problem}</p>
    {/if}
    <button class="btn btn-primary" disabled={busy}>{joins ? 'Join' : 'Sign in'}</button>
    <button
      type="button"
      class="btn btn-ghost btn-sm"
      onclick={() => {
        joins = !joins
        problem = ''
      }}>{joins ? 'I have a password already' : 'I have a join code'}</button
    >
  </form>
</div>
