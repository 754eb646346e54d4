import { type Completion, type CompletionContext, type CompletionResult, snippetCompletion } from "@codemirror/autocomplete";

import { statementAt } from "./statements";

/** What an editor knows of the data: tables with their columns, and the functions of the engine. */
export interface Known {
  tables: Record<string, string[]>;
  functions: string[];
  /** What stands around a name that is no plain word. */
  quote: string;
}

/** The words that lessons use. Whole frames have their places to fill in. */
const WORDS = `SELECT FROM WHERE AND OR NOT IN LIKE BETWEEN DISTINCT AS ON USING HAVING LIMIT OFFSET UNION
INTERSECT EXCEPT EXISTS WHEN THEN ELSE END ASC DESC NULL JOIN WITH VALUES OVER INSERT UPDATE DELETE SET`.split(/\s+/);
const PHRASES = [
  "GROUP BY", "ORDER BY", "PARTITION BY", "IS NULL", "IS NOT NULL", "LEFT JOIN", "RIGHT JOIN", "FULL JOIN",
  "CROSS JOIN", "INNER JOIN", "UNION ALL", "NOT IN", "NOT EXISTS", "INSERT INTO",
];
const CASE = snippetCompletion("CASE WHEN ${condition} THEN ${value} ELSE ${other} END", {
  label: "CASE", detail: "… WHEN … THEN … ELSE … END", type: "keyword", boost: -20,
});
const NO_ALIAS = new Set(
  `ON USING WHERE GROUP ORDER HAVING LIMIT UNION INTERSECT EXCEPT JOIN INNER LEFT RIGHT FULL OUTER CROSS NATURAL
SET VALUES SELECT AS`.split(/\s+/),
);
const SOURCE = /\b(?:FROM|JOIN|UPDATE|INTO)\s+((?:[\w"]+(?:\s+(?:AS\s+)?[\w"]+)?\s*,\s*)*[\w"]+(?:\s+(?:AS\s+)?[\w"]+)?)/gi;

interface Source {
  table: string;
  name: string;
}

/** The tables that a statement reads, with what it calls them. */
export function sourcesIn(sql: string, tables: Known["tables"]): Source[] {
  const byLower = new Map(Object.keys(tables).map((table) => [table.toLowerCase(), table]));
  const plain = sql.replace(/--[^\n]*|\/\*[\s\S]*?\*\/|'(?:[^']|'')*'/g, (text) => " ".repeat(text.length));
  return [...plain.matchAll(SOURCE)].flatMap((found) =>
    (found[1] ?? "").split(",").flatMap((item) => {
      const [written = "", ...rest] = item.trim().split(/\s+/);
      const table = byLower.get(written.replace(/"/g, "").toLowerCase());
      if (!table) return [];
      const alias = rest.filter((word) => word.toUpperCase() !== "AS")[0];
      return [{ table, name: alias && !NO_ALIAS.has(alias.toUpperCase()) ? alias : table }];
    }),
  );
}

function quoted(name: string, quote: string): string {
  return /^[a-z_]\w*$/i.test(name) ? name : `${quote}${name.replaceAll(quote, quote + quote)}${quote}`;
}

/** A table's name, and the same with an alias of its first letters. */
function tableOptions(known: Known, boost: number, withAlias: boolean, taken: Set<string>): Completion[] {
  const tables = Object.keys(known.tables);
  return tables.flatMap((table) => {
    const plain: Completion = { label: table, apply: quoted(table, known.quote), detail: "table", type: "class", boost };
    const alias = table.split("_").map((part) => part[0]?.toLowerCase()).join("");
    if (!withAlias || !/^[a-z]+$/.test(alias) || taken.has(alias)) return [plain];
    const short: Completion = {
      label: `${table} ${alias}`, apply: `${quoted(table, known.quote)} ${alias}`, detail: "with an alias", type: "class", boost: boost - 5,
    };
    return [plain, short];
  });
}

/** Entries whose beginning is what was typed: a word that only holds the letters is none. */
function beginning(options: Completion[], typed: string): Completion[] {
  const lower = typed.toLowerCase();
  const seen = new Set<string>();
  return options.filter((one) => {
    const key = `${one.label} ${one.detail ?? ""}`;
    if (!one.label.toLowerCase().startsWith(lower) || one.label.toLowerCase() === lower || seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

/** What may come at the cursor, the likeliest first. */
export function completionsAt(known: Known, context: CompletionContext): CompletionResult | null {
  const word = context.matchBefore(/[\w"]*/);
  if (!word || (word.from === word.to && !context.explicit && !/\.$/.test(context.state.sliceDoc(0, word.from)))) return null;
  const column = (name: string, table: string, boost: number): Completion => (
    { label: name, apply: quoted(name, known.quote), detail: table, type: "property", boost }
  );
  const text = context.state.doc.toString();
  const statement = statementAt(text, context.pos);
  const sql = statement ? text.slice(statement.from, Math.max(statement.to, context.pos)) : "";
  const sources = sourcesIn(sql, known.tables);
  const before = text.slice(0, word.from);
  const owner = /([\w"]+)\s*\.\s*$/.exec(before)?.[1]?.replace(/"/g, "").toLowerCase();
  if (owner !== undefined) {
    const source = sources.find((one) => one.name.toLowerCase() === owner);
    const table = source?.table ?? Object.keys(known.tables).find((one) => one.toLowerCase() === owner);
    const columns = (known.tables[table ?? ""] ?? []).map((name) => column(name, table ?? "", 0));
    return { from: word.from, options: beginning(columns, word.text), filter: false };
  }
  const wantsTable = /\b(?:FROM|JOIN|INTO|UPDATE)\s+(?:[\w"]+(?:\s+(?:AS\s+)?[\w"]+)?\s*,\s*)*$/i.test(before);
  const taken = new Set(sources.map((one) => one.name.toLowerCase()));
  const tables = tableOptions(known, wantsTable ? 90 : 40, wantsTable, taken);
  if (wantsTable) return { from: word.from, options: beginning(tables, word.text), filter: false };
  const inScope = sources.flatMap(({ table }) => (known.tables[table] ?? []).map((name) => column(name, table, 80)));
  const others = sources.length
    ? []
    : Object.entries(known.tables).flatMap(([table, names]) => names.map((name) => column(name, table, 20)));
  const aliases = sources
    .filter((one) => one.name !== one.table)
    .map((one): Completion => ({ label: one.name, detail: one.table, type: "variable", boost: 60 }));
  const functions = known.functions.map((name) =>
    snippetCompletion(`${name.toUpperCase()}(\${})`, { label: name.toUpperCase(), detail: "function", type: "function", boost: -10 }),
  );
  const words = [...WORDS, ...PHRASES].map((label): Completion => ({ label, type: "keyword", boost: 0 }));
  const options = beginning([...inScope, ...aliases, ...tables, ...others, ...words, ...functions, CASE], word.text);
  return options.length ? { from: word.from, options, filter: false } : null;
}
