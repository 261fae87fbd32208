/** What to say of a block that was pasted: into which columns it went, into how many rows, and what was left out. */
export function pastedSaid(columns: readonly { title: string; taken: boolean }[], lines: number, rows: number, beyond: number): string {
  const list = (titles: string[]) => (titles.length > 1 ? `${titles.slice(0, -1).join(", ")} and ${titles.at(-1)}` : (titles[0] ?? ""));
  const into = list(columns.filter((one) => one.taken).map((one) => one.title));
  const out = [
    ...columns.filter((one) => !one.taken).map((one) => one.title),
    ...(beyond > 0 ? [`${beyond} more to the right`] : []),
    ...(lines > rows ? [lines - rows === 1 ? "1 line" : `${lines - rows} lines`] : []),
  ];
  const count = Math.min(lines, rows);
  return `Pasted ${into} into ${count} ${count === 1 ? "row" : "rows"}${out.length ? `; left out: ${list(out)}` : ""}`;
}

/** Cells of a table that was copied from a spreadsheet: lines of texts between tabs, quoted where they hold either. */
export function pasted(text: string): string[][] {
  const rows: string[][] = [[]];
  let cell = "";
  let quoted = false;
  const end = () => {
    rows.at(-1)?.push(cell.trim());
    cell = "";
  };
  for (let i = 0; i < text.length; i++) {
    const sign = text[i] as string;
    if (quoted) {
      if (sign !== '"') cell += sign;
      else if (text[i + 1] === '"') cell += text[++i] as string;
      else quoted = false;
    } else if (sign === '"' && !cell) quoted = true;
    else if (sign === "\t") end();
    else if (sign === "\n") {
      end();
      rows.push([]);
    } else if (sign !== "\r") cell += sign;
  }
  end();
  // Spreadsheets end with a line that is none.
  if (rows.length > 1 && rows.at(-1)?.every((one) => !one)) rows.pop();
  return rows;
}
