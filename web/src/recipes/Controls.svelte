<script lang="ts">
  import ColorControls from './ColorControls.svelte';
  import CutoutControls from './CutoutControls.svelte';
  import type { StationName } from './draft';
  import FinishControls from './FinishControls.svelte';
  import FileControls from './FileControls.svelte';
  import FrameControls from './FrameControls.svelte';
  import type { LineState } from './line.svelte';
  import NameControls from './NameControls.svelte';
  import PlaceControls from './PlaceControls.svelte';
  import PrepControls from './PrepControls.svelte';
  import SharpenControls from './SharpenControls.svelte';
  import SizeControls from './SizeControls.svelte';

  /** The controls of one station. */
  interface Props {
    line: LineState;
    name: StationName;
    /** Where the sample is looked at closely. */
    look?: string | undefined;
    /** Where the sample's outline is. */
    outline?: string | undefined;
  }
  let { line, name, look, outline }: Props = $props();
</script>

{#if name === 'frame'}
  <FrameControls {line} />
{:else if name === 'cutout'}
  <CutoutControls {line} {outline} />
{:else if name === 'size'}
  <SizeControls {line} />
{:else if name === 'prep'}
  <PrepControls {line} />
{:else if name === 'sharpen'}
  <SharpenControls {line} />
{:else if name === 'finish'}
  <FinishControls {line} />
{:else if name === 'color'}
  <ColorControls {line} />
{:else if name === 'file'}
  <FileControls {line} {look} />
{:else if name === 'name'}
  <NameControls {line} />
{:else}
  <PlaceControls {line} />
{/if}
