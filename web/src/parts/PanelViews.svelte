<script lang="ts">
  // How to look at the panel: its devices, or their wires. It is remembered.
  let { wired = $bindable() }: { wired: boolean } = $props()
  function choose(wires: boolean) {
    wired = wires
    localStorage.setItem('celandine.panel', wires ? 'wiring' : 'devices')
  }
</script>

<div role="tablist" aria-label="How to look at the panel" class="tabs tabs-box tabs-xs self-start">
  <button
    role="tab"
    class="tab text-base-content"
    aria-selected={!wired}
    class:tab-active={!wired}
    onclick={() => choose(false)}>Devices</button
  >
  <button
    role="tab"
    class="tab text-base-content"
    aria-selected={wired}
    class:tab-active={wired}
    onclick={() => choose(true)}>Wires</button
  >
</div>
