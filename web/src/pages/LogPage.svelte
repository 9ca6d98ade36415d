<script lang="ts">
  // Who changed what that a mark may depend on.
  import { api, type AuditEntry } from '../api'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import TableFrame from '../parts/TableFrame.svelte'

  const id = session.class!.id
  let entries = $state<AuditEntry[]>([])
  let next = $state<string | undefined>('')
  let problem = $state('')
  async function more() {
    try {
      const page = await api.audit(id, next)
      entries = [...entries, ...page.items]
      next = page.next
    } catch (error) {
      problem = (error as Error).message
    }
  }
  void more()
  const facts = (v: unknown) =>
    v === null || v === undefined
      ? ''
      : typeof v === 'object'
        ? Object.entries(v as object)
            .map(([k, x]) => `${k} ${x === null ? '–' : typeof x === 'object' ? JSON.stringify(x) : x}`)
            .join(', ')
        : String(v)
</script>

<h1 class="mb-1 text-2xl font-semibold">Log</h1>
<p class="mb-4 opacity-80">Everything that a mark may depend on, newest first. It cannot be changed.</p>
{#if problem}<p class="alert" role="alert">{problem}</p>{/if}
<TableFrame label="Log">
  <table class="table table-sm">
    <thead
      ><tr class="text-base-content"
        ><th scope="col">When</th><th scope="col">Who</th><th scope="col">What</th><th scope="col">Before</th><th
          scope="col">After</th
        ></tr
      ></thead
    >
    <tbody>
      {#each entries as e (e.id)}
        <tr
          ><td class="whitespace-nowrap">{spoken(e.at, session.class!.timeZone)}</td><td class="whitespace-nowrap"
            >{e.by || 'the service’s machine'}</td
          ><td>{e.action}: {e.subject}</td><td class="text-xs">{facts(e.before)}</td><td class="text-xs"
            >{facts(e.after)}</td
          ></tr
        >
      {:else}<tr><td colspan="5">Nothing has been changed yet.</td></tr>{/each}
    </tbody>
  </table>
</TableFrame>
{#if next}<button class="btn btn-sm mt-3" onclick={more}>Older</button>{/if}
