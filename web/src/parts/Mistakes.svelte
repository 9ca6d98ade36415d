<script lang="ts">
  // The class by mistake: what the hand-ins that count behave like, who made it since when, and a word to all of them.
  import { api, type MistakeGroup } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'

  let { groups, looking, exercise }: { groups: MistakeGroup[]; looking: number; exercise: string } = $props()
  let open = $state('')
  let text = $state('')
  let told = $state<Record<string, number>>({})
  const attempt = new Attempt()

  function begin(g: MistakeGroup) {
    open = open === g.key ? '' : g.key!
    text = g.says || g.hint || ''
  }
  const send = (event: Event, g: MistakeGroup) => {
    event.preventDefault()
    return attempt.do(async () => {
      told[g.key!] = (await api.hint(session.class!.id, exercise, g.key!, text)).told
      open = ''
    })
  }
</script>

<section aria-label="By mistake" data-looking={looking}>
  <h2 class="mb-1 font-semibold">By mistake</h2>
  {#if looking}<p class="mb-2 text-sm opacity-80">
      {looking}
      {looking === 1 ? 'hand-in is' : 'hand-ins are'} still to be looked at.
    </p>{/if}
  <ul class="flex flex-col gap-3 text-sm">
    {#each groups as g (g.key)}
      <li class="border-l-4 border-warning pl-3" data-mistake={g.title}>
        <p><b class="tabular-nums">{g.handins.length}×</b> {g.words}</p>
        {#if g.says}<p class="opacity-80">{g.says}</p>{/if}
        <p>
          {#each g.handins as h, n (h.id)}{n ? ', ' : ''}<a class="link" href="#/handin/{h.id}">{h.person}</a
            >{#if h.since > 1}
              <span class="opacity-80">(since hand-in {h.since})</span>{/if}{/each}
        </p>
        <p class="text-xs opacity-80">
          {g.ever === 1 ? 'One learner has' : `${g.ever} learners have`} ever made it, in any class.
        </p>
        {#if told[g.key!]}<p role="status">Said to {told[g.key!]}.</p>{/if}
        {#if open === g.key}
          <form class="mt-1 flex flex-col gap-1" onsubmit={(e) => send(e, g)} aria-label="A word to all of them">
            <textarea class="textarea w-full text-sm" rows="2" required aria-label="What to say" bind:value={text}
            ></textarea>
            <span class="flex gap-1"
              ><button class="btn btn-primary btn-xs" disabled={attempt.busy}
                >Say it to {g.handins.length === 1 ? 'one' : `all ${g.handins.length}`}</button
              ><button type="button" class="btn btn-xs" onclick={() => (open = '')}>Leave it</button></span
            >
            {#if attempt.problem}<p role="alert" class="text-error">{attempt.problem}</p>{/if}
          </form>
        {:else}<button class="btn mt-1 btn-xs" onclick={() => begin(g)}>A word to all of them</button>{/if}
      </li>
    {:else}<li>No hand-in that counts behaves like a known mistake.</li>{/each}
  </ul>
</section>
