import type { Schemas } from "../../api/client";
import { linkAddress } from "../../api/people";

function quoted(field: string): string {
  // A spreadsheet would run a field that begins like a formula.
  const safe = /^[=+\-@\t]/.test(field) ? `'${field}` : field;
  return /[",\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** Hands personal links out as a CSV file: learner id, name, e-mail, link. */
export function saveLinks(links: Schemas["PersonalLink"][], title: string): void {
  const lines = links.map((one) =>
    [one.code, one.name, one.email, linkAddress(one.token)].map(quoted).join(","),
  );
  const text = ["learner id,name,e-mail,link", ...lines].join("\r\n") + "\r\n";
  const place = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
  const anchor = document.createElement("a");
  anchor.href = place;
  anchor.download = `links ${title}.csv`.replace(/[^\w .-]+/g, "");
  anchor.click();
  setTimeout(() => URL.revokeObjectURL(place));
}
