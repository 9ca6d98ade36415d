<script lang="ts">
  // A second program on the same inputs, side by side: one's other language, the starter, an earlier hand-in.
  import { api } from '../api'
  import { session } from '../state/session.svelte'
  import type { Bench } from '../state/bench.svelte'
  import { putBeside, takeAway } from '../state/beside'
  import { programming, words, type Written } from '../state/written.svelte'

  let { bench, draft }: { bench: Bench; draft: Written } = $props()
  let notice = $state('')
  let choice = $state('')
  /** What stays as it was in another language. */
  let said = $state<string[]>([])

  /** The same program in the languages that it is not written in. */
  const translations = (): Other[] =>
    programming
      .filter((l) => l !== draft.language && draft.core)
      .map((l) => ({
        label: `the same in ${words[l].toLowerCase()}`,
        text: async () => {
          const { text, told } = await draft.core!.convert({ file: draft.file, text: draft.text }, l)
          said = told
          return { file: 'same.' + l, text }
        },
      }))

  interface Other {
    label: string
    text: () => Promise<{ file: string; text: string }>
  }
  // svelte-ignore state_referenced_locally
  const others = api.handins(draft.exercise.name).then(
    ({ items }): Other[] => [
      { label: 'this program as it is now', text: async () => ({ file: draft.file, text: draft.text }) },
      ...translations(),
      ...draft.others().map((o) => ({ label: o.label, text: async () => o })),
      ...items.map((h) => ({
        label: `hand-in ${h.number}${h.person.login === session.person?.login ? '' : ' of ' + h.person.name}`,
        text: async () => api.handin(String(h.id)).then((h) => ({ file: h.file, text: h.text ?? '' })),
      })),
    ],
    (): Other[] => [...translations(), ...draft.others().map((o) => ({ label: o.label, text: async () => o }))],
  )

  async function choose(other: Other | undefined) {
    notice = ''
    said = []
    takeAway(bench)
    if (!other) return
    try {
      const { file, text } = await other.text()
      notice = await putBeside(bench, draft.exercise, file, text)
    } catch (error) {
      notice = (error as Error).message
    }
  }
</script>

{#await others then list}
  <label class="flex flex-wrap items-center gap-2 text-sm"
    >Side by side with
    <select
      class="select select-sm w-56"
      aria-label="Side by side with"
      bind:value={choice}
      onchange={() => choose(list.find((o) => o.label === choice))}
    >
      <option value="">nothing</option>
      {#each list as o (o.label)}<option value={o.label}>{o.label}</option>{/each}
    </select>
    {#if bench.partner}
      {#if bench.differs >= 0}
        <span role="status">The two first differ at scan {bench.differs} here.</span><button
          class="btn btn-xs"
          onclick={() => bench.look(bench.differs)}>Go there</button
        >
      {:else}<span role="status">No difference in what is shown so far.</span>{/if}
    {/if}
  </label>
{/await}
{#each said as line (line)}<p class="text-sm">{line}</p>{/each}
{#if notice}<p class="alert alert-soft" role="alert">{notice}</p>{/if}
