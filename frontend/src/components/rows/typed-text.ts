import type { Cell } from "./cells";

/** Whether only the beginning of a value is here: it cannot be typed over, nor copied whole. */
export function isCut(cell: Cell): boolean {
  return cell !== null && typeof cell === "object" && "cut" in cell;
}

/** A cell as somebody would type it; null for NULL. */
export function typedText(cell: Cell): string | null {
  if (cell === null || typeof cell === "string") return cell;
  if (typeof cell === "number" || typeof cell === "boolean") return String(cell);
  if ("cut" in cell) return typedText(cell["cut"] as Cell);
  const [tag, value] = Object.entries(cell)[0] ?? ["", ""];
  return tag === "blob" ? `x'${String(value)}'` : String(value);
}
