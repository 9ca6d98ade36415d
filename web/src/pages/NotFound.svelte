<script lang="ts">
</script>

<h1 class="mb-2 text-2xl font-semibold">There is no such page</h1>
<p>Go to <a class="link" href="#/">the exercises</a>.</p>
