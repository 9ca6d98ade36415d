<script lang="ts">
  // From what is written to what a class works on: what changed, which marks would move, the note, the classes.
  import { api, type Regraded, type Revision } from '../api'
  import { textOf } from '../base64'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import { spoken } from '../zone'
  import GiveForm from './GiveForm.svelte'
  import Shares from './Shares.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const attempt = new Attempt()
  const trying = new Attempt()
  let note = $state('')
  let told = $state('')
  let moves = $state.raw<{ name: string; marks: Regraded }[] | null>(null)
  let revisions = $state.raw<Revision[]>([])
  let differences = $state.raw<string[] | null>(null)
  const errors = $derived(w.problems.filter((p) => p.error))
  const written = $derived(w.version > 0 || w.kept !== 'service')
  const own = $derived(session.person!.login === w.owner || session.person!.role === 'administrator')

  $effect(() => {
    void w.base
    api.revisions(w.owner, w.name).then(
      (list) => (revisions = list),
      (error: Error) => (attempt.problem = error.message),
    )
  })
  const before = $derived(
    w.base
      ? api.revision(w.owner, w.name, w.base).then(({ files }) => {
          const of = files as Record<string, string>
          return Object.fromEntries(Object.entries(of).map(([n, c]) => [n, n.startsWith('pictures/') ? '' : textOf(c)]))
        })
      : Promise.resolve(null),
  )
  $effect(() => {
    const after = w.named
    void before.then(async (was) => {
      differences = was ? await w.core.ask('differences', { before: was, after }) : null
    })
  })

  async function publish() {
    await attempt.do(async () => {
      const { revision } = await w.publish(note)
      told = `Published as revision ${revision}.`
      note = ''
      moves = null
    })
  }
  const tryMarks = () =>
    trying.do(async () => {
      await w.bring()
      const list = []
      for (const c of session.classes) {
        const have = (await api.assignments(c.id)).some((a) => a.name === w.name)
        if (have) list.push({ name: c.name, marks: await api.tryMarks(w.owner, w.name, c.id) })
      }
      moves = list
    })
</script>

<div
  class="grid min-h-0 grow grid-cols-[minmax(0,1fr)] content-start gap-x-8 gap-y-5 overflow-y-auto p-4 lg:grid-cols-2"
>
  <section aria-label="What changed" class="flex flex-col gap-2">
    <h2 class="font-semibold">{w.base ? `Changed since revision ${w.base}` : 'Not published yet'}</h2>
    <ul class="flex flex-col gap-0.5 text-sm" aria-label="What changed">
      {#each differences ?? [] as d, n (n)}<li>{d}</li>{:else}<li class="opacity-80">
          {w.base ? 'Nothing.' : 'Everything is new.'}
        </li>{/each}
    </ul>
    {#if w.base && written}
      <button class="btn self-start btn-sm" disabled={trying.busy} onclick={tryMarks}
        >{trying.busy ? 'Grading …' : 'Which marks would move?'}</button
      >
      {#if trying.problem}<p role="alert" class="text-sm whitespace-pre-line text-error">{trying.problem}</p>{/if}
      {#each moves ?? [] as m (m.name)}
        <div class="text-sm">
          <p class="font-medium">{m.name}: {m.marks.changes.length} of {m.marks.graded} hand-ins</p>
          <ul>
            {#each m.marks.changes as c (c.handin)}<li>
                <a class="link" href="#/handin/{c.handin}">{c.person}, hand-in {c.number}</a>: {c.before} would be {c.after}
              </li>{/each}
          </ul>
        </div>
      {:else}{#if moves}<p class="text-sm">No class of yours has it.</p>{/if}{/each}
      <p class="text-sm opacity-80">
        Marks stay as they are until you grade again; classes work on their revision until you give them this.
      </p>
    {/if}
  </section>
  <section aria-label="Publish" class="flex flex-col gap-2">
    <h2 class="font-semibold">Publish</h2>
    {#if errors.length}
      <p class="text-sm text-error" role="status">
        {errors.length === 1 ? 'One thing is' : `${errors.length} things are`} wrong: {errors[0].message}
        {errors[0].hint}
      </p>
    {/if}
    <label class="text-sm"
      >What changed, for you and your colleagues
      <textarea class="textarea textarea-sm w-full" rows="2" maxlength="2000" bind:value={note}></textarea></label
    >
    <button
      class="btn self-start btn-primary btn-sm"
      disabled={attempt.busy || !written || errors.length > 0 || w.may !== 'change'}
      onclick={publish}>Publish revision {w.newest + 1}</button
    >
    {#if told}<p role="status" class="text-sm font-medium">{told}</p>{/if}
    {#if attempt.problem}<p role="alert" class="text-sm whitespace-pre-line text-error">{attempt.problem}</p>{/if}
    {#if w.newest > 0}<GiveForm workshop={w} />{/if}
  </section>
  <section aria-label="Revisions" class="flex flex-col gap-1">
    <h2 class="font-semibold">Revisions</h2>
    <ol class="flex flex-col gap-1 text-sm" reversed>
      {#each revisions as r (r.number)}
        <li>
          <b class="font-medium">{r.number}</b>
          {spoken(r.at)}, {r.by}, {r.points} points{r.note ? `: ${r.note}` : ''}
        </li>
      {:else}<li class="opacity-80">None yet.</li>{/each}
    </ol>
    <a class="link text-sm" href="/api/library/{w.owner}/{w.name}/zip" download>The folder as a zip</a>
  </section>
  {#if own}
    <section aria-label="Colleagues" class="flex flex-col gap-2">
      <h2 class="font-semibold">Shared with</h2>
      <Shares owner={w.owner} exercise={w.name} />
    </section>
  {/if}
  <details class="text-sm lg:col-span-2">
    <summary class="cursor-pointer font-semibold">The file itself, exercise.yaml</summary>
    <textarea
      class="textarea mt-1 h-72 w-full font-mono text-xs"
      spellcheck="false"
      aria-label="exercise.yaml"
      value={w.files.texts['exercise.yaml']}
      onchange={(e) => w.write('exercise.yaml', e.currentTarget.value)}></textarea>
  </details>
</div>
