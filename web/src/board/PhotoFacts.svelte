<script lang="ts">
  import type { Photo } from '../api/client';
  import { bytes, pixels } from '../words/numbers';
  import { firstPicture, photoPicture } from '../ui/pictures';

  interface Props {
    photo: Photo;
    height?: number;
    facts?: boolean;
    onpress: (event: MouseEvent) => void;
  }
  let { photo, height = 134, facts = true, onpress }: Props = $props();

  /** Not every raw file holds a picture of its camera's. */
  let failed = $state(false);

  const shape = $derived(photo.width === photo.height ? 'square' : photo.width > photo.height ? 'landscape' : 'portrait');
  const kind = $derived(
    [
      photo.format,
      photo.depth > 8 ? `${photo.depth} bit` : '8 bit',
      photo.mode !== 'RGB' ? photo.mode : '',
      photo.profile ?? 'no profile',
      photo.alpha ? 'transparent' : '',
    ]
      .filter(Boolean)
      .join(' · '),
  );
  const scale = $derived(Math.min(88 / Math.max(1, photo.width), Math.max(30, height - 34) / Math.max(1, photo.height)));
</script>

<!-- svelte-ignore a11y_click_events_have_key_events -->
<div class="photo" role="rowheader" aria-colindex="1" tabindex="-1" onclick={onpress} data-photo={photo.id} data-state={photo.state}>
  <div class="picture">
    {#if photo.state === 'ready'}
      <img
        class:checker={photo.alpha}
        src={photoPicture(photo, 200)}
        alt=""
        style:width="{photo.width * scale}px"
        style:height="{photo.height * scale}px"
        draggable="false"
      />
    {:else if photo.early && !failed}
      <img src={firstPicture(photo)} alt="" style:max-width="88px" style:max-height="{Math.max(30, height - 34)}px" draggable="false" onerror={() => (failed = true)} />
    {:else}
      <div class="none" class:bad={photo.state !== 'waiting'}>{photo.state === 'waiting' ? '…' : '✕'}</div>
    {/if}
  </div>
  <div class="facts">
    <p class="name" title={photo.name}>{photo.name}</p>
    {#if photo.state === 'waiting'}
      <p>being read</p>
      {#if photo.early && !failed}<p title="The small picture in the file, until this photo is developed">camera’s preview</p>{/if}
    {:else if photo.state === 'unreadable'}
      <p class="bad">cannot be read</p>
      <p>{photo.bytes ? bytes(photo.bytes) : '0 B'}</p>
    {:else if photo.state === 'gone'}
      <p class="bad">is gone</p>
    {:else if facts}
      <p>{pixels(photo.width, photo.height)} {shape}{#if photo.toned}{' '}<span class="toned" title="This photo has a tone of its own">· toned</span>{/if}</p>
      {#if height >= 110}
        <p class="kind" title={kind}>{kind}</p>
        <p>{bytes(photo.bytes)}{photo.orientation > 1 ? ' · turned upright' : ''}</p>
      {/if}
    {/if}
  </div>
</div>

<style>
  .photo { display: grid; grid-template-columns: 88px 1fr; gap: 10px; align-items: center; height: 100%; min-width: 0; cursor: default; border-radius: var(--radius); }
  .photo:hover .name { color: var(--accent); }
  .picture { display: grid; place-items: center; }
  img { display: block; }
  .facts { min-width: 0; color: var(--dim); line-height: 16px; }
  .name {
    color: var(--ink); font-weight: 600; font-size: 13px; line-height: 16px; margin-bottom: 2px; overflow-wrap: anywhere;
    display: -webkit-box; -webkit-line-clamp: 3; line-clamp: 3; -webkit-box-orient: vertical; overflow: hidden;
  }
  .kind { overflow: hidden; display: -webkit-box; -webkit-line-clamp: 2; line-clamp: 2; -webkit-box-orient: vertical; }
  .none { width: 64px; height: 48px; display: grid; place-items: center; background: var(--bench); color: var(--dim); font-size: 16px; }
  .none.bad { color: var(--bad); background: var(--bad-soft); }
  .bad { color: var(--bad); }
  .toned { color: var(--accent-deep); }
</style>
