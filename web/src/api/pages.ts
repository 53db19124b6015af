/** Some pages of a long list, one after the other, until there are no more. ask: a page from a row on. */
export async function somePages<T>(wanted: number, ask: (start: number) => Promise<{ total: number; rows: T[] }>): Promise<{ total: number; rows: T[] }> {
  const rows: T[] = [];
  let total = 0;
  for (let page = 0; page < wanted; page++) {
    const got = await ask(rows.length);
    rows.push(...got.rows);
    total = got.total;
    if (rows.length >= total || got.rows.length === 0) break;
  }
  return { total, rows };
}
