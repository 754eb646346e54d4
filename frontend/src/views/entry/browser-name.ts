const KINDS: [RegExp, string][] = [
  [/Edg\//, "Edge"],
  [/Firefox\//, "Firefox"],
  [/Chrom(e|ium)\//, "Chrome or Chromium"],
  [/Safari\//, "Safari"],
];
const SYSTEMS: [RegExp, string][] = [
  [/Android/, "Android"],
  [/iPhone|iPad/, "iOS"],
  [/Windows/, "Windows"],
  [/Mac OS X/, "macOS"],
  [/Linux/, "Linux"],
];

/** What a browser calls itself, in words. */
export function browserName(agent: string): string {
  const kind = KINDS.find(([sign]) => sign.test(agent))?.[1] ?? "another program";
  const system = SYSTEMS.find(([sign]) => sign.test(agent))?.[1];
  return system ? `${kind} on ${system}` : kind;
}
