"""A law: what T-SQL and Db2 make of whole numbers and of numbers with a fraction, however deep they stand."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from zlib import crc32

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.stand_ins.stand_in import stood_in
from tests.core.engines.stand_ins import stand_ins_over

GATES = DatasetSource(
    "gates",
    """
    CREATE TABLE gates (gate_no INTEGER PRIMARY KEY, width_cm INTEGER, depth_m DECIMAL(6, 2));
    INSERT INTO gates VALUES (1, 517, 3.75);
    """,
    keep_rows=True,
)


@pytest.fixture(scope="module")
def running() -> Iterator[dict[str, tuple[Engine, LoadedDataset]]]:
    with stand_ins_over(GATES) as engines:
        yield engines


@dataclass(frozen=True)
class Number:
    """An expression with its value, and whether its type is one of whole numbers."""

    sql: str
    value: Fraction
    is_whole: bool


def quotient(one: Number, other: Number) -> Number:
    value = one.value / other.value
    is_whole = one.is_whole and other.is_whole
    return Number(
        f"({one.sql} / {other.sql})", Fraction(int(value)) if is_whole else value, is_whole
    )


def combined(sides: tuple[str, Number, Number]) -> Number:
    sign, one, other = sides
    if sign == "/":
        return quotient(one, other if other.value else Number("3", Fraction(3), is_whole=True))
    value = {
        "+": one.value + other.value,
        "-": one.value - other.value,
        "*": one.value * other.value,
    }[sign]
    return Number(f"({one.sql} {sign} {other.sql})", value, one.is_whole and other.is_whole)


WRAPPED = [
    "ABS(-({}))", "COALESCE({}, {})", "CASE WHEN gate_no = 1 THEN {} ELSE {} END", "NULLIF({}, -987654)",
    "(SELECT MAX(x#) FROM (SELECT {} AS x# FROM gates) a)", "AVG({}) OVER ()", "SUM({}) OVER ()",
    "(SELECT y# FROM (SELECT x# AS y# FROM (SELECT {} AS x# FROM gates) a) b)",
    "LAG({}, 0) OVER (ORDER BY gate_no)", "(SELECT AVG({}) FROM gates)",
]  # fmt: skip


def wrapped(of: tuple[str, Number]) -> Number:
    form, one = of
    # A window is not taken of a window, nor is an aggregate.
    if ("OVER" in form or "AVG" in form) and "OVER" in one.sql:
        return one
    value = abs(one.value) if form.startswith("ABS") else one.value
    # One name for numbers of both kinds is another matter.
    named = form.replace("#", str(crc32(one.sql.encode())))
    return Number(named.replace("{}", one.sql), value, one.is_whole)


LEAVES = st.sampled_from(
    [
        Number("width_cm", Fraction(517), is_whole=True),
        Number("depth_m", Fraction(375, 100), is_whole=False),
        Number("gate_no", Fraction(1), is_whole=True),
        Number("COUNT(*) OVER ()", Fraction(1), is_whole=True),
        Number("2", Fraction(2), is_whole=True),
        Number("7", Fraction(7), is_whole=True),
        Number("1.5", Fraction(3, 2), is_whole=False),
    ]
)
NUMBERS = st.recursive(
    LEAVES,
    lambda inner: (
        st.tuples(st.sampled_from("////+-*"), inner, inner).map(combined)
        | st.tuples(st.sampled_from(WRAPPED), inner).map(wrapped)
    ),
    max_leaves=6,
)


@pytest.mark.parametrize("name", ["tsql", "db2"])
@given(numbers=st.lists(NUMBERS, min_size=8, max_size=8))
def test_numbers_are_whole_where_their_engine_has_them_so(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, numbers: list[Number]
) -> None:
    engine, dataset = running[name]
    values = ", ".join(f"{one.sql} AS v{at}" for at, one in enumerate(numbers))
    sql = f"SELECT {values} FROM gates"
    ran = engine.run(dataset, sql, Limits())
    assert isinstance(ran, ResultSet), (ran, sql)
    assert stood_in(name, sql, dataset.kinds).lost == (), sql
    for one, found in zip(numbers, ran.rows[0], strict=True):
        assert float(found) == pytest.approx(float(one.value), rel=1e-9, abs=1e-9), one
