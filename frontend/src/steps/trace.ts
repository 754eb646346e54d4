import type { Schemas } from "../api/client";
import { counted } from "../composables/words";

/** A query of a trace with what it is called and how deep it lies. */
export interface TracedQuery {
  trace: Schemas["Trace"];
  words: string;
  depth: number;
}

function words(trace: Schemas["Trace"], place: number): string {
  switch (trace.role) {
    case "query":
      return "the query";
    case "cte":
      return `WITH ${trace.name}`;
    case "derived":
      return `table ${trace.name}`;
    case "operand":
      return trace.name || "first operand";
    default:
      return `subquery ${place}`;
  }
}

/** What the kinds of steps are called, everywhere. */
export const STEP_NAMES: Record<string, string> = {
  from: "FROM", join: "JOIN", where: "WHERE", group: "GROUP BY", having: "HAVING", select: "SELECT",
  distinct: "DISTINCT", order: "ORDER BY", limit: "LIMIT", operand: "operand", rounds: "recursion",
};

/** The table that a step of FROM or JOIN brings in. */
export function tableOf(step: Schemas["Step"]): string {
  if (step.kind !== "from" && step.kind !== "join") return "";
  return /(?:FROM|JOIN)\s+("[^"]+"|[\w.]+)/i.exec(step.clause)?.[1] ?? "";
}

/** Which rows a join loses, fills up with NULL, or shows several times, in a sentence or two. */
export function partnersOf(step: Schemas["Step"], before: number): string {
  const { lonely_before: lonely, lonely_joined: lonelyJoined } = step.parts;
  const said: string[] = [];
  const side = /^\s*(?:NATURAL\s+)?(LEFT|RIGHT|FULL)\b/i.exec(step.clause)?.[1]?.toUpperCase() ?? "";
  const fate = (kept: boolean, rows: number): string =>
    kept ? `${rows === 1 ? "stays" : "stay"}, filled up with NULL` : `${rows === 1 ? "is" : "are"} left out`;
  const has = (rows: number): string => (rows === 1 ? "has" : "have");
  if (lonely) {
    said.push(`${counted(lonely, "row")} before ${has(lonely)} no partner and ${fate(side === "LEFT" || side === "FULL", lonely)}.`);
  }
  if (lonelyJoined) {
    const table = tableOf(step) || "the joined table";
    said.push(`${counted(lonelyJoined, "row")} of ${table} ${has(lonelyJoined)} none and ${fate(side === "RIGHT" || side === "FULL", lonelyJoined)}.`);
  }
  if (lonely !== undefined && lonelyJoined !== undefined && step.rows !== null) {
    const met = before - lonely;
    const pairs = step.rows - (side === "LEFT" || side === "FULL" ? lonely : 0) - (side === "RIGHT" || side === "FULL" ? lonelyJoined : 0);
    if (pairs > met) said.push(`${counted(met, "row")} ${met === 1 ? "meets" : "meet"} ${pairs.toLocaleString("en")} times: some have several partners.`);
  }
  return said.join(" ");
}

/** The columns that a step groups by, where each is a plain column; none where one is worked out. */
export function keysOf(step: Schemas["Step"]): string[] {
  const [, written] = /^\s*GROUP\s+BY\s+([\s\S]+)$/i.exec(step.clause) ?? [];
  const keys = (written ?? "").split(",").map((key) => key.trim());
  if (step.kind !== "group" || !keys.every((key) => /^(?:[\w"]+\.)?(?:"[^"]+"|[A-Za-z_]\w*)$/.test(key))) return [];
  return keys.map((key) => key.replace(/^.*\./, "").replace(/"/g, ""));
}

/** The traces in the order of reading: what a query needs comes before it. */
export function flatten(trace: Schemas["Trace"], depth = 0, place = 1): TracedQuery[] {
  let subqueries = 0;
  const inside = trace.nested.flatMap((one) => {
    if (one.role === "subquery") subqueries += 1;
    return flatten(one, depth + 1, subqueries);
  });
  return [{ trace, words: words(trace, place), depth }, ...inside];
}
