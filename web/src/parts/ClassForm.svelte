<script lang="ts">
  // What a class is: its name, its time, which hand-in counts.
  import type { Class } from '../api'
  import { Attempt } from '../state/attempt.svelte'

  let {
    settings,
    words,
    send,
  }: { settings: Omit<Class, 'id'>; words: string; send: (s: Omit<Class, 'id'>) => Promise<void> } = $props()
  // svelte-ignore state_referenced_locally
  let s = $state({ name: settings.name, timeZone: settings.timeZone, counts: settings.counts })
  const attempt = new Attempt()
  const zones = Intl.supportedValuesOf('timeZone')
  const id = $props.id()
</script>

<form
  class="flex max-w-md flex-col gap-3 text-sm"
  onsubmit={(e) => {
    e.preventDefault()
    void attempt.do(() => send({ ...s }))
  }}
>
  <label class="flex flex-col gap-1"
    >Name <input class="input input-sm w-full" required maxlength="100" bind:value={s.name} /></label
  >
  <label class="flex flex-col gap-1"
    >Time zone <input class="input input-sm w-full" required list="{id}-zones" bind:value={s.timeZone} /></label
  >
  <datalist id="{id}-zones"
    >{#each zones as z (z)}<option value={z}></option>{/each}</datalist
  >
  <p class="opacity-80">Due times are read, and late days counted, in this zone.</p>
  <fieldset class="flex flex-col gap-1">
    <legend class="mb-1">Of a learner’s hand-ins to an exercise</legend>
    <label class="flex items-center gap-2"
      ><input type="radio" class="radio radio-sm" name="{id}-counts" value="best" bind:group={s.counts} /> the best counts</label
    >
    <label class="flex items-center gap-2"
      ><input type="radio" class="radio radio-sm" name="{id}-counts" value="last" bind:group={s.counts} /> the last counts</label
    >
  </fieldset>
  {#if attempt.problem}<p class="text-error" role="alert">{attempt.problem}</p>{/if}
  <button class="btn btn-primary btn-sm self-start">{words}</button>
</form>
