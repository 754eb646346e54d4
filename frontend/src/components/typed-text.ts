import type { Cell } from "./cells";

/** A cell as somebody would type it; null for NULL. */
export function typedText(cell: Cell): string | null {
  if (cell === null || typeof cell === "string") return cell;
  if (typeof cell === "number" || typeof cell === "boolean") return String(cell);
  const [tag, value] = Object.entries(cell)[0] ?? ["", ""];
  return tag === "blob" ? `x'${String(value)}'` : String(value);
}
