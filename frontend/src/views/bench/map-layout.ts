import dagre from "@dagrejs/dagre";

import type { Schemas } from "../../api/client";

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
      : (column.type_name ?? (column.type || "any type"));
    return {
      name: column.name,
      says: type + (unique ? ", unique" : "") + open,
      isKey,
      isLink: links.length > 0,
    };
  });
}

/** The cards' places and the links' ways, from left (what refers) to right (what is referred to). */
export function layOut(tables: readonly Table[], compact: boolean): TableMap {
  const graph = new dagre.graphlib.Graph({ multigraph: true });
  graph.setGraph({
    rankdir: "LR", nodesep: compact ? 14 : 22, ranksep: compact ? 44 : 56, edgesep: 12,
    marginx: 14, marginy: 14,
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
  const placed = new Map(cards.map((card) => [card.table.name, card]));
  const links: MapLink[] = [];
  for (const card of cards) {
    card.table.foreign_keys.forEach((key, at) => {
      const parent = placed.get(known.get(key.table.toLowerCase())?.name ?? "");
      if (!parent) return;
      const id = `${card.table.name}-${at}`;
      const start = portOf(card, key.columns[0] ?? "", "right");
      if (parent === card) {
        const end = portOf(card, key.to[0] ?? "", "right");
        links.push({ id, from: card.table.name, to: card.table.name, path: loop(start, end), end });
        return;
      }
      const edge = graph.edge(card.table.name, parent.table.name, String(at)) as {
        points?: Point[];
      };
      const end = portOf(parent, key.to[0] ?? "", "left");
      const between = (edge.points ?? []).slice(1, -1);
      links.push({
        id, from: card.table.name, to: parent.table.name, end,
        path: way([start, ...between, end]),
      });
    });
  }
  const size = graph.graph();
  return { cards, links, width: (size.width ?? 0) + 20, height: size.height ?? 0 };
}

/** Where a link touches a card: at the line of its column, or at the card's head. */
function portOf(card: MapCard, column: string, side: "left" | "right"): Point {
  const at = card.lines.findIndex((line) => line.name === column);
  const y = at < 0 ? card.y + HEAD / 2 + 2 : card.y + HEAD + at * LINE + LINE / 2;
  return { x: side === "left" ? card.x : card.x + card.width, y };
}

function loop(start: Point, end: Point): string {
  const out = start.x + 26;
  return `M${start.x} ${start.y}C${out} ${start.y} ${out} ${end.y} ${end.x} ${end.y}`;
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
