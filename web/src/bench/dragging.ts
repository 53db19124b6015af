import type { Vector } from './geometry';

/** Follow the pointer from where it was pressed until it is let go: how far it has come, in screen pixels. */
export function dragging(event: PointerEvent, move: (by: Vector, now: PointerEvent) => void, end: () => void = () => undefined): void {
  event.preventDefault();
  event.stopPropagation();
  const start = { x: event.clientX, y: event.clientY };
  const moved = (now: PointerEvent) => move({ x: now.clientX - start.x, y: now.clientY - start.y }, now);
  const up = () => {
    removeEventListener('pointermove', moved);
    removeEventListener('pointerup', up);
    removeEventListener('pointercancel', up);
    end();
  };
  addEventListener('pointermove', moved);
  addEventListener('pointerup', up);
  addEventListener('pointercancel', up);
}
