/** A text as its lines, each with its end: how they end, and whether the last one does, makes no difference. */
export function linesOf(text: string): string {
  return text.replace(/\r\n?/g, "\n").replace(/\n?$/, "\n");
}
