<script lang="ts">
  // What a class is: its name, its time, which hand-in counts.
  import type { Class } from '../api'

  let { settings, words, send }: { settings: Omit<Class, 'id'>; words: string; send: (s: Omit<Class, 'id'>) => Promise<void> } = $props()
  // svelte-ignore state_referenced_locally
  let s = $state({ name: settings.name, timeZone: settings.timeZone, counts: settings.counts })
  let problem = $state('')
  const zones = Intl.supportedValuesOf('timeZone')
  const id = $props.id()

  async function submit(event: Event) {
    event.preventDefault()
    problem = ''
    try {
      await send({ ...s })
    } catch (error) {
      problem = (error as Error).message
    }
  }
</script>

<form class="flex max-w-md flex-col gap-3 text-sm" onsubmit={submit}>
  <label class="flex flex-col gap-1">Name <input class="input input-sm w-full" required maxlength="100" bind:value={s.name} /></label>
  <label class="flex flex-col gap-1">Time zone <input class="input input-sm w-full" required list="{id}-zones" bind:value={s.timeZone} /></label>
  <datalist id="{id}-zones">{#each zones as z (z)}<option value={z}></option>{/each}</datalist>
  <p class="opacity-80">Due times are read, and late days counted, in this zone.</p>
  <fieldset class="flex flex-col gap-1">
    <legend class="mb-1">Of a learner’s hand-ins to an exercise</legend>
    <label class="flex items-center gap-2"><input type="radio" class="radio radio-sm" name="{id}-counts" value="best" bind:group={s.counts} /> the best counts</label>
    <label class="flex items-center gap-2"><input type="radio" class="radio radio-sm" name="{id}-counts" value="last" bind:group={s.counts} /> the last counts</label>
  </fieldset>
  {#if problem}<p class="text-error" role="alert">{problem}</p>{/if}
  <button class="btn btn-primary btn-sm self-start">{words}</button>
</form>
