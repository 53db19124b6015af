/** Cells as spreadsheets put them on the clipboard: tabs and lines, quotes around what has any of these in it. */

export function toTable(rows: readonly (readonly string[])[]): string {
  const quoted = (text: string) => (/["\t\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  return rows.map((cells) => cells.map(quoted).join('\t')).join('\n');
}

export function fromTable(text: string): string[][] {
  const rows: string[][] = [];
  let cells: string[] = [];
  let cell = '';
  let quoted = false;
  const source = text.replaceAll('\r\n', '\n').replaceAll('\r', '\n').replace(/\n$/, '');
  for (let at = 0; at < source.length; at++) {
    const letter = source[at];
    if (quoted) {
      if (letter !== '"') cell += letter;
      else if (source[at + 1] === '"') cell += source[at++];
      else quoted = false;
    } else if (letter === '"' && cell === '') quoted = true;
    else if (letter === '\t' || letter === '\n') {
      cells.push(cell);
      cell = '';
      if (letter === '\n') {
        rows.push(cells);
        cells = [];
      }
    } else cell += letter;
  }
  return [...rows, [...cells, cell]];
}
