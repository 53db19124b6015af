import type { Framing } from '../api/client';

/** Vectors and rectangles of the bench: from the screen to a framing and back. Sizes and crops are the server's. */
export interface Vector {
  x: number;
  y: number;
}

export interface Size {
  width: number;
  height: number;
}

/** How the photo lies on the stage: its middle, and CSS pixels a photo pixel. */
export interface View {
  middle: Vector;
  scale: number;
}

export function rotated({ x, y }: Vector, degrees: number): Vector {
  const angle = (degrees * Math.PI) / 180;
  return { x: x * Math.cos(angle) - y * Math.sin(angle), y: x * Math.sin(angle) + y * Math.cos(angle) };
}

/** The middle of a framing in photo pixels. */
export function middleOf(framing: Framing, photo: Size): Vector {
  return { x: (framing.x + framing.width / 2) * photo.width, y: (framing.y + framing.height / 2) * photo.height };
}

/** The same framing around another middle, with another size; both in photo pixels. */
export function placed(framing: Framing, middle: Vector, size: Size, photo: Size): Framing {
  const width = size.width / photo.width;
  const height = size.height / photo.height;
  return { ...framing, x: middle.x / photo.width - width / 2, y: middle.y / photo.height - height / 2, width, height };
}

export function sizeOf(framing: Framing, photo: Size): Size {
  return { width: framing.width * photo.width, height: framing.height * photo.height };
}

/** Whether a framing is turned on its side. */
export function sideways(framing: Framing): boolean {
  return framing.turn === 90 || framing.turn === 270;
}

/** The framing on the stage: it always stands upright there, the photo turns below it. */
export function onStage(framing: Framing, photo: Size, view: View): { middle: Vector; width: number; height: number } {
  const from = middleOf(framing, photo);
  const away = rotated({ x: (from.x - photo.width / 2) * view.scale, y: (from.y - photo.height / 2) * view.scale }, framing.turn - framing.angle);
  const size = sizeOf(framing, photo);
  const width = size.width * view.scale;
  const height = size.height * view.scale;
  return {
    middle: { x: view.middle.x + away.x, y: view.middle.y + away.y },
    ...(sideways(framing) ? { width: height, height: width } : { width, height }),
  };
}

/** Move a framing by a way on the stage, in CSS pixels. It keeps overlapping the photo. */
export function moved(framing: Framing, by: Vector, photo: Size, view: View): Framing {
  const way = rotated({ x: by.x / view.scale, y: by.y / view.scale }, framing.angle - framing.turn);
  const from = middleOf(framing, photo);
  const within = (value: number, edge: number) => Math.min(Math.max(value, 0), edge);
  const middle = { x: within(from.x + way.x, photo.width), y: within(from.y + way.y, photo.height) };
  return placed(framing, middle, sizeOf(framing, photo), photo);
}

/** Make a framing larger or smaller around its middle, no smaller than a hundredth of the photo. */
export function zoomed(framing: Framing, factor: number, photo: Size): Framing {
  const size = sizeOf(framing, photo);
  const least = Math.max(0.01 * Math.max(photo.width, photo.height), 4) / Math.min(size.width, size.height);
  const most = (3 * Math.max(photo.width, photo.height)) / Math.max(size.width, size.height);
  const by = Math.min(Math.max(factor, least), most);
  return placed(framing, middleOf(framing, photo), { width: size.width * by, height: size.height * by }, photo);
}

/**
 * Pull a corner (sides: -1 or 1 of the stage's axes) by a way on the stage; the opposite corner stays. ratio: width over
 * height of the rendition, or null where any shape is right.
 */
export function pulled(framing: Framing, side: Vector, by: Vector, photo: Size, view: View, ratio: number | null): Framing {
  const here = onStage(framing, photo, view);
  let width = Math.max(8, here.width + side.x * by.x);
  let height = Math.max(8, here.height + side.y * by.y);
  if (ratio !== null) {
    // The edge that was pulled further leads.
    if (width / here.width > height / here.height) height = width / ratio;
    else width = height * ratio;
  }
  const shift = { x: (side.x * (width - here.width)) / 2, y: (side.y * (height - here.height)) / 2 };
  const size = sideways(framing) ? { width: height, height: width } : { width, height };
  const grown = placed(framing, middleOf(framing, photo), { width: size.width / view.scale, height: size.height / view.scale }, photo);
  return moved(grown, shift, photo, view);
}

/** A quarter turn clockwise of what is shown; the shape wanted stays, so that the rectangle is laid on its side. */
export function quarter(framing: Framing, photo: Size, ratio: number | null): Framing {
  const turn = (framing.turn + 90) % 360;
  const size = sizeOf(framing, photo);
  if (ratio === null) return { ...framing, turn };
  const area = size.width * size.height;
  const upright = turn === 90 || turn === 270 ? 1 / ratio : ratio;
  let width = Math.sqrt(area * upright);
  let height = width / upright;
  const fit = Math.min(1, photo.width / width, photo.height / height);
  [width, height] = [width * fit, height * fit];
  const middle = middleOf(framing, photo);
  const inside = (value: number, half: number, edge: number) => Math.min(Math.max(value, half), edge - half);
  const inner = { x: inside(middle.x, width / 2, photo.width), y: inside(middle.y, height / 2, photo.height) };
  return { ...placed(framing, inner, { width, height }, photo), turn };
}

/** The part of a rendition that fits into a room at a magnification, its middle as near as can be to `middle` (shares). */
export function windowFor(
  size: { width: number; height: number },
  room: { width: number; height: number },
  zoom: number,
  middle: Vector,
): { x: number; y: number; width: number; height: number } {
  const width = Math.max(1, Math.min(size.width, Math.floor(room.width / zoom)));
  const height = Math.max(1, Math.min(size.height, Math.floor(room.height / zoom)));
  const place = (at: number, whole: number, shown: number) => Math.round(Math.min(Math.max(at * whole - shown / 2, 0), whole - shown));
  return { x: place(middle.x, size.width, width), y: place(middle.y, size.height, height), width, height };
}

/** The middle (in shares) of a window that was dragged by some screen pixels. */
export function panned(
  part: { x: number; y: number; width: number; height: number },
  hand: Vector,
  zoom: number,
  size: { width: number; height: number },
): Vector {
  const limit = (value: number, shown: number, whole: number) => Math.min(Math.max(value, shown / 2), whole - shown / 2) / whole;
  return {
    x: limit(part.x + part.width / 2 - hand.x / zoom, part.width, size.width),
    y: limit(part.y + part.height / 2 - hand.y / zoom, part.height, size.height),
  };
}
