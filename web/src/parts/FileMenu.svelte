<script lang="ts">
  // A program comes from a file, or goes into one: as text, or in the exchange format.
  import { api, type Diagnostic } from '../api'
  import { give, textOf } from '../file'
  import { Attempt } from '../state/attempt.svelte'
  import type { Written } from '../state/written.svelte'
  import Diagnostics from './Diagnostics.svelte'

  let { draft }: { draft: Written } = $props()
  let menu = $state<HTMLDetailsElement>()
  let dialog = $state<HTMLDialogElement>()
  let field = $state<HTMLInputElement>()
  let name = $state('')
  let told = $state.raw<Diagnostic[]>([])
  let says = $state('')
  const attempt = new Attempt()

  async function open(files: FileList | null) {
    const file = files?.[0]
    if (!file) return
    name = file.name
    told = []
    says = ''
    await attempt.do(async () => {
      let text = await textOf(file)
      if (/\.xml$/i.test(name)) {
        const read = await api.readExchange(name, text)
        told = read.diagnostics
        if (told.some((d) => d.severity === 'error'))
          throw new Error(`${name} was not opened; your program is as it was.`)
        text = read.text
      }
      says = await draft.open(text)
    })
    if (field) field.value = ''
    if (attempt.problem || told.length || says) dialog?.showModal()
  }
  const save = (form: 'text' | 'xml' | 'xml-2009') =>
    attempt
      .do(async () => {
        if (menu) menu.open = false
        const file = draft.file.slice(draft.file.lastIndexOf('/') + 1)
        if (form === 'text') return give(file, draft.text)
        const written = await api.writeExchange(file, draft.text, form)
        told = written.diagnostics
        name = file
        if (!written.text) throw new Error('It was not saved: a program that cannot be read has no exchange file.')
        give(written.file, written.text)
      })
      .then((done) => done || dialog?.showModal())
  function choose() {
    if (menu) menu.open = false
    field?.click()
  }
</script>

<svelte:window onclick={(e) => menu?.open && !menu.contains(e.target as Node) && (menu.open = false)} />
<details class="dropdown dropdown-end" bind:this={menu}>
  <summary class="btn btn-ghost btn-xs">File</summary>
  <ul class="menu dropdown-content z-40 w-72 rounded-box border border-base-300 bg-base-100 p-1 shadow">
    <li><button onclick={choose}>Open a file …</button></li>
    <li><button onclick={() => save('text')}>Save as text</button></li>
    <li><button onclick={() => save('xml')}>Save as an exchange file (XML)</button></li>
    <li><button onclick={() => save('xml-2009')}>Save as an older exchange file</button></li>
  </ul>
</details>
<input
  bind:this={field}
  type="file"
  hidden
  accept=".ladder,.fbd,.st,.xml"
  aria-label="A program’s file"
  onchange={(e) => open(e.currentTarget.files)}
/>
<dialog bind:this={dialog} class="modal" aria-label="About the file">
  <div class="modal-box flex max-w-2xl flex-col gap-3">
    <h2 class="text-lg font-semibold">{name}</h2>
    {#if attempt.problem}<p role="alert" class="text-error">{attempt.problem}</p>{/if}
    {#if says}<p>{says}</p>{/if}
    {#if told.length}<Diagnostics list={told} />{/if}
    <form method="dialog"><button class="btn btn-sm">Close</button></form>
  </div>
</dialog>
