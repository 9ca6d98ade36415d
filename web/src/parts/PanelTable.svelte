<script lang="ts">
  import type { Exercise, Point } from '../api'
  import TableFrame from './TableFrame.svelte'

  let { exercise }: { exercise: Exercise } = $props()

  function wiring(p: Point): string {
    if (p.type !== 'BOOL') return p.unit ? `in ${p.unit}` : ''
    return p.contact === 'closed' ? 'normally closed: TRUE at rest' : 'normally open: FALSE at rest'
  }
</script>

<TableFrame label="Wiring">
  <table class="table table-sm">
    <thead>
      <tr class="text-base-content"
        ><th scope="col">Name</th><th scope="col">Address</th><th scope="col">Device</th><th scope="col">Wiring</th></tr
      >
    </thead>
    <tbody>
      {#each exercise.inputs as p (p.name)}
        <tr>
          <th scope="row" class="font-mono font-medium">{p.name}</th>
          <td class="font-mono">{p.at}</td>
          <td>{p.label} <span class="opacity-75">({p.device}{p.type === 'BOOL' ? '' : ', ' + p.type})</span></td>
          <td>{wiring(p)}</td>
        </tr>
      {/each}
      {#each exercise.outputs as p (p.name)}
        <tr>
          <th scope="row" class="font-mono font-medium">{p.name}</th>
          <td class="font-mono">{p.at}</td>
          <td>{p.label} <span class="opacity-75">({p.device}{p.type === 'BOOL' ? '' : ', ' + p.type})</span></td>
          <td>output</td>
        </tr>
      {/each}
    </tbody>
  </table>
</TableFrame>
