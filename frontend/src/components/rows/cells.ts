/** How a cell from the server is to be shown: plain JSON, or one tagged object. */
export type Cell = null | boolean | number | string | { [tag: string]: unknown };

export interface ShownCell {
  kind: "null" | "empty" | "text" | "number" | "boolean" | "binary" | "other";
  /** Text without the blanks at its ends, which are shown on their own. */
  text: string;
  before: number;
  after: number;
  /** Of a long cell only the beginning is here: how long it is. */
  length?: number;
}

function shown(kind: ShownCell["kind"], text: string): ShownCell {
  return { kind, text, before: 0, after: 0 };
}

export function shownCell(cell: Cell): ShownCell {
  if (cell === null) return shown("null", "NULL");
  if (typeof cell === "boolean") return shown("boolean", cell ? "true" : "false");
  if (typeof cell === "number") return shown("number", String(cell));
  if (typeof cell === "string") return shownText(cell);
  if ("cut" in cell) return { ...shownCell(cell["cut"] as Cell), length: Number(cell["length"]) };
  const [tag, value] = Object.entries(cell)[0] ?? ["", ""];
  switch (tag) {
    case "integer":
    case "float":
    case "decimal":
      return shown("number", String(value));
    case "blob":
      return shown("binary", `x'${String(value)}'`);
    case "list":
    case "structure":
      return shown("other", nested(cell));
    default:
      return shown("other", String(value));
  }
}

/** A value within another: texts stand in quotes there, so that 5 and "5" differ. */
function nested(cell: Cell): string {
  if (typeof cell === "string") return JSON.stringify(cell);
  if (cell && typeof cell === "object" && "list" in cell) return `[${(cell["list"] as Cell[]).map(nested).join(", ")}]`;
  if (cell && typeof cell === "object" && "structure" in cell) {
    const parts = Object.entries(cell["structure"] as Record<string, Cell>);
    return `{${parts.map(([name, part]) => `${name}: ${nested(part)}`).join(", ")}}`;
  }
  return shownCell(cell).text;
}

function shownText(text: string): ShownCell {
  if (text === "") return shown("empty", "empty");
  const core = text.trim();
  if (core === "") return { kind: "text", text: "", before: text.length, after: 0 };
  const before = text.indexOf(core);
  return { kind: "text", text: core, before, after: text.length - before - core.length };
}

const NUMERIC = new Set(["integer", "float", "decimal"]);
/** Engines write their types in small letters or in capitals. */
const NUMERIC_TYPE = /^(?:(?:U?(?:TINY|SMALL|MEDIUM|BIG|HUGE))?INT(?:EGER|\d)?|UINTEGER|DEC(?:IMAL)?|NUMERIC|NUMBER|REAL|FLOAT\d?|DOUBLE|(?:BIG|SMALL)?SERIAL)\b(?!.*\[)/i;

/** Whether a column of this kind, or declared so, holds numbers. */
export function isNumeric(kind: string): boolean {
  return NUMERIC.has(kind) || NUMERIC_TYPE.test(kind);
}

const DECLARED_PLACES = /^(?:DEC(?:IMAL)?|NUMERIC|REAL)\s*\(\s*\d+\s*,\s*(\d+)\s*\)/i;

/** The places after the point that a declaration such as DECIMAL(6,2) gives. */
export function placesOf(declared: string): number | undefined {
  const found = DECLARED_PLACES.exec(declared);
  return found ? Number(found[1]) : undefined;
}

/** A table's column over its rows: its type stands for the kind of its values. */
export function tableColumn(column: { name: string; type: string; type_name: string | null }): { name: string; kind: string; declared: string } {
  const declared = column.type || (column.type_name ?? "");
  return { name: column.name, kind: declared, declared };
}

const DECIMAL_NUMBER = /^-?\d+(?:\.(\d+))?$/;

/** A number with the places of its column: 25 as 25.00. One with more places stays as it is. */
export function withPlaces(cell: ShownCell, places: number | undefined): ShownCell {
  const written = cell.kind === "number" && places ? DECIMAL_NUMBER.exec(cell.text) : null;
  if (!written || !places) return cell;
  const given = written[1]?.length ?? 0;
  if (given >= places) return cell;
  return { ...cell, text: `${cell.text}${given ? "" : "."}${"0".repeat(places - given)}` };
}
