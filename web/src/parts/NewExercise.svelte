<script lang="ts">
  // Where an exercise begins: with nothing, with a lesson's, or with a zip of a folder.
  import { api, type Beginning } from '../api'
  import { base64Of } from '../base64'
  import { focused } from '../focus'
  import { Attempt } from '../state/attempt.svelte'
  import Loading from './Loading.svelte'

  let { end }: { end: () => void } = $props()
  const lessons = api.lessons()
  let title = $state('')
  let lesson = $state('')
  const attempt = new Attempt()

  async function begin(what: Beginning) {
    let at = ''
    const begun = await attempt.do(async () => {
      const w = await api.beginExercise(what)
      at = `#/workshop/${w.owner}/${w.name}`
    })
    if (begun) location.hash = at
  }
  function submit(event: Event) {
    event.preventDefault()
    void begin(lesson ? { title, lesson } : { title })
  }
  async function upload(files: FileList | null) {
    const file = files?.[0]
    if (file) await begin({ folder: { zip: base64Of(new Uint8Array(await file.arrayBuffer())) } })
  }
</script>

<form
  class="mb-5 flex flex-col gap-3 rounded-box border border-base-300 bg-base-200 p-4"
  aria-label="New exercise"
  onsubmit={submit}
>
  <label class="flex max-w-md flex-col gap-1 text-sm"
    >Title, as learners see it
    <input class="input input-sm w-full" bind:value={title} required maxlength="200" {@attach focused} />
  </label>
  <Loading what={lessons}>
    {#snippet children(list)}
      <fieldset>
        <legend class="mb-1 text-sm">Begin with</legend>
        <div class="grid max-h-72 gap-1 overflow-y-auto md:grid-cols-2">
          <label class="flex items-start gap-2 rounded-field p-1.5 text-sm hover:bg-base-300">
            <input type="radio" class="radio radio-sm mt-0.5" value="" bind:group={lesson} />
            <span><b class="font-medium">Nothing</b><span class="block opacity-80">A blank exercise.</span></span>
          </label>
          {#each list as l (l.name)}
            <label class="flex items-start gap-2 rounded-field p-1.5 text-sm hover:bg-base-300">
              <input type="radio" class="radio radio-sm mt-0.5" value={l.name} bind:group={lesson} />
              <span><b class="font-medium">{l.title}</b><span class="block opacity-80">{l.behaviour}</span></span>
            </label>
          {/each}
        </div>
      </fieldset>
    {/snippet}
  </Loading>
  <div class="flex flex-wrap items-center gap-3">
    <button class="btn btn-primary btn-sm" disabled={attempt.busy}>Begin</button>
    <button type="button" class="btn btn-ghost btn-sm" onclick={end}>Not now</button>
    <label class="ml-auto flex flex-wrap items-center gap-2 text-sm"
      >or from a zip of a folder
      <input
        type="file"
        accept=".zip,application/zip"
        class="file-input file-input-sm"
        aria-label="A zip of an exercise’s folder"
        onchange={(e) => upload(e.currentTarget.files)}
      />
    </label>
  </div>
  {#if attempt.problem}<p role="alert" class="text-sm whitespace-pre-line text-error">{attempt.problem}</p>{/if}
</form>
