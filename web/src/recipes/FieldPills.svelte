<script lang="ts">
  interface Props {
    /** Whether the words that a photo may lack are offered too, with what stands in for them. */
    words?: boolean;
    /** Whether it is a text that is seen: all words, and no numbers of files. */
    texts?: boolean;
    onadd: (field: string) => void;
  }
  /** The fields of patterns, to be added at the end. */
  let { words = false, texts = false, onadd }: Props = $props();

  const FIELDS = ['stem', 'recipe', 'shelf', 'n:03', 'panel', 'width', 'height', 'ratio', 'date:%Y-%m-%d', 'tray', 'folder', 'original'];
  const TEXTS = ['creator', 'credit', 'rights', 'title or stem', 'date:%Y', 'n:03', 'shelf', 'tray'];
  const fields = $derived(texts ? TEXTS : words ? ['title or stem', 'creator', ...FIELDS] : FIELDS);
</script>

<div class="fields">
  <span class="dim">Add</span>
  {#each fields as field (field)}<button class="pill ring" onclick={() => onadd(field)}>{`{${field.split(':')[0]}}`}</button>{/each}
</div>

<style>
  .fields { display: flex; gap: 4px; flex-wrap: wrap; align-items: center; }
  .fields .pill { padding: 1px 8px; font-size: 11px; }
</style>
