<script lang="ts">
  import { copyPath } from './paths';

  /** A path on the server, and a button that copies it. */
  let { path }: { path: string } = $props();
</script>

<div class="path">
  <span class="dim" title={path}><bdi>{path}</bdi></span>
  <button class="plain" aria-label="Copy the path {path}" onclick={() => void copyPath(path)}>Copy</button>
</div>

<style>
  .path { display: flex; gap: 10px; align-items: baseline; min-width: 0; }
  /* The end of a path tells more than its beginning. */
  span { min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; direction: rtl; text-align: left; }
  button { flex: none; }
</style>
