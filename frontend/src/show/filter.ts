/**
 * Whether something fits what is sought: every word has to be part of one of its texts; `61-68` or `61 to 68` is a range
 * of numbers, `-word` what it must not be.
 */
export function matches(sought: string, texts: readonly string[], number?: number | null): boolean {
  const plain = sought.toLowerCase().replace(/(\d+)\s*(?:to|-|–)\s*(\d+)/g, "$1-$2");
  return plain.split(/[\s,]+/).filter(Boolean).every((word) => {
    const range = /^(\d+)-(\d+)$/.exec(word);
    if (range && number !== undefined) return number !== null && number >= Number(range[1]) && number <= Number(range[2]);
    const not = word.startsWith("-") && word.length > 1;
    const found = texts.some((text) => text.toLowerCase().includes(not ? word.slice(1) : word)) || (number !== undefined && number !== null && String(number) === word);
    return not ? !found : found;
  });
}
