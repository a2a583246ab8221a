<script lang="ts">
  import { page } from '$app/state';
</script>

<section class="p-8">
  <h1 class="text-xl font-semibold">{page.error?.message}</h1>
  <p class="mt-2"><a class="link" href="/">Back to the Floor</a></p>
</section>
