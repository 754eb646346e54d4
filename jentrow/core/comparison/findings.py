"""The closed list of findings, and what was found in one difference, in a learner's words."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Any, Final, Literal, TypeAlias, get_args

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.difference import Difference, WovenRow
from jentrow.core.values import Value, family_of, kind_of, printed

FindingCode: TypeAlias = Literal[
    "columns.missing",
    "columns.extra",
    "columns.order",
    "columns.name",
    "rows.missing",
    "rows.extra",
    "rows.repeated",
    "rows.collapsed",
    "rows.order",
    "cells.differ",
    "cells.null",
    "cells.rounding",
    "cells.type",
    "cells.case",
    "cells.space",
    "construct.required",
    "construct.forbidden",
    "style.layout",
    "sql.syntax",
    "sql.object",
    "sql.runtime",
    "policy.statement",
    "policy.function",
    "limit.time",
    "limit.rows",
    "limit.memory",
    "held_back.differs",
]

CODES: Final[tuple[FindingCode, ...]] = get_args(FindingCode)


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing found.

    ``count`` is how many rows, cells or columns it concerns. ``evidence`` holds plain JSON: the
    columns, the likely ``cause`` where the difference supports one, the place in the text.
    """

    code: FindingCode
    message: str
    count: int = 1
    dataset: str = "open"
    evidence: dict[str, Any] = field(default_factory=dict)

    def to_json(self) -> dict[str, Any]:
        """The finding as the command line prints it."""
        out: dict[str, Any] = {
            "code": self.code,
            "message": self.message,
            "count": self.count,
            "dataset": self.dataset,
        }
        return out | ({"evidence": self.evidence} if self.evidence else {})


def column_findings(
    due: Sequence[str], given: Sequence[str], paired: Sequence[int | None]
) -> list[Finding]:
    """Findings about a number of columns that is not the one due."""
    missing = [name for name, at in zip(due, paired, strict=True) if at is None]
    extra = [name for at, name in enumerate(given) if at not in paired]
    wanted = f"{_count(len(given), 'column')} given, {len(due)} due"
    findings = []
    if missing:
        findings.append(
            Finding(
                "columns.missing",
                f"{wanted}: {_listed(missing)} {_is(missing)} missing.",
                len(missing),
                evidence={"columns": missing},
            )
        )
    if extra:
        findings.append(
            Finding(
                "columns.extra",
                f"{wanted}: {_listed(extra)} {_is(extra)} not asked for.",
                len(extra),
                evidence={"columns": extra},
            )
        )
    return findings


def swapped_columns(names: Sequence[str], permutation: Sequence[int]) -> Finding:
    """The finding for right columns in the wrong order."""
    moved = [name for at, name in enumerate(names) if permutation[at] != at]
    return Finding(
        "columns.order",
        f"The columns are right, but in another order: {_listed(moved)} "
        f"{'change places' if len(moved) == 2 else 'stand elsewhere'}.",
        len(moved),
        evidence={"columns": moved, "cause": "columns_swapped"},
    )


def name_finding(wrong: Sequence[tuple[str, str]]) -> Finding:
    """The finding for column names that differ; pairs of (due, given)."""
    pairs = "; ".join(f"{due!r} is due, {given!r} is given" for due, given in wrong)
    return Finding(
        "columns.name",
        f"{_count(len(wrong), 'column name')} {'differs' if len(wrong) == 1 else 'differ'}: {pairs}.",
        len(wrong),
        evidence={"columns": [due for due, _ in wrong]},
    )


def row_findings(
    difference: Difference,
    names: Sequence[str],
    cells: CellComparison,
    *,
    due_count: int,
    given_count: int,
    table_sizes: Sequence[int] = (),
) -> list[Finding]:
    """What the woven rows show, with the likely cause where the evidence supports it.

    ``table_sizes`` are the row counts of the sample's tables: a result as long as the product of
    two of them tells of a join without its condition.
    """
    by_kind: dict[str, list[WovenRow]] = {}
    for row in difference.rows:
        by_kind.setdefault(row.kind, []).append(row)
    findings: list[Finding] = []
    product = _product_of_tables(due_count, given_count, table_sizes)
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
        findings.append(_moved(moved, difference))
    findings.extend(_cell_findings(by_kind.get("differs", []), names, cells))
    if difference.partial and findings:
        # So many rows are left over that pairing all of them by their cells would take too long.
        first = findings[0]
        findings[0] = replace(
            first,
            message=f"{first.message} So many rows differ that only a part was compared cell by cell.",
            evidence=first.evidence | {"partial": True},
        )
    return findings


def _missing(absent: list[WovenRow], names: Sequence[str], null_in: int | None) -> Finding:
    message = f"{_count(len(absent), 'row')} {_is(absent)} missing"
    evidence: dict[str, Any] = {}
    if null_in is not None:
        column = names[null_in]
        message += (
            f": {_each_has(absent)} NULL in {column}, and no other row has. A comparison with NULL "
            "is never true, and an inner join drops rows without a partner"
        )
        evidence = {"cause": "null_in_missing_rows", "columns": [column]}
    return Finding("rows.missing", message + ".", len(absent), evidence=evidence)


def _extra(
    extra: list[WovenRow],
    names: Sequence[str],
    product: tuple[int, int] | None,
    null_in: int | None,
) -> Finding:
    message = f"{_count(len(extra), 'row')} {_is(extra)} not asked for"
    evidence: dict[str, Any] = {}
    if product:
        message += _product_words(product)
        evidence = {"cause": "product_of_tables", "rows": list(product)}
    elif null_in is not None:
        message += f": {_each_has(extra)} NULL in {names[null_in]}, and no other row has"
        evidence = {"cause": "null_in_extra_rows", "columns": [names[null_in]]}
    return Finding("rows.extra", message + ".", len(extra), evidence=evidence)


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


def _repeated(rows: list[WovenRow], product: tuple[int, int] | None) -> Finding:
    times = [row.times for row in rows if row.times]
    surplus = sum(given - due for due, given in times)
    message = f"{_count(len(rows), 'right row')} {'comes' if len(rows) == 1 else 'come'} too often ({surplus} more than due)"
    evidence: dict[str, Any] = {}
    if product:
        message += _product_words(product)
        evidence = {"cause": "product_of_tables", "rows": list(product)}
    elif all(due == 1 for due, _ in times):
        message += (
            ": each is due once. DISTINCT is missing, UNION ALL stands where UNION is due, or a "
            "join meets several partners"
        )
        evidence = {"cause": "repeats_not_removed"}
    else:
        message += ": a join may meet several partners"
        evidence = {"cause": "join_multiplies"}
    return Finding("rows.repeated", message + ".", len(rows), evidence=evidence)


def _collapsed(rows: list[WovenRow]) -> Finding:
    times = [row.times for row in rows if row.times]
    lacking = sum(due - given for due, given in times)
    message = f"{_count(len(rows), 'right row')} {'comes' if len(rows) == 1 else 'come'} too seldom ({lacking} fewer than due)"
    evidence: dict[str, Any] = {}
    if all(given == 1 for _, given in times):
        message += (
            ": repeated rows were made one. DISTINCT or GROUP BY is too much here, or UNION "
            "stands where UNION ALL is due"
        )
        evidence = {"cause": "repeats_removed"}
    return Finding("rows.collapsed", message + ".", len(rows), evidence=evidence)


def _moved(moved: list[WovenRow], difference: Difference) -> Finding:
    message = f"{_count(len(moved), 'row')} {'stands' if len(moved) == 1 else 'stand'} out of order"
    evidence: dict[str, Any] = {}
    pairs = [
        (row.due_at, row.given_at)
        for row in difference.rows
        if row.due_at is not None and row.given_at is not None
    ]
    whole = all(row.kind in ("agrees", "moved", "tie") for row in difference.rows)
    ranks = _levels(difference)
    falling = [ranks[due] for due, _ in sorted(pairs, key=lambda pair: pair[1])]
    if whole and len(set(falling)) > 2 and falling == sorted(falling, reverse=True):
        message = "The rows are right, but come in reverse order: ASC and DESC are exchanged"
        evidence = {"cause": "order_reversed"}
    elif whole:
        message += "; apart from that the rows are right"
    return Finding("rows.order", message + ".", len(moved), evidence=evidence)


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


def _cell_findings(
    rows: list[WovenRow], names: Sequence[str], cells: CellComparison
) -> list[Finding]:
    """One finding for each way in which cells differ."""
    columns: dict[FindingCode, Counter[int]] = {}
    kinds: dict[tuple[FindingCode, int], tuple[str, str]] = {}
    for row in rows:
        assert row.due is not None
        assert row.given is not None
        for at in row.wrong:
            code = how_cells_differ(row.due[at], row.given[at], cells)
            columns.setdefault(code, Counter())[at] += 1
            kinds.setdefault((code, at), (kind_of(row.due[at]), kind_of(row.given[at])))
    findings = []
    for code, found in columns.items():
        words = [names[at] for at in sorted(found)]
        count = found.total()
        verb = _CELL_WORDS[code][count == 1]
        message = f"{_count(count, 'cell')} of {_listed(words)} {verb}"
        if code == "cells.type":
            due, given = kinds[code, min(found)]
            message = f"{_count(count, 'cell')} of {_listed(words)}: {due} is due, {given} is given"
        if code == "cells.null":
            message = _null_words(rows, found, words, count)
        findings.append(Finding(code, message + ".", count, evidence={"columns": words}))
    order = {code: at for at, code in enumerate(CODES)}
    return sorted(findings, key=lambda finding: order[finding.code])


_CELL_WORDS: Final[dict[FindingCode, tuple[str, str]]] = {
    "cells.differ": ("hold another value than is due", "holds another value than is due"),
    "cells.rounding": ("differ only by rounding", "differs only by rounding"),
    "cells.case": ("differ only in upper and lower case", "differs only in upper and lower case"),
    "cells.space": ("differ only in blanks", "differs only in blanks"),
    "cells.type": ("are of another type", "is of another type"),
    "cells.null": ("have NULL on one side only", "has NULL on one side only"),
}
"""What cells of each kind do: several, and one."""


def _null_words(rows: list[WovenRow], found: Counter[int], words: list[str], count: int) -> str:
    given_null = sum(
        1
        for row in rows
        for at in row.wrong
        if at in found and row.given is not None and row.given[at] is None
    )
    if given_null == count:
        return f"{_count(count, 'cell')} of {_listed(words)}: NULL is given where a value is due"
    if given_null == 0:
        return f"{_count(count, 'cell')} of {_listed(words)}: a value is given where NULL is due"
    return f"{_count(count, 'cell')} of {_listed(words)}: NULL on one side only"


def how_cells_differ(due: Value, given: Value, cells: CellComparison) -> FindingCode:
    """The kind of difference between two cells that are not equal."""
    if due is None or given is None:
        return "cells.null"
    family = family_of(due)
    if family != family_of(given):
        return "cells.type" if _looks_alike(due, given) else "cells.differ"
    if family == "number":
        if cells.rules.value_types == "strict" and kind_of(due) != kind_of(given):
            return "cells.type" if due == given else "cells.differ"
        return "cells.rounding" if _rounded(due, given) or _rounded(given, due) else "cells.differ"
    if family == "text":
        rules = cells.rules
        for code, loosened in (
            ("cells.space", replace(rules, text_space="collapse")),
            ("cells.case", replace(rules, text_case="ignore")),
        ):
            if CellComparison(loosened).equal(due, given):
                return code  # type: ignore[return-value]
    if cells.rules.value_types == "strict" and kind_of(due) != kind_of(given):
        return "cells.type"
    return "cells.differ"


def _looks_alike(due: Value, given: Value) -> bool:
    """The same printed form, or numerals with the same value."""
    one, other = printed(due), printed(given)
    if one == other:
        return True
    try:
        return bool(Decimal(one) == Decimal(other))
    except ArithmeticError:
        return False


def _rounded(exact: Value, rounded: Value) -> bool:
    """Whether one number is the other rounded, or cut off, at the places that it shows."""
    if isinstance(exact, int):
        return False
    try:
        if not abs(float(exact) - float(rounded)) < 1:
            return False
        fine, coarse = Decimal(printed(exact)), Decimal(printed(rounded))
        places = -int(coarse.as_tuple().exponent)
        gap = abs(fine - coarse)
        finer = -int(fine.as_tuple().exponent) > places
    except (ArithmeticError, ValueError):
        return False
    return finer and gap < Decimal(10) ** -places and places >= 0


def _product_of_tables(
    due_count: int, given_count: int, sizes: Sequence[int]
) -> tuple[int, int] | None:
    """Two tables whose row counts multiply to what is given, where that is not what is due."""
    if given_count <= due_count:
        return None
    for at, one in enumerate(sizes):
        for other in sizes[at:]:
            if one > 1 and other > 1 and one * other == given_count:
                return one, other
    return None


def _product_words(product: tuple[int, int]) -> str:
    one, other = product
    return f": as many rows as {one} x {other}, every row of one table with every row of another. A join condition is missing"


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}{'' if number == 1 else 's'}"


def _is(things: Sequence[object]) -> str:
    return "is" if len(things) == 1 else "are"


def _listed(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and " + words[-1]
