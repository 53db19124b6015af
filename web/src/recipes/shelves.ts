/** Things by their shelf, shelves in the order in which they first appear. */
export function shelved<T extends { shelf: string }>(all: readonly T[]): [string, T[]][] {
  const found = new Map<string, T[]>();
  for (const each of all) found.set(each.shelf, [...(found.get(each.shelf) ?? []), each]);
  return [...found];
}
