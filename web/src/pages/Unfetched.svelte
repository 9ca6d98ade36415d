<script lang="ts">
  // A page that could not be fetched: the service is away, or has been renewed since the console was opened.
</script>

<div class="mx-auto w-full max-w-md p-6" role="alert">
  <h1 class="mb-2 text-2xl font-semibold">This page could not be fetched</h1>
  <p class="mb-4">
    The service does not answer just now, or it has been renewed since you opened the console. What you have written is
    kept.
  </p>
  <button class="btn btn-primary" onclick={() => location.reload()}>Load it again</button>
</div>
