<script lang="ts">
  // The script as a list of steps, in words that can be changed one by one.
  import X from '@lucide/svelte/icons/x'
  import type { Script } from '../state/script.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { script }: { script: Script } = $props()
  const w = $derived(script.workshop)
  const steps = $derived(script.form?.steps ?? [])
  const words: Record<string, string> = {
    press: 'press',
    release: 'let go of',
    tap: 'press and let go of',
    switch_on: 'switch on',
    switch_off: 'switch off',
    set: 'set',
    break_wire: 'break the wire of',
    mend_wire: 'mend the wire of',
    force: 'force',
    unforce: 'release the force of',
    write: 'write',
    restart: 'loss of supply and return',
  }
  let verb = $state('')
  let name = $state('')
  let value = $state('')
  let at = $state('')
  const names = $derived(script.lanes.map((l) => l.label))
  const inputs = $derived(script.inputs?.signals.map((c) => c.name) ?? [])
  const valued = $derived(verb === 'force' || verb === 'write' || verb === 'set')
  const choices = $derived(
    ['force', 'write', 'unforce'].includes(verb) ? (w.judgement?.signals.map((s) => s.name) ?? names) : inputs,
  )
  /** Where a tap has no length of its own, it is so long. */
  const unsaid = '200ms'

  async function add(event: Event) {
    event.preventDefault()
    const found = at
      ? await w.core.ask('scanOf', { period: w.outline!.period, text: at.trim() }).catch((error: Error) => error)
      : { scan: script.stretch?.from ?? 0 }
    if (found instanceof Error) return void (w.problem = found.message)
    const done = await script.add(found.scan, {
      at: '',
      verb,
      object: verb === 'restart' ? 'true' : valued ? '' : name,
      values: valued ? [{ name, value }] : [],
      for: verb === 'tap' ? value : '',
      every: '',
      times: '',
    })
    if (done) value = at = ''
  }
</script>

{#if script.form?.script}
  <p class="text-sm">
    The script is the table <span class="font-mono">{script.form.script}</span>.
    <button class="btn btn-xs" onclick={() => w.change('steps', { scenario: script.number })}>Make steps of it</button>
  </p>
{:else}
  <ol class="flex flex-col gap-1 text-sm" aria-label="Steps">
    {#each steps as s, n (n)}
      {@const at = `${script.at}/steps/${n}`}
      <li class="flex flex-wrap items-start gap-x-2">
        <span class="w-24"><WrittenCell workshop={w} at="{at}/at" value={s.at} label="When" mono /></span>
        <span class="pt-1"
          >{words[s.verb] ?? s.verb}
          {#if s.values.length}{#each s.values as v (v.name)}<span class="font-mono">{v.name}</span> to
              <span class="inline-block w-20 align-middle"
                ><WrittenCell
                  workshop={w}
                  at="{at}/{s.verb}/{v.name}"
                  value={v.value}
                  label="Value of {v.name}"
                  mono
                /></span
              >{/each}{:else if s.verb !== 'restart'}<span class="font-mono">{s.object}</span>{/if}</span
        >
        {#if s.verb === 'tap'}
          <label class="flex items-center gap-1"
            >for <span class="w-20"
              ><WrittenCell workshop={w} at="{at}/for" value={s.for} label="For" optional usual="200ms" mono /></span
            ></label
          >
          <label class="flex items-center gap-1"
            >every <span class="w-20"
              ><WrittenCell workshop={w} at="{at}/every" value={s.every} label="Every" optional mono /></span
            ></label
          >
          <label class="flex items-center gap-1"
            >times <span class="w-14"
              ><WrittenCell
                workshop={w}
                at="{at}/times"
                value={s.times}
                label="Times"
                kind="number"
                optional
                usual="1"
                mono
              /></span
            ></label
          >
        {/if}
        <button
          class="btn btn-square btn-ghost btn-xs"
          aria-label="Take the step at {s.at} out"
          onclick={() => script.remove(n)}><X size={14} /></button
        >
      </li>
    {:else}<li class="opacity-80">
        Nothing is done to the devices yet. Choose a stretch of an input’s lane, or record by hand.
      </li>
    {/each}
  </ol>
  <form class="flex flex-wrap items-end gap-2 text-sm" onsubmit={add} aria-label="Another step">
    <label class="flex flex-col"
      >Also at <input
        class="input input-xs w-24 font-mono"
        data-field="at"
        placeholder={script.stretch ? 'stretch' : '1.5s'}
        bind:value={at}
      /></label
    >
    <label class="flex flex-col"
      >do <select class="select select-xs w-44" required bind:value={verb}
        ><option value="" disabled>choose</option>{#each Object.entries(words) as [v, says] (v)}<option value={v}
            >{says}</option
          >{/each}</select
      ></label
    >
    {#if verb && verb !== 'restart'}
      <label class="flex flex-col"
        >what <select class="select select-xs w-40 font-mono" required bind:value={name}
          ><option value="" disabled>choose</option>{#each choices as n (n)}<option value={n}>{n}</option
            >{/each}</select
        ></label
      >
    {/if}
    {#if valued}<label class="flex flex-col"
        >to <input class="input input-xs w-20 font-mono" data-field="value" required bind:value /></label
      >{/if}
    {#if verb === 'tap'}<label class="flex flex-col"
        >for <input class="input input-xs w-20 font-mono" data-field="value" placeholder={unsaid} bind:value /></label
      >{/if}
    <button class="btn btn-xs">Add the step</button>
  </form>
{/if}
