import type { Schemas } from "../../api/client";
import { ENUMERATION, TYPES } from "../../api/terms";

/** A column's type in words; a list by what it is a list of. */
export function typeWords(column: Schemas["ColumnSchema"]): string {
  if (column.type_name === null) return column.type || "any type";
  if (column.type.toUpperCase() === ENUMERATION) return "enumeration";
  return column.type_name === "list" ? column.type.toLowerCase() : TYPES[column.type_name].says;
}
