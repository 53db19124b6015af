<script lang="ts">
  import { halves } from '../words/numbers';

  /** A name of which only the beginning is cut where there is no room. */
  let { name }: { name: string } = $props();

  const [head, tail] = $derived(halves(name));
</script>

<span class="cut"><span>{head}</span><span>{tail}</span></span>

<style>
  .cut { display: flex; min-width: 0; }
  span span:first-child { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  span span:last-child { flex: none; white-space: pre; }
</style>
