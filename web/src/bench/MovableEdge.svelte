<script lang="ts">
  import { dragging } from './dragging';

  /** The edge between before, on its left, and after: drawn along, or moved by arrows as any slider. In shares of the width. */
  let { at = $bindable() }: { at: number } = $props();

  const within = (share: number) => Math.min(1, Math.max(0, share));

  function slide(event: PointerEvent): void {
    const box = (event.currentTarget as Element).parentElement?.getBoundingClientRect();
    if (box) dragging(event, (_, now) => (at = within((now.clientX - box.left) / box.width)));
  }

  function nudge(event: KeyboardEvent): void {
    const by = { ArrowLeft: -0.02, ArrowDown: -0.02, ArrowRight: 0.02, ArrowUp: 0.02 }[event.key];
    const next = by ? at + by * (event.shiftKey ? 5 : 1) : event.key === 'Home' ? 0 : event.key === 'End' ? 1 : undefined;
    if (next === undefined) return;
    at = within(next);
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div style:left="{at * 100}%" onpointerdown={slide} onkeydown={nudge} role="slider" tabindex="0" aria-label="Edge between before and after" aria-valuemin={0} aria-valuemax={100} aria-valuenow={Math.round(at * 100)}></div>

<style>
  div { position: absolute; top: 0; bottom: 0; width: 15px; margin-left: -7px; cursor: ew-resize; touch-action: none; }
  div::after { content: ''; position: absolute; left: 7px; top: 0; bottom: 0; width: 1.5px; background: #f1f1ef; box-shadow: 0 0 0 0.5px rgb(30 30 29 / 0.6); }
</style>
