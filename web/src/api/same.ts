/** Whether two values say the same. The names in an object have no order: the database writes them in one of its own. */
export function same(one: unknown, other: unknown): boolean {
  return one === other || JSON.stringify(one, sorted) === JSON.stringify(other, sorted);
}

function sorted(_: string, value: unknown): unknown {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
  return Object.fromEntries(Object.entries(value).sort(([one], [other]) => (one < other ? -1 : 1)));
}
