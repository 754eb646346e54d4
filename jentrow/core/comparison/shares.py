"""How much of a result is right, part by part: what a mark by parts is made of."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from fractions import Fraction

from jentrow.core.comparison.compare import Comparison


@dataclass(frozen=True, slots=True)
class ResultShares:
    """The right share of each part of a result, from 0 to 1; None for a part that does not count.

    ``rows`` is the share of matched rows among all that are due or given, whichever are more;
    ``order`` the share of those that stand where they belong.
    """

    columns: Fraction = Fraction(1)
    rows: Fraction = Fraction(1)
    order: Fraction | None = None
    names: Fraction | None = None

    def least(self, other: ResultShares) -> ResultShares:
        """The smaller share of each part: what holds on two datasets."""
        return ResultShares(
            min(self.columns, other.columns),
            min(self.rows, other.rows),
            _least(self.order, other.order),
            _least(self.names, other.names),
        )


def _least(ours: Fraction | None, theirs: Fraction | None) -> Fraction | None:
    return None if ours is None or theirs is None else min(ours, theirs)


def nothing_right(shares: ResultShares) -> ResultShares:
    """No share of any part that counts."""
    return ResultShares(
        Fraction(0),
        Fraction(0),
        None if shares.order is None else Fraction(0),
        None if shares.names is None else Fraction(0),
    )


def full_shares(comparison: Comparison) -> ResultShares:
    """Everything right, of the parts that count under the comparison's rules."""
    ordered = comparison.mode != "free"
    named = comparison.rules.column_names != "ignore"
    return ResultShares(
        order=Fraction(1) if ordered else None, names=Fraction(1) if named else None
    )


def shares_of(comparison: Comparison) -> ResultShares:
    """The right shares of a result that was compared."""
    full = full_shares(comparison)
    if comparison.verdict == "correct":
        return full
    names = full.names
    if names is not None:
        named = sum(column.named for column in comparison.expectation.result.columns)
        right = named - len(comparison.wrong_names)
        names = Fraction(right, named) if named else Fraction(1)
    if any(finding.code == "columns.order" for finding in comparison.findings):
        # The rows are right under another order of the columns: only that is wrong.
        moved = next(f.count for f in comparison.findings if f.code == "columns.order")
        width = len(comparison.expectation.result.columns)
        return ResultShares(Fraction(width - moved, width), Fraction(1), full.order, names)
    columns = _columns(comparison)
    if comparison.pairing.agrees:
        return ResultShares(columns, Fraction(1), full.order, names)
    rows, in_place = _rows(comparison)
    return ResultShares(columns, rows, None if full.order is None else in_place, names)


def _columns(comparison: Comparison) -> Fraction:
    due, given = len(comparison.expectation.result.columns), len(comparison.given.columns)
    whole = due if comparison.rules.extra_columns == "allow" else max(due, given)
    return Fraction(len(comparison.shared_columns), whole) if whole else Fraction(1)


def _rows(comparison: Comparison) -> tuple[Fraction, Fraction]:
    """The share of matched rows, and of those the share that stands in place."""
    if not comparison.shared_columns:
        return Fraction(0), Fraction(0)
    difference = comparison.difference
    kinds = Counter(row.kind for row in difference.rows)
    due = given = matched = kinds["agrees"] + kinds["tie"] + kinds["moved"] + difference.agreeing
    for row in difference.rows:
        if row.times is not None:
            matched += min(row.times)
            due += row.times[0]
            given += row.times[1]
    due += kinds["absent"] + kinds["differs"]
    given += kinds["extra"] + kinds["differs"]
    whole = max(due, given)
    if not whole:
        return Fraction(1), Fraction(1)
    in_place = Fraction(matched - kinds["moved"], matched) if matched else Fraction(0)
    return Fraction(matched, whole), in_place
