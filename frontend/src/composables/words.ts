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
