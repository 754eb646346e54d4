/** The words for verdicts: one place, the same on every page. */
export const VERDICT_WORDS: Record<string, string> = {
  correct: "right",
  incorrect: "wrong",
  error: "error",
  refused: "refused",
  stopped: "stopped",
  undecided: "undecided",
  waiting: "not graded",
  held: "told later",
};

/** Short words for what was found, where the whole message does not fit. */
export const FINDING_WORDS: Record<string, string> = {
  "columns.missing": "columns are missing",
  "columns.extra": "columns not asked for",
  "columns.order": "columns in another order",
  "columns.name": "other column names",
  "rows.missing": "rows are missing",
  "rows.extra": "rows not asked for",
  "rows.repeated": "right rows too often",
  "rows.collapsed": "right rows too seldom",
  "rows.order": "rows out of order",
  "cells.differ": "cells hold other values",
  "cells.null": "NULL on one side only",
  "cells.rounding": "rounded otherwise",
  "cells.type": "values of another type",
  "cells.case": "upper and lower case",
  "cells.space": "blanks",
  "construct.required": "a required construct is missing",
  "construct.forbidden": "a forbidden construct",
  "style.layout": "layout",
  "sql.syntax": "the query cannot be read",
  "sql.object": "unknown or ambiguous names",
  "sql.runtime": "rejected by the engine",
  "policy.statement": "not a single query",
  "policy.function": "a function that is not allowed",
  "limit.time": "takes too long",
  "limit.rows": "too many rows",
  "limit.memory": "too much memory",
  "held_back.differs": "wrong only on held-back data",
};

const TIMES = ["never", "once", "twice"];

export function times(count: number): string {
  return TIMES[count] ?? `${count} times`;
}

export function ordinal(place: number): string {
  const tens = place % 100;
  if (tens >= 11 && tens <= 13) return `${place}th`;
  return `${place}${["th", "st", "nd", "rd"][place % 10] ?? "th"}`;
}

export function counted(count: number, noun: string): string {
  return `${count.toLocaleString("en")} ${noun}${count === 1 ? "" : "s"}`;
}

/** A day and a time of an instant: where the browser is, or in a time zone that is named. */
export function dayAndTime(instant: string, zone?: string): string {
  return new Intl.DateTimeFormat("en-GB", {
    day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", timeZone: zone,
  }).format(new Date(instant));
}

/** The same with the day of the week, as deadlines are said. */
export function deadline(instant: string, zone: string): string {
  return new Intl.DateTimeFormat("en-GB", {
    weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", timeZone: zone,
  }).format(new Date(instant));
}
