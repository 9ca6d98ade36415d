<script lang="ts">
  // Exercises come into a class from another that one teaches, or as a zip of a folder.
  import { api, type Assignment } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'

  let { have, done }: { have: Assignment[]; done: () => void } = $props()
  const id = session.class!.id
  const others = session.classes.filter((c) => c.id !== id)
  let from = $state(others[0]?.id ?? 0)
  const there = $derived(
    from
      ? api.assignments(from).then((all) => all.filter((a) => !have.some((h) => h.name === a.name)))
      : Promise.resolve([]),
  )
  let chosen = $state<string[]>([])
  const attempt = new Attempt()
  let notice = $state('')

  async function add(work: () => Promise<string>) {
    notice = ''
    if (!(await attempt.do(async () => (notice = await work())))) return
    chosen = []
    done()
  }
  const take = () =>
    add(async () => {
      const n = chosen.length
      await api.take(id, from, chosen)
      return n === 1 ? '1 exercise was taken.' : n + ' exercises were taken.'
    })
  async function upload(files: FileList | null) {
    const file = files?.[0]
    if (!file) return
    await add(async () => {
      const bytes = new Uint8Array(await file.arrayBuffer())
      let text = ''
      for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000))
      const pushed = await api.addExercise(btoa(text))
      return `${pushed.name} is stored as revision ${pushed.revision}.`
    })
  }
</script>

<section class="mt-6 grid grid-cols-[minmax(0,1fr)] gap-6 lg:grid-cols-2" aria-label="Add exercises">
  {#if others.length}
    <div class="flex flex-col gap-2">
      <h2 class="font-semibold">Take from another class</h2>
      <select
        class="select select-sm w-full max-w-sm"
        aria-label="Class to take from"
        bind:value={from}
        onchange={() => (chosen = [])}
        >{#each others as c (c.id)}<option value={c.id}>{c.name}</option>{/each}</select
      >
      {#await there then list}
        {#if list.length}
          <label class="flex items-center gap-2 text-sm font-medium"
            ><input
              type="checkbox"
              class="checkbox checkbox-sm"
              checked={chosen.length === list.length}
              onchange={(e) => (chosen = e.currentTarget.checked ? list.map((a) => a.name) : [])}
            /> All</label
          >
          <ul class="flex max-h-60 flex-col gap-1 overflow-auto text-sm">
            {#each list as a (a.name)}<li>
                <label class="flex items-center gap-2"
                  ><input type="checkbox" class="checkbox checkbox-sm" value={a.name} bind:group={chosen} />
                  {a.title}</label
                >
              </li>{/each}
          </ul>
          <button class="btn btn-sm self-start" disabled={!chosen.length} onclick={take}
            >Take {chosen.length || ''}</button
          >
        {:else}<p class="text-sm">This class has all of its exercises.</p>{/if}
      {:catch error}<p class="text-error" role="alert">{error.message}</p>{/await}
    </div>
  {/if}
  <div class="flex flex-col gap-2">
    <h2 class="font-semibold">Add one from a file</h2>
    <p class="text-sm">
      A zip of the exercise’s folder. An exercise of the same name gets a new revision; marks stay as they were graded.
    </p>
    <input
      type="file"
      accept=".zip,application/zip"
      class="file-input file-input-sm"
      aria-label="Exercise file"
      onchange={(e) => upload(e.currentTarget.files)}
    />
  </div>
  {#if notice}<p role="status" class="text-sm">{notice}</p>{/if}
  {#if attempt.problem}<p role="alert" class="text-sm whitespace-pre-line text-error">{attempt.problem}</p>{/if}
</section>
