/** The guides in docs/, cut into their sections: shown beside the work, and searched. */
const TEXTS = import.meta.glob<string>(
  "../../../docs/{instructing,marking,exercises,blind-spots,comparison,formats,learning,administering}.md",
  { query: "?raw", import: "default", eager: true },
);

export interface Section {
  /** The guide that it stands in: the name of its file. */
  guide: string;
  /** What links call it: its heading in small letters, with hyphens. */
  id: string;
  level: number;
  heading: string;
  text: string;
}

const PICTURE = /^!\[.*$/gm;

/** Which guides are for whom: learners are shown no more than concerns them. */
const GUIDES = {
  instructor: ["instructing", "marking", "exercises", "blind-spots", "comparison", "formats", "learning", "administering"],
  learner: ["learning"],
};

export type Reader = keyof typeof GUIDES;

function idOf(heading: string): string {
  return heading.toLowerCase().replace(/[^\w\s-]/g, "").trim().replace(/\s+/g, "-");
}

function sectionsOf(guide: string, text: string): Section[] {
  const sections: Section[] = [];
  let inCode = false;
  for (const line of text.replace(PICTURE, "").split("\n")) {
    if (line.startsWith("```")) inCode = !inCode;
    const found = inCode ? null : /^(#{1,4}) (.*)$/.exec(line);
    if (found) {
      const heading = (found[2] ?? "").replace(/`/g, "");
      sections.push({ guide, id: idOf(heading), level: found[1]?.length ?? 1, heading, text: "" });
    } else {
      const last = sections.at(-1);
      if (last) last.text += `${line}\n`;
    }
  }
  return sections;
}

const ALL = new Map(
  Object.entries(TEXTS).map(([path, text]) => {
    const guide = path.replace(/^.*\/(\w+)\.md$/, "$1");
    return [guide, sectionsOf(guide, text)] as const;
  }),
);

/** The sections of one guide, in their order. */
export function guideSections(guide: string): Section[] {
  return ALL.get(guide) ?? [];
}

/** The guides that a reader may open, with their titles. */
export function guidesFor(reader: Reader): { guide: string; title: string }[] {
  return GUIDES[reader].map((guide) => ({ guide, title: guideSections(guide)[0]?.heading ?? guide }));
}

/** The sections that hold every word; those with all of them in the heading first. */
export function foundSections(reader: Reader, wanted: string): Section[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.length) return [];
  const holds = (text: string) => words.every((word) => text.toLowerCase().includes(word));
  const all = GUIDES[reader].flatMap(guideSections);
  const inHeading = all.filter((one) => holds(one.heading));
  return [...inHeading, ...all.filter((one) => !inHeading.includes(one) && holds(`${one.heading} ${one.text}`))];
}

/** The words around the first place where a section holds one of those looked for. */
export function excerpt(section: Section, wanted: string): string {
  const text = section.text.replace(/[`*|#>[\]]|\([^)]*\.md[^)]*\)/g, "").replace(/\s+/g, " ").trim();
  const [first = ""] = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const at = Math.max(0, text.toLowerCase().indexOf(first) - 40);
  const from = at ? text.indexOf(" ", at) + 1 : 0;
  return `${from ? "… " : ""}${text.slice(from, from + 130).trim()}${from + 130 < text.length ? " …" : ""}`;
}
