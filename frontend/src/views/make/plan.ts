import type { Schemas } from "../../api/client";
import { TYPES } from "../../api/terms";

export type TypeName = Schemas["ColumnType"]["name"];

/** A column in the making. */
export interface PlanColumn {
  /** The file's column that fills it; empty for none. */
  source: string;
  name: string;
  type: TypeName;
  /** The size in the declaration, such as 8,2. */
  size: string;
  form: Schemas["ColumnType"]["form"];
  notNull: boolean;
  unique: boolean;
  isKey: boolean;
  /** The table and column that it refers to, as table.column; empty for none. */
  refersTo: string;
  onDelete: string;
  default: string;
  check: string;
  taken: boolean;
  examples: string[];
  nulls: number;
  /** The type that the values have, where they come from a sample. */
  was: string;
  /** How it is declared in a sample: as long as type and size stay, it stays so. */
  declared: { type: string; size: string };
}

/** A table in the making. */
export interface PlanTable {
  name: string;
  file: string;
  format: Schemas["FileFormat"];
  rows: number;
  whole: boolean;
  columns: PlanColumn[];
  /** What constrains more than one column, carried over as it is. */
  checks: string[];
  uniques: string[][];
  keys: Schemas["ForeignKey"][];
}

/** The types that a column can have, with their names for people. */
export const TYPE_CHOICES = (Object.keys(TYPES) as TypeName[]).map((value) => ({
  value,
  says: TYPES[value].says,
}));

const NUMBERS: { form: PlanColumn["form"]; says: string }[] = [
  { form: "", says: "1234.5" },
  { form: "comma", says: "1.234,5" },
  { form: "grouped", says: "1,234.5" },
];
const DATES: { form: PlanColumn["form"]; says: string }[] = [
  { form: "", says: "2026-07-03" },
  { form: "d.m.y", says: "3.7.2026" },
  { form: "d/m/y", says: "3/7/2026 (d/m)" },
  { form: "m/d/y", says: "7/3/2026 (m/d)" },
];

/** The ways in which a file may write a type. */
export const FORMS: Partial<Record<TypeName, { form: PlanColumn["form"]; says: string }[]>> = {
  decimal: NUMBERS,
  float: NUMBERS,
  date: DATES,
  timestamp: DATES,
};

export function newColumn(name: string): PlanColumn {
  return {
    source: "", name, type: "text", size: "", form: "", notNull: false, unique: false,
    isKey: false, refersTo: "", onDelete: "NO ACTION", default: "", check: "", taken: true,
    examples: [], nulls: 0, was: "", declared: { type: "", size: "" },
  };
}

export function newTable(number: number): PlanTable {
  const key = { ...newColumn("id"), type: "integer" as const, isKey: true, notNull: true };
  return {
    name: `table_${number}`, file: "", rows: 0, whole: true,
    format: { delimiter: ",", encoding: "utf-8", null_marker: "" },
    columns: [key, newColumn("name")],
    checks: [], uniques: [], keys: [],
  };
}

/** A proposal as it can be corrected. */
export function planOf(table: Schemas["ProposedTable"]): PlanTable {
  return {
    name: table.name,
    file: table.file,
    format: { ...table.format },
    rows: table.rows,
    whole: table.whole,
    checks: [],
    uniques: [],
    keys: [],
    columns: table.columns.map((column) => {
      const key = table.foreign_keys.find((one) => one.column === column.name);
      const isKey = table.primary_key.includes(column.name);
      return {
        ...newColumn(column.name),
        source: column.source,
        type: column.type.name,
        form: column.type.form ?? "",
        notNull: isKey || (column.not_null && table.whole),
        isKey,
        refersTo: key ? `${key.table}.${key.to}` : "",
        examples: column.examples,
        nulls: column.nulls,
      };
    }),
  };
}

const SIZE = /\((\d+(?:\s*,\s*\d+)?)\)/;

/** A table of a sample as it can be changed. */
export function planOfTable(table: Schemas["TableSchema"]): PlanTable {
  return {
    name: table.name,
    file: table.name,
    format: { delimiter: ",", encoding: "utf-8", null_marker: "" },
    rows: 0,
    whole: true,
    columns: table.columns
      .filter((column) => column.generated === null)
      .map((column) => {
        const key = table.foreign_keys.find(
          (one) => one.columns.length === 1 && one.columns[0] === column.name,
        );
        return {
          ...newColumn(column.name),
          source: column.name,
          type: column.type_name ?? "text",
          size: SIZE.exec(column.type)?.[1] ?? "",
          notNull: column.not_null,
          isKey: table.primary_key.includes(column.name),
          unique: table.uniques.some((names) => names.length === 1 && names[0] === column.name),
          refersTo: key ? `${key.table}.${key.to[0] ?? ""}` : "",
          onDelete: key?.on_delete ?? "NO ACTION",
          default: column.default ?? "",
          was: column.type_name ?? "",
          declared: { type: column.type, size: SIZE.exec(column.type)?.[1] ?? "" },
        };
      }),
    checks: table.checks,
    uniques: table.uniques.filter((names) => names.length > 1),
    keys: table.foreign_keys.filter((key) => key.columns.length > 1),
  };
}

function declaration(column: PlanColumn): string {
  const { declared } = column;
  if (declared.type && column.type === column.was && column.size === declared.size) {
    return declared.type;
  }
  return TYPES[column.type].declared + (column.size.trim() ? `(${column.size.trim()})` : "");
}

/** What the server makes of it. */
export function toPlan(table: PlanTable): Schemas["PlannedTable"] {
  const columns = table.columns.filter((column) => column.taken);
  const taken = new Set(columns.map((column) => column.name));
  const keys = columns.filter((column) => column.isKey).map((column) => column.name);
  return {
    table: {
      name: table.name,
      columns: columns.map((column) => ({
        name: column.name,
        type: declaration(column),
        not_null: column.notNull && !(keys.length === 1 && column.isKey && column.type === "integer"),
        default: column.default.trim() || null,
      })),
      primary_key: keys,
      uniques: [
        ...columns.filter((column) => column.unique).map((column) => [column.name]),
        ...table.uniques.filter((names) => names.every((name) => taken.has(name))),
      ],
      foreign_keys: [
        ...table.keys.filter((key) => key.columns.every((name) => taken.has(name))),
        ...columns.filter((column) => column.refersTo).map((column) => {
          const at = column.refersTo.lastIndexOf(".");
          return {
            columns: [column.name],
            table: column.refersTo.slice(0, at),
            to: [column.refersTo.slice(at + 1)],
            on_delete: column.onDelete,
            on_update: "NO ACTION",
          };
        }),
      ],
      checks: [...table.checks, ...columns.map((column) => column.check.trim()).filter(Boolean)],
    },
    filled: table.file
      ? {
          file: table.file,
          format: table.format,
          sources: columns.map((column) => column.source),
          types: columns.map((column) =>
            column.source && column.was !== column.type
              ? { name: column.type, form: column.form }
              : null,
          ),
        }
      : null,
  };
}

/** The columns that others may refer to: keys of one column, and unique ones. */
export function targets(tables: readonly PlanTable[]): string[] {
  return tables.flatMap((table) => {
    const keys = table.columns.filter((column) => column.isKey && column.taken);
    return table.columns
      .filter((column) => column.taken && (column.unique || (column.isKey && keys.length === 1)))
      .map((column) => `${table.name}.${column.name}`);
  });
}
