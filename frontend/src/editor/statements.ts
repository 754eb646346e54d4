/** The statements of a text, cut where a semicolon stands outside of quotes and comments. */
export interface Statement {
  from: number;
  to: number;
}

const PIECE = /--[^\n]*|\/\*[\s\S]*?(?:\*\/|$)|'(?:[^']|'')*(?:'|$)|"(?:[^"]|"")*(?:"|$)|`[^`]*(?:`|$)|\[[^\]]*(?:\]|$)|;|\s+|[^\s;'"`[\-/]+|[-/]/g;

/** The statements that hold more than blanks and comments; each ends where its semicolon stands. */
export function statementsIn(sql: string): Statement[] {
  const found: Statement[] = [];
  let from = -1;
  let to = 0;
  for (const piece of sql.matchAll(PIECE)) {
    const text = piece[0];
    if (text === ";") {
      if (from >= 0) found.push({ from, to: piece.index });
      from = -1;
    } else if (!/^\s|^--|^\/\*/.test(text)) {
      if (from < 0) from = piece.index;
      to = piece.index + text.length;
    }
  }
  if (from >= 0) found.push({ from, to });
  return found;
}

/** The statement that a place is in, or else the one before it. */
export function statementAt(sql: string, place: number): Statement | undefined {
  const all = statementsIn(sql);
  return all.find((one) => place <= one.to) ?? all.at(-1);
}

/** A piece of a text that is run alone, and where it begins: line and column, counted from 1. */
export interface Piece {
  sql: string;
  line: number;
  column: number;
}

export function pieceOf(sql: string, from: number, to: number): Piece {
  const before = sql.slice(0, from);
  return {
    sql: sql.slice(from, to),
    line: before.split("\n").length,
    column: from - before.lastIndexOf("\n"),
  };
}

/** A place in the whole text, of a place in a piece of it. */
export function placeInWhole(piece: Piece, place: { line: number; column: number }) {
  return {
    line: piece.line + place.line - 1,
    column: place.line === 1 ? piece.column + place.column - 1 : place.column,
  };
}
