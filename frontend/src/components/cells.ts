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
      return shown("other", JSON.stringify(value));
    default:
      return shown("other", String(value));
  }
}

function shownText(text: string): ShownCell {
  if (text === "") return shown("empty", "empty");
  const core = text.trim();
  if (core === "") return { kind: "text", text: "", before: text.length, after: 0 };
  const before = text.indexOf(core);
  return { kind: "text", text: core, before, after: text.length - before - core.length };
}

const NUMERIC = new Set(["integer", "float", "decimal"]);

/** Numbers stand right-aligned under each other. */
export function isNumeric(kind: string): boolean {
  return NUMERIC.has(kind);
}
