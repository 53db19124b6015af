interface Size {
  width: number;
  height: number;
}

/** Pixels between what a tip is of and the tip, and from the window's edges. */
const GAP = 6;

/** Where a tip stands: below the middle of what it is of, or above it where there is no room, inside the window. */
export function placed(of: { left: number; top: number; above?: number }, size: Size, window: Size): { left: number; top: number } {
  const left = Math.max(GAP, Math.min(of.left - size.width / 2, window.width - size.width - GAP));
  const below = of.top + GAP;
  const fits = below + size.height + GAP <= window.height;
  return { left, top: fits ? below : Math.max(GAP, (of.above ?? of.top) - size.height - GAP) };
}
