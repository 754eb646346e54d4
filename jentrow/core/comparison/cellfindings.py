"""What is found in cells that differ, in a learner's words: one finding for each way to differ."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from typing import Final

from jentrow.core.comparison.causes import Cause
from jentrow.core.comparison.cells import CellComparison, is_plain_number
from jentrow.core.comparison.difference import WovenRow
from jentrow.core.comparison.findings import CODES, Finding, FindingCode, Unless
from jentrow.core.values import Value, family_of, kind_of, printed
from jentrow.core.words import counted, listed


def cell_findings(
    rows: list[WovenRow], names: Sequence[str], cells: CellComparison
) -> list[Finding]:
    """One finding for each way in which cells differ."""
    unequal = _unequal_cells(rows)
    rounded = _rounded_columns(unequal)
    differing: dict[FindingCode, dict[int, list[tuple[Value, Value]]]] = {}
    for at, pairs in sorted(unequal.items()):
        for pair in pairs:
            code = how_cells_differ(*pair, cells)
            if code == "cells.differ" and at in rounded:
                code = "cells.rounding"
            differing.setdefault(code, {}).setdefault(at, []).append(pair)
    return [
        _cell_finding(code, differing[code], names, rounded) for code in CODES if code in differing
    ]


def _unequal_cells(rows: list[WovenRow]) -> dict[int, list[tuple[Value, Value]]]:
    """Pairs of a due cell and the given one, by column."""
    unequal: dict[int, list[tuple[Value, Value]]] = {}
    for row in rows:
        due, given = row.due, row.given
        assert due is not None
        assert given is not None
        for at in row.wrong:
            unequal.setdefault(at, []).append((due[at], given[at]))
    return unequal


def _cell_finding(
    code: FindingCode,
    found: dict[int, list[tuple[Value, Value]]],
    names: Sequence[str],
    rounded: dict[int, bool],
) -> Finding:
    words = [names[at] for at in found]
    pairs = [pair for ones in found.values() for pair in ones]
    where = f"{counted(len(pairs), 'cell')} of {listed(words)}"
    message = f"{where} {_CELL_WORDS[code][len(pairs) == 1]}."
    evidence = {"columns": words}
    if code == "cells.type":
        due, given = pairs[0]
        message = f"{where}: {kind_of(due)} is due, {kind_of(given)} is given."
    if code == "cells.null":
        message = f"{where}: {_null_words(pairs)}."
    causes = _division(pairs) if code == "cells.differ" else ()
    finding = Finding(code, message, len(pairs), evidence=evidence, causes=causes)
    if code == "cells.rounding" and any(rounded[at] for at in found):
        # Given values that are rounded need something in the text that rounds.
        plain = f"{where} {_CELL_WORDS['cells.differ'][len(pairs) == 1]}."
        other = replace(finding, code="cells.differ", message=plain, causes=_division(pairs))
        return replace(finding, unless=Unless(frozenset({"rounding"}), other))
    return finding


def _division(pairs: Sequence[tuple[Value, Value]]) -> tuple[Cause, ...]:
    """Whole numbers that are the due ones without their fraction: what dividing integers gives."""
    cut = all(
        isinstance(given, int) and isinstance(due, float | Decimal) and _whole_part(due) == given
        for due, given in pairs
    )
    words = "Dividing whole numbers by whole numbers leaves out the fraction."
    return (Cause("whole_division", words, frozenset({"division"})),) if cut else ()


_CELL_WORDS: Final[dict[FindingCode, tuple[str, str]]] = {
    "cells.differ": ("hold another value than is due", "holds another value than is due"),
    "cells.rounding": ("differ only by rounding", "differs only by rounding"),
    "cells.case": ("differ only in upper and lower case", "differs only in upper and lower case"),
    "cells.space": ("differ only in blanks", "differs only in blanks"),
    "cells.type": ("are of another type", "is of another type"),
    "cells.null": ("have NULL on one side only", "has NULL on one side only"),
}
"""What cells of each kind do: several, and one."""


def _whole_part(number: float | Decimal) -> int | None:
    try:
        return int(number)
    except (ValueError, ArithmeticError):  # no number, or none that is finite
        return None


def _null_words(pairs: Sequence[tuple[Value, Value]]) -> str:
    given_null = sum(given is None for _, given in pairs)
    if given_null == len(pairs):
        return "NULL is given where a value is due"
    if given_null == 0:
        return "a value is given where NULL is due"
    return "NULL on one side only"


def how_cells_differ(due: Value, given: Value, cells: CellComparison) -> FindingCode:
    """The kind of difference between two cells that are not equal."""
    if due.__class__ is given.__class__ is int:  # mostly
        return "cells.differ"
    if due is None or given is None:
        return "cells.null"
    family = family_of(due)
    if family != family_of(given):
        return "cells.type"
    if family == "number":
        if cells.rules.value_types == "strict" and kind_of(due) != kind_of(given) and due == given:
            return "cells.type"
        return "cells.differ"
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


def _rounded_columns(unequal: dict[int, list[tuple[Value, Value]]]) -> dict[int, bool]:
    """The columns in which every differing pair of numbers is one number and the same rounded.

    To one and the same number of places, up or down as rounding goes. The value says whether the
    given ones are the rounded.
    """
    found: dict[int, bool] = {}
    for at, ones in unequal.items():
        if all(type(value) is int for pair in ones for value in pair):
            continue  # nothing is rounded away between whole numbers
        for given_is_rounded in (True, False):
            exact = [due if given_is_rounded else given for due, given in ones]
            coarse = [given if given_is_rounded else due for due, given in ones]
            if _all_rounded(exact, coarse):
                found[at] = given_is_rounded
    return found


def _all_rounded(exact: Sequence[Value], coarse: Sequence[Value]) -> bool:
    try:
        fine = [Decimal(printed(value)) for value in exact if is_plain_number(value)]
        short = [Decimal(printed(value)) for value in coarse if is_plain_number(value)]
        if not len(fine) == len(short) == len(exact):
            return False
        places = max(_places(value) for value in short)
        half = Decimal(5).scaleb(-places - 1)
        return all(
            _places(one) > places and abs(one - other) <= half
            for one, other in zip(fine, short, strict=True)
        )
    except ArithmeticError:
        return False


def _places(value: Decimal) -> int:
    exponent = value.as_tuple().exponent
    return max(0, -exponent) if isinstance(exponent, int) else 0
