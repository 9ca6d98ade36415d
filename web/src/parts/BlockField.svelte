<script lang="ts">
  // What is being written at the cursor of a block diagram, with the names that could stand there.
  import type { Point } from '../api'
  import type { Blocks } from '../state/blocks.svelte'

  let {
    blocks,
    points,
    take,
    leave,
  }: { blocks: Blocks; points: Point[]; take: (text: string) => unknown; leave: () => void } = $props()
  // svelte-ignore state_referenced_locally
  const asked = blocks.asked!
  let text = $state(asked.text)
  let ended = false
  /** What is written is taken, by Enter or by going elsewhere, unless one goes back. */
  function end(takes: boolean) {
    if (ended) return
    ended = true
    if (takes) void take(text)
    else leave()
  }
  const labels = {
    value: 'Value',
    block: 'Function or block',
    target: 'Where it goes',
    line: 'Line',
    eno: 'Where ENO goes',
    title: 'Title',
    comment: 'Comment',
  }
  const hints = {
    value: 'a variable, a number, AND(…)',
    block: 'AND, OR, NOT, TON …',
    target: 'a variable, (S x), (R x)',
    line: 'mist_on => mist_valve',
    eno: 'a variable',
    title: '',
    comment: '',
  }
  const functions = 'AND OR XOR NOT GT GE EQ NE LE LT ADD SUB MUL DIV MOVE SEL LIMIT MIN MAX'.split(' ')
  const own = $derived(blocks.drawing.listed.filter((v) => v.unit === blocks.drawing.place.unit))
  const names = $derived(
    asked.what === 'block'
      ? [...new Set([...functions, ...blocks.drawing.blocks.map((b) => b.name)])]
      : asked.what === 'value' || asked.what === 'target' || asked.what === 'eno'
        ? [...new Set([...points.map((p) => p.name), ...own.map((v) => v.name)])]
        : [],
  )
  const spot = $derived(blocks.spot)
  const aside = $derived(
    asked.what === 'value' || asked.what === 'block' || asked.what === 'target' || asked.what === 'eno',
  )
</script>

<form
  class="absolute z-10 flex"
  style:left="{aside && spot ? Math.max(0, spot.x) : 0}px"
  style:top="{aside && spot ? spot.y - 4 : -4}px"
  onsubmit={(e) => {
    e.preventDefault()
    end(true)
  }}
>
  <input
    class="input input-xs w-56 font-mono"
    aria-label={labels[asked.what]}
    placeholder={hints[asked.what]}
    list="names-for-blocks"
    autocomplete="off"
    bind:value={text}
    onkeydown={(e) => {
      e.stopPropagation()
      if (e.key === 'Escape') end(false)
    }}
    onblur={() => end(text !== asked.text)}
    {@attach (e) => {
      const field = e as HTMLInputElement
      field.focus()
      if (!asked.begun) field.select()
    }}
  />
  <datalist id="names-for-blocks">
    {#each names as n (n)}<option value={n}></option>{/each}
  </datalist>
</form>
