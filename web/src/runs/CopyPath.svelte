<script lang="ts">
  import { say } from '../shell/notices.svelte';

  /** A path on the server, and a button that copies it. */
  let { path, name = 'the path' }: { path: string; name?: string } = $props();

  async function copy(): Promise<void> {
    try {
      await navigator.clipboard.writeText(path);
      say('Copied the path');
    } catch {
      say(`The browser does not let it be copied: ${path}`, { bad: true });
    }
  }
</script>

<div class="path">
  <span class="dim" title={path}><bdi>{path}</bdi></span>
  <button class="plain" aria-label="Copy {name} {path}" onclick={() => void copy()}>Copy</button>
</div>

<style>
  .path { display: flex; gap: 10px; align-items: baseline; min-width: 0; }
  /* The end of a path tells more than its beginning. */
  span { min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; direction: rtl; text-align: left; }
  button { flex: none; }
</style>
