/** Where the names of points stand, so that no two lie on one another or on a point. */

export interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

const RADIUS = 8;
const GAP = 4;
const SWEEPS = 5;

/** How much of two boxes is the same place, in square pixels. */
function overlap(one: Box, other: Box): number {
  const width = Math.min(one.right, other.right) - Math.max(one.left, other.left);
  const height = Math.min(one.bottom, other.bottom) - Math.max(one.top, other.top);
  return width > 0 && height > 0 ? width * height : 0;
}

/** The places around a point where its name may stand, the likeliest to be read as its own first. */
function places([x, y]: [number, number], width: number, height: number): Box[] {
  const beside = RADIUS + GAP;
  const found: Box[] = [];
  const at = (left: number, top: number) => found.push({ left, top, right: left + width, bottom: top + height });
  at(x + beside, y - height / 2);
  at(x - beside - width, y - height / 2);
  for (const share of [0.5, 0.2, 0.8, 0, 1]) {
    at(x - width * share, y - RADIUS - height);
    at(x - width * share, y + RADIUS);
  }
  for (const off of [0.75, 1.25, 1.75, 2.25].map((lines) => lines * height)) {
    for (const top of [y - height / 2 - off, y - height / 2 + off]) {
      at(x + beside, top);
      at(x - beside - width, top);
    }
  }
  return found;
}

/**
 * The box of each name: beside its point where there is room, else above, below or aslant of it.
 *
 * Each is placed where it lies on the least of the points and of the other names; then once more, now that all
 * the others stand somewhere, until none has a better place. Where that ends hangs on who is placed first, so
 * that several sequences are tried.
 */
export function namesApart(points: [number, number][], widths: number[], height: number, room: Box): Box[] {
  const dots: Box[] = points.map(([x, y]) => ({ left: x - RADIUS, top: y - RADIUS, right: x + RADIUS, bottom: y + RADIUS }));
  const free = points.map((point, at) => places(point, widths[at] ?? 0, height));

  function covered(box: Box, others: Box[]): number {
    const outside = (box.right - box.left) * height - overlap(box, room);
    return Math.round(others.reduce((sum, other) => sum + overlap(box, other), 10 * outside));
  }

  function placed(sequence: number[]): { names: Box[]; cost: number } {
    const names: Box[] = [];
    const besides = (at: number) => [...dots, ...names.filter((_, other) => other !== at)];
    let cost = Infinity;
    for (let sweep = 0; sweep < SWEEPS && cost > 0; sweep++) {
      for (const at of sequence) {
        const others = besides(at);
        const costs = (free[at] ?? []).map((box) => covered(box, others));
        const best = free[at]?.[costs.indexOf(Math.min(...costs))];
        if (best) names[at] = best;
      }
      cost = names.reduce((sum, box, at) => sum + covered(box, besides(at)), 0);
    }
    return { names, cost };
  }

  const given = points.map((_, at) => at);
  const along = (axis: 0 | 1) => [...given].sort((one, other) => (points[other]?.[axis] ?? 0) - (points[one]?.[axis] ?? 0));
  let best = placed(given);
  for (const sequence of [along(0), along(1), along(0).reverse(), along(1).reverse()]) {
    if (!best.cost) break;
    const next = placed(sequence);
    if (next.cost < best.cost) best = next;
  }
  return best.names;
}
