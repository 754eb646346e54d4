"""Digests of results: equal where nothing tells two results apart that an exercise looks at."""

from __future__ import annotations

import marshal
from collections.abc import Iterable, Sequence
from dataclasses import replace
from hashlib import sha256
from typing import Final

from jentrow.core.comparison.cells import text_as_compared
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.results import Expectation, ResultSet, Row, text_lengths
from jentrow.core.values import Interval, Value

_LENGTH: Final = 32


def result_digest(result: ResultSet, *, in_order: bool, with_names: bool) -> str:
    """The digest of a result; of its rows as a bag unless they stand ``in_order``."""
    rows: Iterable[bytes] = map(_packed, result.rows)
    found = sha256(repr(result.names if with_names else len(result.columns)).encode())
    for row in rows if in_order else sorted(rows):
        found.update(len(row).to_bytes(4, "big"))
        found.update(row)
    return found.hexdigest()[:_LENGTH]


def failure_digest(failure: QueryFailure) -> str:
    """The digest of a query that gave no result: by its kind, and by what the engine said."""
    words = f"{failure.verdict} {failure.code} {failure.message}"
    return sha256(words.encode(errors="surrogatepass")).hexdigest()[:_LENGTH]


def _packed(row: Row) -> bytes:
    # 1 and 1.0 are one value to every rule but the strictest, which tells them apart by itself.
    plain = [
        int(value) if isinstance(value, float) and value.is_integer() else value for value in row
    ]
    try:
        return marshal.dumps(plain)
    except ValueError:  # a value that only some engines have
        lengths = [one.length if isinstance(one, Interval) else one for one in plain]
        return repr(lengths).encode(errors="surrogatepass")


def without_long_cells(result: ResultSet, rules: ComparisonRules, most: int) -> ResultSet:
    """A result in which each cell longer than ``most`` bytes is replaced by what stands for it."""
    if not _has_long_cell(result.rows, most):
        return result
    rows = [
        tuple(_stand_in(value, rules) if _is_long(value, most) else value for value in row)
        for row in result.rows
    ]
    return replace(result, rows=rows)


def expected_without_long_cells(
    expected: Expectation, rules: ComparisonRules, most: int
) -> Expectation:
    """The same of what is due, and of the rows that would have done as well."""
    return replace(
        expected,
        result=without_long_cells(expected.result, rules, most),
        choices=tuple(
            replace(
                choice,
                row=tuple(
                    _stand_in(value, rules) if _is_long(value, most) else value
                    for value in choice.row
                ),
            )
            for choice in expected.choices
        ),
    )


def _has_long_cell(rows: Sequence[Row], most: int) -> bool:
    return any(max(lengths) > most for lengths in text_lengths(rows))


def _is_long(value: Value, most: int) -> bool:
    return value.__class__ in (str, bytes) and len(value) > most


def _stand_in(value: str | bytes, rules: ComparisonRules) -> str | bytes:
    """What stands for a long cell: of the same family, equal only where the rules say so."""
    if isinstance(value, bytes):
        return f"{len(value):,} bytes, SHA-256 {sha256(value).hexdigest()}".encode()
    text = text_as_compared(value, rules)
    digest = sha256(text.encode(errors="surrogatepass")).hexdigest()
    return f"{len(text):,} characters, SHA-256 {digest}"
