<script lang="ts">
  import { thumb } from './thumbs';

  interface Props {
    photo: number;
    version: number;
    /** Changes with the picture. */
    picture: string;
    edge: number;
    alt?: string;
    title?: string;
    checker?: boolean;
    /** CSS pixels; the room it stands in where they are left out. */
    width?: number;
    height?: number;
  }
  /** A cell's picture; the old one stays until the new one has come. */
  let { photo, version, picture, edge, alt = '', title, checker = false, width, height }: Props = $props();

  let shown = $state('');
  $effect(() => thumb({ photo, version, key: picture, edge }, (address) => (shown = address)));
</script>

<img
  class:checker
  src={shown || undefined}
  {alt}
  {title}
  decoding="async"
  style:width={width === undefined ? undefined : `${width}px`}
  style:height={height === undefined ? undefined : `${height}px`}
  draggable="false"
/>

<style>
  img { display: block; object-fit: fill; background-color: var(--empty); }
</style>
