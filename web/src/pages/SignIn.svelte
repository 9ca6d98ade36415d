<script lang="ts">
  import { session } from '../state/session.svelte'

  let login = $state('')
  let password = $state('')
  let problem = $state('')
  let busy = $state(false)

  async function submit(event: Event) {
    event.preventDefault()
    busy = true
    problem = ''
    try {
      await session.signIn(login.trim(), password)
    } catch (error) {
      problem = (error as Error).message
    }
    busy = false
  }
</script>

<div class="mx-auto mt-10 max-w-sm">
  <h1 class="mb-1 text-2xl font-semibold">Sign in</h1>
  <p class="mb-6 opacity-80">Write controller logic, run it, and see why it did what it did.</p>
  {#if session.notice}
    <p class="alert mb-4" role="status">{session.notice}</p>
  {/if}
  <form class="flex flex-col gap-4" onsubmit={submit}>
    <label class="flex flex-col gap-1">
      <span class="text-sm font-medium">Login</span>
      <input class="input w-full" name="login" autocomplete="username" required bind:value={login} />
    </label>
    <label class="flex flex-col gap-1">
      <span class="text-sm font-medium">Password</span>
      <input class="input w-full" name="password" type="password" autocomplete="current-password" required bind:value={password} />
    </label>
    {#if problem}
      <p class="text-error" role="alert">{problem}</p>
    {/if}
    <button class="btn btn-primary" disabled={busy}>Sign in</button>
  </form>
</div>
