/** A name that none of those has, whatever its letters' case: as wanted, or with a number behind it. */
export function unused(wanted: string, names: string[]): string {
  const taken = new Set(names.map((name) => name.toLowerCase()));
  let name = wanted;
  for (let number = 2; taken.has(name.toLowerCase()); number += 1) name = `${wanted} ${number}`;
  return name;
}
