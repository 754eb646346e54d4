import type { Schemas } from "../../api/client";
import { type Cell, shownCell } from "../../components/rows/cells";
import { typeWords } from "../../components/rows/type-words";

type Table = Schemas["TableSchema"];
type Column = Schemas["ColumnSchema"];
type Profile = Schemas["ColumnProfile"];

const NUMBERS = new Set(["integer", "decimal", "float"]);
const RANGED = new Set(["integer", "decimal", "float", "date", "time", "timestamp"]);

export function isNumber(column: Column): boolean {
  return NUMBERS.has(column.type_name ?? "");
}

function plain(cell: Cell): string {
  const shown = shownCell(cell);
  return " ".repeat(shown.before) + shown.text + " ".repeat(shown.after);
}

const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", timeZone: "UTC" });

const MONTH = new Intl.DateTimeFormat("en-GB", {
  month: "short", year: "numeric", timeZone: "UTC",
});

/** From when to when: days within a year, months over several. */
function days(from: Cell, to: Cell): [string, string] {
  const [first, last] = [plain(from), plain(to)];
  const format = first.slice(0, 4) === last.slice(0, 4) ? DAY : MONTH;
  const shown = [first, last].map((text) => {
    const date = new Date(`${text.slice(0, 10)}T00:00:00Z`);
    return Number.isNaN(date.getTime()) ? text : format.format(date);
  });
  return [shown[0] ?? "", shown[1] ?? ""];
}

/** What stands under a column's name: the one thing that tells most about it. */
export function headWords(table: Table, column: Column, profile: Profile | undefined): string {
  const alone = table.primary_key.length === 1 && table.primary_key[0] === column.name;
  if (alone) return "key";
  if (!profile) return typeWords(column);
  const link = table.foreign_keys.find((key) => key.columns.includes(column.name));
  const nulls = profile.nulls ? `${profile.nulls.toLocaleString("en")} NULL` : "";
  const said = link
    ? `${profile.different.toLocaleString("en")} of ${link.table}`
    : RANGED.has(column.type_name ?? "") && profile.smallest !== null
      ? range(column, profile)
      : table.uniques.some((names) => names.length === 1 && names[0] === column.name)
        ? "unique"
        : `${profile.different.toLocaleString("en")} different`;
  return nulls ? `${said}, ${nulls}` : said;
}

function range(column: Column, profile: Profile): string {
  const dated = column.type_name === "date" || column.type_name === "timestamp";
  const [low, high] = dated
    ? days(profile.smallest, profile.largest)
    : [plain(profile.smallest), plain(profile.largest)];
  return low === high ? low : `${low} – ${high}`;
}

/** Everything that constrains a column, in words. */
export function constraintWords(table: Table, column: Column): string[] {
  const said: string[] = [];
  if (table.primary_key.includes(column.name)) {
    said.push(
      table.primary_key.length === 1
        ? "primary key"
        : `part of the primary key (${table.primary_key.join(", ")})`,
    );
  }
  said.push(
    ...table.uniques
      .filter((names) => names.includes(column.name))
      .map((names) => (names.length === 1 ? "unique" : `unique with ${names.join(", ")}`)),
    ...table.foreign_keys
      .filter((key) => key.columns.includes(column.name))
      .map((key) => {
        const acts = key.on_delete === "NO ACTION" ? "" : `, on delete ${key.on_delete.toLowerCase()}`;
        return `refers to ${key.table} (${key.to.join(", ")})${acts}`;
      }),
  );
  if (column.not_null || table.primary_key.includes(column.name)) said.push("never NULL");
  else said.push("may be NULL");
  if (column.default !== null) said.push(`default ${column.default}`);
  if (column.generated !== null) said.push(`computed: ${column.generated}`);
  if (column.collation) said.push(`compared by ${column.collation}`);
  const word = new RegExp(`\\b${column.name.replace(/[^\w]/g, "\\$&")}\\b`, "i");
  said.push(...table.checks.filter((check) => word.test(check)).map((check) => `check ${check}`));
  return said;
}
