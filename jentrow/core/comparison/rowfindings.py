"""Findings about rows: those that are missing or too many, come too often or too seldom, or stand elsewhere."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from jentrow.core.comparison.causes import Cause
from jentrow.core.comparison.difference import Difference, WovenRow
from jentrow.core.comparison.findings import Finding
from jentrow.core.words import counted, is_or_are


def undecided_finding(due_rows: int) -> Finding:
    """The finding for rows whose order is neither right nor wrong."""
    return Finding(
        "rows.order",
        "The rows are right. Whether their order is right cannot be told here, because it is not "
        "known which rows may change places: your instructor decides.",
        due_rows,
        evidence={"undecided": "row_order"},
    )


def row_findings(
    difference: Difference,
    names: Sequence[str],
    *,
    due_count: int,
    given_count: int,
) -> list[Finding]:
    """What whole rows show, with the causes that they suggest; ``names`` are the due columns in words."""
    by_kind: dict[str, list[WovenRow]] = {}
    for row in difference.rows:
        by_kind.setdefault(row.kind, []).append(row)
    findings: list[Finding] = []
    product = (_product(given_count),) if given_count > due_count else ()
    absent, extra = by_kind.get("absent", []), by_kind.get("extra", [])
    if absent:
        telling = None if extra or "differs" in by_kind else _telling_null(absent, difference.rows)
        findings.append(_missing(absent, names, telling))
    if extra:
        telling = None if absent or "differs" in by_kind else _telling_null(extra, difference.rows)
        findings.append(_extra(extra, names, product, telling))
    repeated = [
        row for row in by_kind.get("times", ()) if row.times and row.times[1] > row.times[0]
    ]
    collapsed = [
        row for row in by_kind.get("times", ()) if row.times and row.times[1] < row.times[0]
    ]
    if repeated:
        findings.append(_repeated(repeated, product))
    if collapsed:
        findings.append(_collapsed(collapsed))
    if moved := by_kind.get("moved"):
        findings.append(moved_finding(moved, difference))
    return findings


def said_to_be_partial(findings: list[Finding]) -> list[Finding]:
    """The findings of a difference that was too large to pair all of its rows by their cells."""
    first, *others = findings
    words = "So many rows differ that only a part was compared cell by cell."
    partial = replace(
        first, message=f"{first.message} {words}", evidence=first.evidence | {"partial": True}
    )
    return [partial, *others]


def _product(given_count: int) -> Cause:
    return Cause(
        "product_of_tables",
        "There are as many as {sizes}: {each}, for no condition links them.",
        product=given_count,
        evidence={"rows": given_count},
    )


def _missing(absent: list[WovenRow], names: Sequence[str], null_in: int | None) -> Finding:
    message = f"{counted(len(absent), 'row')} {is_or_are(absent)} missing"
    if null_in is None:
        return Finding("rows.missing", message + ".", len(absent))
    column = names[null_in]
    message += f": {_each_has(absent)} NULL in {column}, and no other row has"
    evidence = {"columns": [column]}
    causes = (
        Cause("null_compared", "A comparison with NULL is never true.", compares=column),
        Cause(
            "partner_missing",
            "An inner join drops rows without a partner.",
            needs=frozenset({"inner_join"}),
        ),
    )
    return Finding("rows.missing", message + ".", len(absent), evidence=evidence, causes=causes)


def _extra(
    extra: list[WovenRow],
    names: Sequence[str],
    product: tuple[Cause, ...],
    null_in: int | None,
) -> Finding:
    message = f"{counted(len(extra), 'row')} {is_or_are(extra)} not asked for"
    evidence: dict[str, Any] = {}
    if null_in is not None:
        message += f": {_each_has(extra)} NULL in {names[null_in]}, and no other row has"
        evidence = {"columns": [names[null_in]]}
    return Finding("rows.extra", message + ".", len(extra), evidence=evidence, causes=product)


def _each_has(rows: Sequence[object]) -> str:
    return "it has" if len(rows) == 1 else "each of them has"


def _telling_null(told: list[WovenRow], rows: Sequence[WovenRow]) -> int | None:
    """The first column in which these rows have NULL and no other row has."""
    values = [row.due or row.given or () for row in told]
    others = [row.due or () for row in rows if row.kind not in ("absent", "extra")]
    if not others:
        return None
    for at in range(len(values[0])):
        if all(row[at] is None for row in values) and all(row[at] is not None for row in others):
            return at
    return None


def _repeated(rows: list[WovenRow], product: tuple[Cause, ...]) -> Finding:
    times = [row.times for row in rows if row.times]
    surplus = sum(given - due for due, given in times)
    message = f"{counted(len(rows), 'right row')} {'comes' if len(rows) == 1 else 'come'} too often ({surplus} more than due)"
    causes = [*product]
    if all(due == 1 for due, _ in times):
        message += ": each is due once" if len(rows) > 1 else ": it is due once"
        causes += [
            Cause(
                "union_all",
                "UNION ALL keeps repeated rows; UNION does not.",
                frozenset({"union_all", "keeps_repeats"}),
            ),
            Cause(
                "repeats_not_removed",
                "Nothing in the query removes repeated rows, as DISTINCT does.",
                frozenset({"keeps_repeats"}),
            ),
        ]
    else:
        causes.append(
            Cause(
                "join_multiplies",
                "A row of a join comes once for each partner that it meets.",
                frozenset({"several_sources"}),
            )
        )
    return Finding("rows.repeated", message + ".", len(rows), causes=tuple(causes))


def _collapsed(rows: list[WovenRow]) -> Finding:
    times = [row.times for row in rows if row.times]
    lacking = sum(due - given for due, given in times)
    message = f"{counted(len(rows), 'right row')} {'comes' if len(rows) == 1 else 'come'} too seldom ({lacking} fewer than due)"
    causes: tuple[Cause, ...] = ()
    if all(given == 1 for _, given in times):
        causes = (
            Cause("distinct", "DISTINCT makes repeated rows one.", frozenset({"distinct"})),
            Cause(
                "combined",
                "A set operation without ALL makes repeated rows one.",
                frozenset({"combined"}),
            ),
            Cause("group_by", "GROUP BY makes one row of each group.", frozenset({"group_by"})),
        )
    return Finding("rows.collapsed", message + ".", len(rows), causes=causes)


def moved_finding(moved: list[WovenRow], difference: Difference) -> Finding:
    """The finding for rows out of order."""
    message = (
        f"{counted(len(moved), 'row')} {'stands' if len(moved) == 1 else 'stand'} out of order"
    )
    pairs = [
        (row.due_at, row.given_at)
        for row in difference.rows
        if row.due_at is not None and row.given_at is not None
    ]
    whole = all(row.kind in ("agrees", "moved", "tie") for row in difference.rows)
    ranks = _levels(difference)
    falling = [ranks[due] for due, _ in sorted(pairs, key=lambda pair: pair[1])]
    causes: tuple[Cause, ...] = (
        Cause(
            "no_order_by",
            "The query has no ORDER BY, and so no order of its own.",
            frozenset({"no_order_by"}),
        ),
    )
    if whole and len(set(falling)) > 2 and falling == sorted(falling, reverse=True):
        message = "The rows are right, but come in reverse order"
        reverse = Cause("order_reversed", "ASC and DESC are exchanged.", frozenset({"order_by"}))
        causes = (reverse, *causes)
    elif whole:
        message += "; apart from that the rows are right"
    return Finding("rows.order", message + ".", len(moved), causes=causes)


def _levels(difference: Difference) -> dict[int, int]:
    """For each due place, the first place of its tie group: rows that tie stand level."""
    first_of_tie: dict[int, int] = {}
    levels: dict[int, int] = {}
    for row in difference.rows:
        if row.due_at is None:
            continue
        level = row.due_at if row.tie is None else first_of_tie.setdefault(row.tie, row.due_at)
        levels[row.due_at] = level
    return levels
