/** The closed sets of the core with their words: made by `make format`, not by hand. */

export const FINDING_WORDS = {
  "columns.missing": "columns are missing",
  "columns.extra": "there are columns too many",
  "columns.order": "the columns stand in another order",
  "columns.name": "column names differ",
  "rows.missing": "rows are missing",
  "rows.extra": "there are rows too many",
  "rows.repeated": "right rows come too often",
  "rows.collapsed": "right rows come too seldom",
  "rows.order": "rows stand out of order",
  "cells.differ": "cells hold other values",
  "cells.null": "NULL stands on one side only",
  "cells.rounding": "numbers are rounded otherwise",
  "cells.type": "values are of another type",
  "cells.case": "upper and lower case differ",
  "cells.space": "blanks differ",
  "cells.arbitrary": "the engine picked one of several possible values",
  "construct.required": "a construct that is asked for is missing",
  "construct.forbidden": "a construct that is ruled out is there",
  "style.layout": "the layout is another",
  "sql.syntax": "the query cannot be read",
  "sql.object": "names are unknown or ambiguous",
  "sql.runtime": "the engine rejects it",
  "policy.statement": "it is not a single query",
  "policy.function": "a function is not allowed",
  "limit.time": "it takes too long",
  "limit.rows": "it gives too many rows",
  "limit.memory": "it needs too much memory",
  "held_back.differs": "it is wrong on held-back data only"
} as const;

export const RULES = [
  {
    "name": "row_order",
    "title": "Row order",
    "choices": [
      {
        "value": "auto",
        "says": "as the reference has it"
      },
      {
        "value": "ignore",
        "says": "does not count"
      },
      {
        "value": "required",
        "says": "counts, ties in any order"
      },
      {
        "value": "as_listed",
        "says": "this very sequence"
      }
    ]
  },
  {
    "name": "order_case",
    "title": "Case in order",
    "choices": [
      {
        "value": "exact",
        "says": "as the engine sorts"
      },
      {
        "value": "ignore",
        "says": "may be ignored"
      }
    ]
  },
  {
    "name": "like_case",
    "title": "Case in LIKE",
    "choices": [
      {
        "value": "engine",
        "says": "as the engine has it"
      },
      {
        "value": "exact",
        "says": "counts"
      }
    ]
  },
  {
    "name": "duplicates",
    "title": "Repeated rows",
    "choices": [
      {
        "value": "count",
        "says": "each one counts"
      },
      {
        "value": "ignore",
        "says": "do not count"
      }
    ]
  },
  {
    "name": "column_order",
    "title": "Column order",
    "choices": [
      {
        "value": "as_given",
        "says": "as in the reference"
      },
      {
        "value": "any",
        "says": "any"
      }
    ]
  },
  {
    "name": "column_names",
    "title": "Column names",
    "choices": [
      {
        "value": "ignore",
        "says": "not compared"
      },
      {
        "value": "caseless",
        "says": "compared, in any case"
      },
      {
        "value": "exact",
        "says": "compared to the letter"
      }
    ]
  },
  {
    "name": "extra_columns",
    "title": "More columns",
    "choices": [
      {
        "value": "refuse",
        "says": "not accepted"
      },
      {
        "value": "allow",
        "says": "accepted"
      }
    ]
  },
  {
    "name": "null_equals",
    "title": "NULL",
    "choices": [
      {
        "value": "nothing",
        "says": "only equals NULL"
      },
      {
        "value": "empty_text",
        "says": "equals empty text too"
      },
      {
        "value": "zero",
        "says": "equals 0 too"
      }
    ]
  },
  {
    "name": "text_case",
    "title": "Letters",
    "choices": [
      {
        "value": "exact",
        "says": "upper and lower differ"
      },
      {
        "value": "ignore",
        "says": "case does not count"
      }
    ]
  },
  {
    "name": "text_space",
    "title": "Blanks in text",
    "choices": [
      {
        "value": "exact",
        "says": "count"
      },
      {
        "value": "trim",
        "says": "not at the ends"
      },
      {
        "value": "collapse",
        "says": "several are one"
      }
    ]
  },
  {
    "name": "value_types",
    "title": "Types",
    "choices": [
      {
        "value": "family",
        "says": "5 = 5.0, 5 is not '5'"
      },
      {
        "value": "strict",
        "says": "integer and float differ"
      },
      {
        "value": "printed",
        "says": "compared as printed"
      }
    ]
  }
] as const;

export const LIMITS = {
  "seconds": 5.0,
  "rows": 100000,
  "memory_mb": 256,
  "cell_kb": 64
} as const;

export const LAYOUT_RULES = [
  {
    "name": "clause_lines",
    "says": "a new line for each clause"
  },
  {
    "name": "column_lines",
    "says": "a new line for each column"
  },
  {
    "name": "spacing",
    "says": "spaces around operators and after commas"
  },
  {
    "name": "indentation",
    "says": "clauses below each other, the rest further in"
  }
] as const;

export const PARTS = [
  {
    "name": "columns",
    "says": "columns",
    "usual": 2
  },
  {
    "name": "rows",
    "says": "rows",
    "usual": 6
  },
  {
    "name": "order",
    "says": "order of the rows",
    "usual": 1
  },
  {
    "name": "names",
    "says": "column names",
    "usual": 1
  },
  {
    "name": "constructs",
    "says": "constructs",
    "usual": 2
  },
  {
    "name": "layout",
    "says": "layout",
    "usual": 1
  }
] as const;

export const COUNTING = [
  {
    "value": "best",
    "says": "the best attempt counts"
  },
  {
    "value": "last",
    "says": "the last attempt counts"
  },
  {
    "value": "all",
    "says": "all attempts count, on average"
  }
] as const;

export const MARK_SIGNS = {
  " ": "nothing handed in yet",
  "-": "not handed in",
  "d": "decided",
  "u": "undecided",
  "o": "out of date",
  "l": "late",
  "w": "not graded yet",
  "e": "excused"
} as const;

export const MARK_STEPS = [
  0.01,
  0.1,
  0.25,
  0.5,
  1.0
] as const;

export const TYPES = {
  "integer": {
    "declared": "INTEGER",
    "says": "integer"
  },
  "decimal": {
    "declared": "DECIMAL",
    "says": "decimal"
  },
  "float": {
    "declared": "DOUBLE PRECISION",
    "says": "float"
  },
  "text": {
    "declared": "TEXT",
    "says": "text"
  },
  "date": {
    "declared": "DATE",
    "says": "date"
  },
  "time": {
    "declared": "TIME",
    "says": "time"
  },
  "timestamp": {
    "declared": "TIMESTAMP",
    "says": "timestamp"
  },
  "instant": {
    "declared": "TIMESTAMP WITH TIME ZONE",
    "says": "timestamp with zone"
  },
  "interval": {
    "declared": "INTERVAL",
    "says": "interval"
  },
  "boolean": {
    "declared": "BOOLEAN",
    "says": "boolean"
  },
  "binary": {
    "declared": "BLOB",
    "says": "binary"
  },
  "identifier": {
    "declared": "UUID",
    "says": "UUID"
  },
  "json": {
    "declared": "JSON",
    "says": "JSON"
  },
  "list": {
    "declared": "TEXT[]",
    "says": "list"
  }
} as const;

export const ENUMERATION = "ENUM_TEXT" as const;

export const DELIMITERS = [
  {
    "value": ",",
    "says": "comma"
  },
  {
    "value": ";",
    "says": "semicolon"
  },
  {
    "value": "\t",
    "says": "tab"
  },
  {
    "value": "|",
    "says": "bar"
  }
] as const;

export const ENCODINGS = [
  "utf-8",
  "utf-16",
  "windows-1252",
  "iso-8859-1",
  "iso-8859-15",
  "mac-roman"
] as const;
