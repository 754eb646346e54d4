/** The comparison rules as choices in plain words; the first choice is the usual one. */
export interface RuleChoice {
  value: string;
  says: string;
}

export interface Rule {
  name: string;
  title: string;
  choices: RuleChoice[];
}

export const RULES: Rule[] = [
  {
    name: "row_order", title: "Row order",
    choices: [
      { value: "auto", says: "as the reference has it" },
      { value: "ignore", says: "does not count" },
      { value: "required", says: "counts, ties in any order" },
      { value: "as_listed", says: "this very sequence" },
    ],
  },
  {
    name: "duplicates", title: "Repeated rows",
    choices: [
      { value: "count", says: "each one counts" },
      { value: "ignore", says: "do not count" },
    ],
  },
  {
    name: "column_order", title: "Column order",
    choices: [
      { value: "as_given", says: "as in the reference" },
      { value: "any", says: "any" },
    ],
  },
  {
    name: "column_names", title: "Column names",
    choices: [
      { value: "ignore", says: "not compared" },
      { value: "caseless", says: "compared, in any case" },
      { value: "exact", says: "compared to the letter" },
    ],
  },
  {
    name: "extra_columns", title: "More columns",
    choices: [
      { value: "refuse", says: "not accepted" },
      { value: "allow", says: "accepted" },
    ],
  },
  {
    name: "null_equals", title: "NULL",
    choices: [
      { value: "nothing", says: "only equals NULL" },
      { value: "empty_text", says: "equals empty text too" },
      { value: "zero", says: "equals 0 too" },
    ],
  },
  {
    name: "text_case", title: "Letters",
    choices: [
      { value: "exact", says: "upper and lower differ" },
      { value: "ignore", says: "case does not count" },
    ],
  },
  {
    name: "text_space", title: "Blanks in text",
    choices: [
      { value: "exact", says: "count" },
      { value: "trim", says: "not at the ends" },
      { value: "collapse", says: "several are one" },
    ],
  },
  {
    name: "value_types", title: "Types",
    choices: [
      { value: "family", says: "5 = 5.0, 5 is not '5'" },
      { value: "strict", says: "integer and float differ" },
      { value: "printed", says: "compared as printed" },
    ],
  },
];

export const LIMITS = { seconds: 5, rows: 100_000, memory_mb: 256, cell_kb: 64 } as const;

/** What the rule about order comes to with this reference. */
export const ORDER_COMES_TO: Record<string, string> = {
  ignore: "It has no ORDER BY: any order passes.",
  required: "It orders: order counts, ties in any order.",
  as_listed: "",
};

export const LAYOUT_RULES = [
  { name: "clause_lines", says: "a new line for each clause" },
  { name: "column_lines", says: "a new line for each column" },
  { name: "spacing", says: "spaces around operators, after commas" },
  { name: "indentation", says: "clauses below each other" },
] as const;

export const PARTS = [
  { name: "columns", says: "columns", usual: 2 },
  { name: "rows", says: "rows", usual: 6 },
  { name: "order", says: "order of the rows", usual: 1 },
  { name: "names", says: "column names", usual: 1 },
  { name: "constructs", says: "constructs", usual: 2 },
  { name: "layout", says: "layout", usual: 1 },
] as const;
