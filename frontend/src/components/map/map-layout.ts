import dagre from "@dagrejs/dagre";

import type { Schemas } from "../../api/client";
import { typeWords } from "../rows/type-words";

type Table = Schemas["TableSchema"];

export const HEAD = 26;
export const LINE = 19;
const FOOT = 5;
const SMALLEST = 150;
const LETTER = 6.6;

export interface MapLine {
  name: string;
  says: string;
  isKey: boolean;
  isLink: boolean;
}

export interface MapCard {
  table: Table;
  x: number;
  y: number;
  width: number;
  height: number;
  lines: MapLine[];
}

export interface MapLink {
  id: string;
  from: string;
  to: string;
  path: string;
  /** Where the link ends, for its mark. */
  end: Point;
}

export interface TableMap {
  cards: MapCard[];
  links: MapLink[];
  /** Cards stand close, row by row: only the links of the table in hand can be told apart. */
  isDense: boolean;
  width: number;
  height: number;
}

interface Point {
  x: number;
  y: number;
}

function linesOf(table: Table): MapLine[] {
  return table.columns.map((column) => {
    const links = table.foreign_keys.filter((key) => key.columns.includes(column.name));
    const isKey = table.primary_key.includes(column.name);
    const unique = table.uniques.some((names) => names.length === 1 && names[0] === column.name);
    const open = !column.not_null && !isKey ? ", may be NULL" : "";
    const type = links.length
      ? `→ ${links.map((key) => key.table).join(", ")}`
      : typeWords(column);
    return {
      name: column.name,
      says: type + (unique ? ", unique" : "") + open,
      isKey,
      isLink: links.length > 0,
    };
  });
}

interface Field {
  width: number;
  height: number;
}

const GAP = 52;
const PACKED_GAP = 20;
/** How small a map may be drawn and still be read. */
export const READABLE = 0.62;
const MARGIN = 14;

/** How large a map can be shown in a field. */
export function fit(map: Field, field: Field): number {
  return Math.min(1, field.width / map.width, field.height / map.height);
}

/** The cards' places and the links' ways: what refers to others leads to what is referred to.
 *
 * A long chain of tables is folded into rows where that lets it be drawn larger.
 */
export function layOut(tables: readonly Table[], compact: boolean, field?: Field): TableMap {
  const graph = new dagre.graphlib.Graph({ multigraph: true });
  graph.setGraph({
    rankdir: "LR", nodesep: compact ? 14 : 22, ranksep: compact ? 44 : GAP, edgesep: 12,
    marginx: MARGIN, marginy: MARGIN,
  });
  graph.setDefaultEdgeLabel(() => ({}));
  const known = new Map(tables.map((table) => [table.name.toLowerCase(), table]));
  const lines = new Map<string, MapLine[]>();
  for (const table of tables) {
    const shown = compact ? [] : linesOf(table);
    lines.set(table.name, shown);
    const widest = Math.max(
      (table.name.length + 9) * 7.4,
      ...shown.map((line) => (line.name.length + line.says.length + 5) * LETTER),
    );
    graph.setNode(table.name, {
      width: Math.max(SMALLEST, Math.round(widest)),
      height: compact ? HEAD + 4 : HEAD + shown.length * LINE + FOOT,
    });
  }
  for (const table of tables) {
    table.foreign_keys.forEach((key, at) => {
      const parent = known.get(key.table.toLowerCase());
      if (parent && parent !== table) graph.setEdge(table.name, parent.name, {}, String(at));
    });
  }
  dagre.layout(graph);
  const cards = tables.map((table) => {
    const node = graph.node(table.name);
    return {
      table,
      x: (node.x ?? 0) - node.width / 2,
      y: (node.y ?? 0) - node.height / 2,
      width: node.width,
      height: node.height,
      lines: lines.get(table.name) ?? [],
    };
  });
  const placed = new Map(cards.map((card) => [card.table.name.toLowerCase(), card]));
  const ranks = ranksOf(cards);
  const size = graph.graph();
  const flat = { width: (size.width ?? 0) + 22, height: size.height ?? 0 };
  const folded = field && fold(cards, ranks, placed, flat, field);
  const isLegible = !field || fit(folded ?? flat, field) >= READABLE;
  const dense = compact && !isLegible ? pack(ranks, field) : undefined;
  const arranged = dense ?? folded;
  const links: MapLink[] = [];
  for (const card of cards) {
    card.table.foreign_keys.forEach((key, at) => {
      const parent = placed.get(key.table.toLowerCase());
      if (!parent) return;
      const edge = arranged
        ? undefined
        : (graph.edge(card.table.name, parent.table.name, String(at)) as { points?: Point[] });
      const points = edge?.points ?? [];
      // Between neighbours there is nothing to go around; a middle point would only be a detour.
      const between = points.length > 3 ? points.slice(1, -1) : [];
      const drawn = drawLink(card, key.columns[0] ?? "", parent, key.to[0] ?? "", between);
      links.push({
        id: `${card.table.name}-${at}`, from: card.table.name, to: parent.table.name, ...drawn,
      });
    });
  }
  return { cards, links, isDense: dense !== undefined, ...(arranged ?? flat) };
}

/** Puts many cards close to each other, column by column in the order of their links. */
function pack(ranks: MapCard[][], field: Field): Field {
  const cards = ranks.flatMap((rank) => [...rank].sort((one, other) => one.y - other.y));
  const width = Math.max(96, ...cards.map((card) => 7.4 * card.table.name.length + 44));
  const pitch = HEAD + 12;
  let best: { columns: number; size: Field } | undefined;
  for (let columns = 1; columns <= cards.length; columns += 1) {
    const size = {
      width: 2 * MARGIN + columns * (width + PACKED_GAP) + 8,
      height: 2 * MARGIN + Math.ceil(cards.length / columns) * pitch,
    };
    if (!best || fit(size, field) > fit(best.size, field)) best = { columns, size };
  }
  const { columns, size } = best ?? { columns: 1, size: field };
  const each = Math.ceil(cards.length / columns);
  cards.forEach((card, at) => {
    card.width = width;
    card.x = MARGIN + Math.floor(at / each) * (width + PACKED_GAP);
    card.y = MARGIN + (at % each) * pitch;
  });
  return size;
}

/** The columns of cards, from left to right. */
function ranksOf(cards: readonly MapCard[]): MapCard[][] {
  const middles = [...new Set(cards.map((card) => Math.round(card.x + card.width / 2)))];
  return middles
    .sort((one, other) => one - other)
    .map((middle) => cards.filter((card) => Math.round(card.x + card.width / 2) === middle));
}

/** Puts the columns into rows, every second one from right to left, where that shows them larger.
 *
 * Only where every link joins neighbouring columns: others would have to cross a card.
 */
function fold(
  cards: readonly MapCard[],
  ranks: MapCard[][],
  placed: Map<string, MapCard>,
  flat: Field,
  field: Field,
): Field | undefined {
  const rankOf = new Map(ranks.flatMap((rank, at) => rank.map((card) => [card, at] as const)));
  const joinsNeighbours = cards.every((card) =>
    card.table.foreign_keys.every((key) => {
      const parent = placed.get(key.table.toLowerCase());
      const apart = parent ? Math.abs((rankOf.get(parent) ?? 0) - (rankOf.get(card) ?? 0)) : 0;
      return apart <= 1;
    }),
  );
  if (ranks.length < 3 || !joinsNeighbours) return undefined;
  const widths = ranks.map((rank) => Math.max(...rank.map((card) => card.width)));
  const tops = ranks.map((rank) => Math.min(...rank.map((card) => card.y)));
  const heights = ranks.map(
    (rank, at) => Math.max(...rank.map((card) => card.y + card.height)) - (tops[at] ?? 0),
  );
  let best: { each: number; size: Field } | undefined;
  for (let each = 1; each < ranks.length; each += 1) {
    const size = sizeFolded(widths, heights, each);
    if (!best || fit(size, field) > fit(best.size, field)) best = { each, size };
  }
  if (!best || fit(best.size, field) <= fit(flat, field)) return undefined;
  let y = MARGIN;
  for (let start = 0; start < ranks.length; start += best.each) {
    const row = ranks.slice(start, start + best.each);
    const backwards = (start / best.each) % 2 === 1;
    let x = backwards ? best.size.width - MARGIN - 22 : MARGIN;
    row.forEach((rank, at) => {
      const width = widths[start + at] ?? 0;
      if (backwards) x -= width;
      for (const card of rank) {
        card.y += y - (tops[start + at] ?? 0);
        card.x = x + (width - card.width) / 2;
      }
      x += backwards ? -GAP : width + GAP;
    });
    y += Math.max(...heights.slice(start, start + best.each)) + GAP / 2;
  }
  return best.size;
}

function sizeFolded(widths: number[], heights: number[], each: number): Field {
  let width = 0;
  let height = 2 * MARGIN - GAP / 2;
  for (let start = 0; start < widths.length; start += each) {
    const row = widths.slice(start, start + each);
    width = Math.max(width, row.reduce((sum, one) => sum + one + GAP, -GAP));
    height += Math.max(...heights.slice(start, start + each)) + GAP / 2;
  }
  return { width: width + 2 * MARGIN + 22, height };
}

/** A link from a column's line to another's, by the sides that face each other. */
function drawLink(
  card: MapCard,
  column: string,
  parent: MapCard,
  to: string,
  between: Point[],
): { path: string; end: Point } {
  if (parent.x >= card.x + card.width) {
    const end = portOf(parent, to, "left");
    return { path: way([portOf(card, column, "right"), ...between, end]), end };
  }
  if (parent.x + parent.width <= card.x) {
    const end = portOf(parent, to, "right");
    return { path: way([portOf(card, column, "left"), ...between, end]), end };
  }
  const end = portOf(parent, to, "right");
  const start = portOf(card, column, "right");
  const out = Math.max(start.x, end.x) + 26;
  return {
    path: `M${start.x} ${start.y}C${out} ${start.y} ${out} ${end.y} ${end.x} ${end.y}`, end,
  };
}

/** Where a link touches a card: at the line of its column, or at the card's head. */
function portOf(card: MapCard, column: string, side: "left" | "right"): Point {
  const at = card.lines.findIndex((line) => line.name === column);
  const y = at < 0 ? card.y + HEAD / 2 + 2 : card.y + HEAD + at * LINE + LINE / 2;
  return { x: side === "left" ? card.x : card.x + card.width, y };
}

/** A smooth way through points that leaves and arrives level. */
function way(points: Point[]): string {
  const [first, ...rest] = points;
  if (!first) return "";
  let path = `M${first.x} ${first.y}`;
  let before = first;
  for (const point of rest) {
    const middle = (before.x + point.x) / 2;
    path += `C${middle} ${before.y} ${middle} ${point.y} ${point.x} ${point.y}`;
    before = point;
  }
  return path;
}

/** The card nearest to another in a direction, for the arrow keys. */
export function nearest(cards: MapCard[], from: MapCard, key: string): MapCard | undefined {
  const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
    key
  ] ?? [0, 0];
  let best: MapCard | undefined;
  let least = Infinity;
  for (const card of cards) {
    const x = card.x + card.width / 2 - (from.x + from.width / 2);
    const y = card.y + card.height / 2 - (from.y + from.height / 2);
    const along = x * (dx ?? 0) + y * (dy ?? 0);
    if (card === from || along <= 0) continue;
    const off = Math.abs(x * (dy ?? 0)) + Math.abs(y * (dx ?? 0));
    const score = along + 2 * off;
    if (score < least) [best, least] = [card, score];
  }
  return best;
}
