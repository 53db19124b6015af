/** The address of a cell's picture; its key changes with the photo, the recipe and the framing. */
export function cellPicture(photo: { id: number }, cell: { version: number; key: string }, edge: number): string {
  return `/api/pictures/cells/${photo.id}/${cell.version}?edge=${edge}&k=${cell.key}`;
}

/** What the camera made of a raw photo that is not developed yet. */
export function firstPicture(photo: { id: number }, edge = 320): string {
  return `/api/pictures/photos/${photo.id}/first?edge=${edge}`;
}

export function photoPicture(photo: { id: number; digest: string }, edge = 960): string {
  return `/api/pictures/photos/${photo.id}?edge=${edge}&d=${photo.digest}`;
}
