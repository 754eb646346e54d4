"""When two cells are the same.

Equality of cells is not transitive once numbers have a tolerance, so there are two doors: a *key*,
equal keys meaning surely equal cells (for hashing), and :meth:`CellComparison.equal`, which has the
last word.
"""

from __future__ import annotations

import datetime as dt
import math
import re
from collections.abc import Container, Hashable
from decimal import Decimal
from fractions import Fraction
from functools import lru_cache
from typing import Final
from uuid import UUID

from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Row
from jentrow.core.values import TemporalText, Value, family_of, kind_of, printed

FLOAT_RELATIVE: Final = 1e-9
FLOAT_ABSOLUTE: Final = 1e-12
DECIMAL_RELATIVE: Final = 1e-12

WHITE_SPACE: Final = (
    "\t\n\v\f\r \x85\xa0\u1680\u2000\u2001\u2002\u2003\u2004\u2005\u2006\u2007\u2008\u2009\u200a"
    "\u2028\u2029\u202f\u205f\u3000"
)
"""The characters with Unicode's White_Space property."""

_RUNS: Final = re.compile(f"[{WHITE_SPACE}]+")

COMPARED_CELLS: Final = 8_000_000
"""Pairs of cells that one comparison looks at before it is stopped: some seconds of work.

What can be hashed is hashed and does not count. Counted, not timed, so that a busy machine changes
no verdict.
"""

_NUMERAL: Final = re.compile(r"-?(?:[0-9]+(?:\.[0-9]+)?|infinity)$", re.IGNORECASE)
"""Text that may be the printed form of a number, letter case aside."""

_PLAIN_TYPES: Final = frozenset({int, str, bytes, type(None), bool, float})
"""Types whose own hash and equality already say what the default rules say (but for NaN)."""


class ComparisonTooLong(Exception):
    """Raised when a comparison has used up its work: it has come to no verdict."""


class CellComparison:
    """Compares cells under one set of comparison rules, for as long as its work lasts."""

    def __init__(self, rules: ComparisonRules, work: int = COMPARED_CELLS) -> None:
        self.rules = rules
        self._work_left = work
        self._cost = 4 if rules.value_types == "printed" else 1
        self._alters_text = rules.text_case == "ignore" or rules.text_space != "exact"
        stands_for: Value = {"nothing": None, "empty_text": "", "zero": 0}[rules.null_equals]
        self._null_key: Hashable = None if stands_for is None else self.key(stands_for)
        # In strict types 0 and 0.0 are two, and NULL is either: no key can say that.
        self._null_is_loose = rules.null_equals == "zero" and rules.value_types == "strict"
        if self._null_is_loose:
            self._null_key = None

    def spend(self, cells: int) -> None:
        """Counts pairs of cells that are looked at. Raises :class:`ComparisonTooLong`."""
        self._work_left -= cells * self._cost
        if self._work_left < 0:
            raise ComparisonTooLong

    def takes_as_is(self, types: set[type]) -> bool:
        """Whether rows holding only these types, and no NaN, can be hashed without keys.

        Floats qualify too: what tolerance adds is looked at only where hashing found no partner.
        """
        rules = self.rules
        return (
            rules.value_types == "family"
            and rules.null_equals == "nothing"
            and not self._alters_text
            and types <= _PLAIN_TYPES
        )

    def is_tolerant(self, types: set[type]) -> bool:
        """Whether cells of these types (of both sides) may be equal without equal keys."""
        if self.rules.value_types == "printed" and types & {int, float, Decimal, bool}:
            return True
        if self._null_is_loose and type(None) in types and types & {int, float, Decimal, bool}:
            return True
        if types & {list, tuple, dict}:
            return True
        if self.rules.number_tolerance is not None:
            return bool(types & {int, float, Decimal, bool})
        return bool(types & {float, Decimal})

    def row_key(self, row: Row) -> tuple[Hashable, ...]:
        """A hashable stand-in for a row: equal keys mean equal rows."""
        return tuple(map(self.key, row))

    def key(self, value: Value) -> Hashable:
        """A hashable stand-in for a cell: equal keys mean equal cells."""
        if value is None:
            return self._null_key
        match self.rules.value_types:
            case "printed":
                return self._text(printed(value))
            case "strict":
                return self._strict_key(value)
            case _:
                return self._family_key(value)

    def axis(self, value: Value) -> float | None:
        """Where a cell stands among numbers, None where it is none: equal cells lie close.

        NULL that equals zero lies there, and text that reads as a number lies with its number
        where printed forms are compared.
        """
        if value is None:
            return 0.0 if self.rules.null_equals == "zero" else None
        if isinstance(value, str):
            if self.rules.value_types != "printed":
                return None
            value = self._text(value)
            if not _NUMERAL.match(value):
                return None
        elif not isinstance(value, int | float | Decimal) or (
            isinstance(value, bool) and self.rules.value_types == "printed"
        ):
            return None
        try:
            number = float(value)
        except OverflowError:
            return math.inf if value > 0 else -math.inf
        return number if number == number else None

    def discrete_key(self, value: Value) -> Hashable:
        """Coarser than :meth:`key`: whatever tolerance may equate has one and the same.

        Cells that are :meth:`equal` have equal discrete keys, never the other way round.
        """
        if self.axis(value) is not None:
            return ("number",)
        if value is not None and self.rules.value_types != "printed":
            if isinstance(value, list | tuple | dict):
                return (family_of(value), len(value))
            if isinstance(value, float | Decimal):  # NaN of either type
                return ("NaN",)
        return self.key(value)

    def bucket(self, row: Row, tolerant: Container[int]) -> tuple[Hashable, ...]:
        """What must agree for rows to be equal: discrete keys in the tolerant columns, else keys."""
        return tuple(
            self.discrete_key(value) if at in tolerant else self.key(value)
            for at, value in enumerate(row)
        )

    def equal(self, one: Value, other: Value) -> bool:
        """Whether two cells are the same under the rules."""
        if one is None or other is None:
            return one is other or self._stands_for_null(other if one is None else one)
        if self.rules.value_types == "printed":
            if is_plain_number(one) and is_plain_number(other):
                return self._numbers_equal(one, other)
            return self._text(printed(one)) == self._text(printed(other))
        if self.rules.value_types == "strict" and kind_of(one) != kind_of(other):
            return False
        family = family_of(one)
        if family != family_of(other):
            return False
        if family == "number":
            return self._numbers_equal(one, other)
        if family == "list":
            return len(one) == len(other) and all(map(self.equal, one, other))
        if family == "structure":
            return one.keys() == other.keys() and all(
                self.equal(item, other[name]) for name, item in one.items()
            )
        return self.key(one) == self.key(other)

    def _stands_for_null(self, value: Value) -> bool:
        """Whether a value that is not NULL is what NULL equals: by value, tolerance aside."""
        if self.rules.value_types == "printed" and self.rules.null_equals != "nothing":
            return self._text(printed(value)) == ("0" if self.rules.null_equals == "zero" else "")
        match self.rules.null_equals:
            case "nothing":
                return False
            case "empty_text":
                return isinstance(value, str) and self._text(value) == ""
            case "zero":
                return isinstance(value, int | float | Decimal) and value == 0

    def rows_equal(self, one: Row, other: Row) -> bool:
        """Whether two rows are the same, cell by cell. Raises :class:`ComparisonTooLong`."""
        self.spend(len(one))
        return all(map(self.equal, one, other))

    def _family_key(self, value: Value) -> Hashable:
        match value:
            case TemporalText():
                return ("temporal", value.same)
            case str():
                return self._text(value) if self._alters_text else value
            case float():
                return ("NaN",) if math.isnan(value) else value
            case Decimal():
                return ("NaN",) if value.is_nan() else value
            case dt.datetime():
                if value.tzinfo is None:
                    return ("timestamp", value)
                return ("instant", value.astimezone(dt.UTC))
            case dt.date():
                return ("timestamp", dt.datetime(value.year, value.month, value.day))
            case dt.time():
                return ("time", value.tzinfo is not None, value)
            case list() | tuple():
                return ("list", *map(self.key, value))
            case dict():
                return ("structure", frozenset((name, self.key(value[name])) for name in value))
            case UUID():
                return ("identifier", value)
            case _:
                key: Hashable = value
                return key

    def _strict_key(self, value: Value) -> Hashable:
        return (kind_of(value), self._family_key(value))

    def _text(self, text: str) -> str:
        return text_as_compared(text, self.rules)

    def _numbers_equal(self, one: Value, other: Value) -> bool:
        if one == other:
            return True
        if not (_is_finite(one) and _is_finite(other)):
            return _is_nan(one) and _is_nan(other)
        tolerance = self.rules.number_tolerance
        if tolerance is not None:
            return _within(one, other, tolerance.absolute, tolerance.relative)
        if isinstance(one, float) or isinstance(other, float):
            return _within(one, other, FLOAT_ABSOLUTE, FLOAT_RELATIVE)
        if _is_whole_type(one) and _is_whole_type(other):
            return False
        return _within(one, other, 0.0, DECIMAL_RELATIVE)


def is_plain_number(value: Value) -> bool:
    """Whether a value is a number, truth values aside."""
    return isinstance(value, int | float | Decimal) and not isinstance(value, bool)


def _is_whole_type(value: Value) -> bool:
    """An integer, or a decimal of scale 0."""
    if isinstance(value, Decimal):
        exponent = value.as_tuple().exponent
        return isinstance(exponent, int) and exponent >= 0
    return isinstance(value, int)


def _is_finite(value: Value) -> bool:
    return (
        value.is_finite()
        if isinstance(value, Decimal)
        else isinstance(value, int) or math.isfinite(value)
    )


def _is_nan(value: Value) -> bool:
    return (
        value.is_nan()
        if isinstance(value, Decimal)
        else isinstance(value, float) and math.isnan(value)
    )


def _within(one: Value, other: Value, absolute: float, relative: float) -> bool:
    """Exact arithmetic: a bound such as 0.1 means a tenth, not its binary neighbour."""
    if isinstance(one, float) and isinstance(other, float):
        largest = max(abs(one), abs(other))
        bound = max(absolute, relative * largest)
        if bound >= largest * 1e-9:  # far above the error of the subtraction: floats can decide
            gap_in_bounds = abs(one - other) / bound
            if abs(gap_in_bounds - 1) > 1e-6:
                return gap_in_bounds < 1
    first, second = _as_fraction(one), _as_fraction(other)
    gap = abs(first - second)
    return gap <= _bound(absolute) or gap <= _bound(relative) * max(abs(first), abs(second))


def _as_fraction(value: Value) -> Fraction:
    """A float stands for the shortest decimal that denotes it: 0.3 − 0.2 lies within 0.1."""
    return Fraction(repr(value)) if isinstance(value, float) else Fraction(value)


@lru_cache(maxsize=64)
def _bound(bound: float) -> Fraction:
    return Fraction(repr(float(bound)))


def text_as_compared(text: str, rules: ComparisonRules) -> str:
    """A text as the rules look at it: two texts are equal where these are."""
    if rules.text_space == "collapse":
        text = _RUNS.sub(" ", text)
    if rules.text_space != "exact":
        text = text.strip(WHITE_SPACE)
    return text.casefold() if rules.text_case == "ignore" else text
