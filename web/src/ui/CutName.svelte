<script lang="ts">
  import { halves } from '../words/numbers';

  /** A name of which only the beginning is cut where there is no room. A screen reader gets it whole, in one piece. */
  let { name }: { name: string } = $props();

  const [head, tail] = $derived(halves(name));
</script>

<span class="cut"><span class="whole">{name}</span><span aria-hidden="true">{head}</span><span aria-hidden="true">{tail}</span></span>

<style>
  .cut { position: relative; display: flex; min-width: 0; }
  .whole { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap; user-select: none; }
  span span:nth-child(2) { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  span span:last-child { flex: none; white-space: pre; }
</style>
