import type { Schemas } from "../../api/client";

interface RuleInWords {
  name: string;
  says: string;
}

const WORDS: Record<string, Record<string, string>> = {
  column_order: { any: "any" },
  column_names: { caseless: "compared, whatever their case", exact: "compared exactly" },
  extra_columns: { allow: "allowed" },
  null_equals: { empty_text: "also equals empty text", zero: "also equals 0" },
  text_case: { ignore: "upper and lower case are the same" },
  text_space: { trim: "blanks at the ends do not count", collapse: "blanks count once" },
  value_types: { strict: "integer and float differ", printed: "compared as printed" },
};

function chosen(rules: Schemas["Exercise"]["rules"], rule: string, usual: string): string {
  const value = rules[rule];
  return (typeof value === "string" && WORDS[rule]?.[value]) || usual;
}

/** The comparison rules of an exercise in plain words; those that always matter come first. */
export function rulesInWords(exercise: Schemas["Exercise"]): RuleInWords[] {
  const { rules } = exercise;
  const order = {
    ignore: "does not count",
    required: "as the reference orders, ties free",
    as_listed: "exactly as the reference lists them",
  }[exercise.row_order];
  const tolerance = rules.number_tolerance as { absolute: number; relative: number } | undefined;
  const always = [
    { name: "Row order", says: order },
    {
      name: "Repeated rows",
      says: rules.duplicates === "ignore" ? "do not count" : "each one counts",
    },
    { name: "Column order", says: chosen(rules, "column_order", "as the reference has it") },
    { name: "Column names", says: chosen(rules, "column_names", "not compared") },
    {
      name: "Numbers",
      says: tolerance
        ? `within ${tolerance.absolute} or ${tolerance.relative} of the larger`
        : "integers exactly, others to 9 digits",
    },
    { name: "NULL", says: chosen(rules, "null_equals", "only equals NULL") },
  ];
  const { seconds, rows, memory_mb } = exercise.limits;
  const bounds = {
    name: "Stopped above",
    says: `${seconds} s, ${rows.toLocaleString("en")} rows, ${memory_mb} MiB`,
  };
  const onlyIfChosen = [
    { name: "More columns", rule: "extra_columns" },
    { name: "Letters", rule: "text_case" },
    { name: "Blanks", rule: "text_space" },
    { name: "Types", rule: "value_types" },
  ]
    .filter(({ rule }) => rule in rules)
    .map(({ name, rule }) => ({ name, says: chosen(rules, rule, "") }));
  return [...always, ...onlyIfChosen, bounds];
}
