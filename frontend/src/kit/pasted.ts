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
