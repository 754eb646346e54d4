import { useSessionStorage } from "@vueuse/core";

import type { Schemas } from "../../api/client";

/** What is shown on the projector: a query on a dataset, and whose it is. */
export interface Presented {
  sql: string;
  sample: string;
  dataset: string;
  engine: string;
  /** Whether LIKE tells capitals from small letters. */
  mindsCase?: boolean;
  /** What is asked, in a sentence; empty for none. */
  prompt: string;
  /** The reference's side is ochre, a learner's plum. */
  side: "due" | "given";
  /** Rows that are added to see what becomes of them; the dataset stays as it is. */
  added?: Schemas["AddedRow"][];
}

/** The query that is presented: kept in this tab, so that a reload shows it again. */
export function usePresented() {
  return useSessionStorage<Presented>(
    "jentrow presented", { sql: "", sample: "", dataset: "open", engine: "sqlite", prompt: "", side: "due" },
  );
}

const SHORT = 170;

/** A prompt without its Markdown: all of it where it is short, else its first sentence. */
export function shortPrompt(prompt: string): string {
  const plain = prompt
    .replace(/\[([^\]]*)\]\([^)]*\)/g, "$1")
    .replace(/[*`#>]|(?<!\w)_|_(?!\w)/g, "")
    .replace(/\s+/g, " ")
    .trim();
  return plain.length <= SHORT ? plain : (/^.*?[.?!](?=\s|$)/.exec(plain)?.[0] ?? plain);
}

/** Where a clause stands in a text, however its blanks are: from and to, or nothing. */
export function placeOfClause(text: string, clause: string): [number, number] | undefined {
  const words = clause.trim().split(/\s+/).filter(Boolean).map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"));
  if (!words.length) return undefined;
  const found = new RegExp(words.join("\\s*"), "i").exec(text);
  return found ? [found.index, found.index + found[0].length] : undefined;
}
