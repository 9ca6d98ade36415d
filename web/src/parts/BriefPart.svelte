<script lang="ts">
  // The task in words: written on the left, as learners see it on the right, with what it leaves untold.
  import { api } from '../api'
  import { base64Of } from '../base64'
  import { nameFor } from '../names'
  import type { Workshop } from '../state/workshop.svelte'
  import BriefEditor from './BriefEditor.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const text = $derived(w.files.texts['brief.md'] ?? '')
  const points = $derived([...w.exercise!.inputs, ...w.exercise!.outputs])
  const names = $derived(points.map((p) => ({ name: p.name, label: p.label })))
  let html = $state('')
  let problem = $state('')
  let editor = $state<BriefEditor>()

  $effect(() => {
    const written = text
    const later = setTimeout(
      () =>
        api.preview(written).then(
          (p) => (html = p.html),
          (error: Error) => (problem = error.message),
        ),
      300,
    )
    return () => clearTimeout(later)
  })
  const types: Record<string, string> = {
    png: 'image/png',
    jpg: 'image/jpeg',
    jpeg: 'image/jpeg',
    gif: 'image/gif',
    webp: 'image/webp',
  }
  /** The pictures of the folder stand in the preview before the service has them. */
  const shown = $derived(
    html.replace(/src="(pictures\/[^"]+)"/g, (whole, name: string) => {
      const shown = w.picture64(decodeURI(name))
      return shown ? `src="${shown}"` : whole
    }),
  )

  async function take(files: Iterable<File>) {
    for (const file of files) {
      const ending = '.' + (file.type.split('/')[1] ?? '').replace('jpeg', 'jpg')
      if (!Object.values(types).includes(file.type))
        problem = `${file.name} is no picture that a page can show; take a PNG, JPEG, GIF or WebP.`
      else if (file.size > 1 << 20)
        problem = `${file.name} has ${(file.size / 1048576).toFixed(1)} MB; a picture may have 1 MB. Make it smaller.`
      else {
        problem = ''
        const stem = nameFor(file.name.replace(/\.\w+$/, '')) || 'picture'
        const name = w.free('pictures/' + stem, ending)
        w.picture(name, base64Of(new Uint8Array(await file.arrayBuffer())))
        editor?.put(`![${stem.replaceAll('-', ' ')}](${name})`)
      }
    }
  }
</script>

<div class="grid min-h-0 grow grid-cols-[minmax(0,1fr)] overflow-y-auto lg:grid-cols-2 lg:overflow-hidden">
  <section aria-label="Brief" class="flex min-h-80 flex-col gap-2 p-3">
    <div class="flex flex-wrap items-center gap-2 text-sm">
      <span class="opacity-80">Markdown: **bold**, - a list, `a name`. Pictures by dragging or pasting, or</span>
      <label class="btn btn-xs"
        >choose one <input
          type="file"
          class="sr-only"
          accept="image/png,image/jpeg,image/gif,image/webp"
          onchange={(e) => take(e.currentTarget.files ?? [])}
        /></label
      >
    </div>
    {#if problem}<p role="alert" class="text-sm text-error">{problem}</p>{/if}
    <BriefEditor bind:this={editor} {text} {names} change={(t) => w.write('brief.md', t, true)} pictures={take} />
  </section>
  <section
    aria-label="As learners see it"
    class="flex flex-col gap-3 border-base-300 p-3 lg:overflow-y-auto lg:border-l"
  >
    <h2 class="text-sm font-semibold">As learners see it</h2>
    <!-- eslint-disable-next-line svelte/no-at-html-tags -- the service lets nothing through that could run -->
    <div class="brief">{@html shown}</div>
    {#if Object.keys(w.files.pictures).length}
      <h2 class="text-sm font-semibold">Pictures</h2>
      <ul class="flex flex-wrap gap-2 text-sm">
        {#each Object.keys(w.files.pictures) as name (name)}
          <li class="flex items-center gap-1">
            <span class="font-mono">{name.slice(9)}</span><button
              class="btn btn-xs"
              onclick={() => w.picture(name, null)}>Take out</button
            >
          </li>
        {/each}
      </ul>
    {/if}
    <h2 class="text-sm font-semibold">What it does not tell</h2>
    <ul class="flex flex-col gap-1 text-sm" aria-label="What the brief does not tell">
      {#each w.judgement?.untold ?? [] as u (u.what + u.name)}
        <li>
          {u.says} The brief does not mention <span class="font-mono">{u.name}</span>.
          <button class="btn btn-xs" onclick={() => editor?.put('`' + u.name + '`')}>Put the name in</button>
        </li>
      {:else}<li class="opacity-80">Every graded name, time and wiring is told.</li>{/each}
    </ul>
  </section>
</div>
