<script lang="ts">
  // One value of exercise.yaml, written where it is shown; what is wrong with it stands beneath.
  import type { Workshop } from '../state/workshop.svelte'

  let {
    workshop,
    at,
    value,
    label,
    list,
    wide = false,
    optional = false,
    mono = false,
    kind = 'text',
    named = false,
    told = true,
    usual = '',
  }: {
    workshop: Workshop
    /** Its place: panel/inputs/2/label. */
    at: string
    value: string
    label: string
    /** The id of a list of what could stand here. */
    list?: string
    wide?: boolean
    /** It may be left out. */
    optional?: boolean
    mono?: boolean
    kind?: 'text' | 'number'
    /** It is a point's name, which is meant elsewhere too. */
    named?: boolean
    /** What is wrong with it is told here. */
    told?: boolean
    /** What holds where nothing is written. */
    usual?: string
  } = $props()
  const wrong = $derived(told ? workshop.wrong(at).filter((p) => p.at === at) : [])
  const id = $props.id()

  // An answer of the core never takes the place of what is being typed.
  let field = $state<HTMLInputElement>()
  let written = ''
  $effect(() => {
    const now = value
    if (field && (document.activeElement !== field || field.value === written)) field.value = now
    written = now
  })

  async function put(field: HTMLInputElement) {
    const text = field.value.trim()
    if (text === value) return
    const done = named
      ? await workshop.change('rename', { at: at.replace(/\/name$/, ''), to: text })
      : await workshop.put(
          at,
          optional && !text
            ? undefined
            : kind === 'number' && text !== '' && !isNaN(Number(text))
              ? Number(text)
              : text,
        )
    if (!done) field.value = value
  }
</script>

<input
  bind:this={field}
  class="input {wide ? 'input-sm w-full min-w-64' : 'w-full min-w-14 input-xs'} {mono ? 'font-mono' : ''}"
  class:input-error={wrong.some((p) => p.error)}
  class:input-warning={wrong.length > 0 && !wrong.some((p) => p.error)}
  aria-label={label}
  aria-invalid={wrong.some((p) => p.error)}
  aria-describedby={wrong.length ? id : undefined}
  {list}
  data-at={at}
  placeholder={usual}
  onchange={(e) => put(e.currentTarget)}
  onkeydown={(e) => e.key === 'Enter' && put(e.currentTarget)}
/>
{#if wrong.length}
  <p {id} class="mt-0.5 text-xs font-normal" class:text-error={wrong.some((p) => p.error)}>
    {#each wrong as p (p.message)}<span class="block">{p.message} {p.hint}</span>{/each}
  </p>
{/if}
