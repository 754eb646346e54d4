"""Whatever an engine says of whatever text, and wherever it points: it is explained, never raised."""

from __future__ import annotations

import re

from hypothesis import example, given
from hypothesis import strategies as st

from jentrow.core.engines.explaining import explain
from jentrow.core.engines.labels import ENGINES, STAND_INS
from tests.cases import read_cases
from tests.demo_course import ROOT

CATALOGUE = {"huts": ("hut_id", "name", "region", "beds"), "stays": ("stay_id", "hut_id", "nights")}

TEXTS = [
    case[0]
    for name in ("rejections", "rejections-duckdb", "rejections-postgresql", "rejections-mariadb")
    for case in read_cases(ROOT / "tests" / "data" / f"{name}.yaml")
]

SAID = (
    'near "{near}": syntax error',
    "incomplete input",
    "no such column: {near}",
    "no such table: {near}",
    "no such function: {near}",
    "ambiguous column name: {near}",
    'Parser Error: syntax error at or near "{near}"',
    "Parser Error: syntax error at end of input",
    'Referenced column "{near}" not found in FROM clause!\nCandidate bindings: "name"',
    "Scalar Function with name {near} does not exist!",
    'syntax error at or near "{near}"',
    "syntax error at end of input",
    'column "{near}" does not exist',
    "function {near}(text) does not exist",
    "You have an error in your SQL syntax; check the manual that corresponds to your MariaDB server "
    "version for the right syntax to use near '{near}' at line 1",
    "Unknown column '{near}' in 'SELECT'",
    "{near}",
)
"""What engines say, and what none of them says."""

pieces = st.sampled_from(sorted({one for text in TEXTS for one in re.findall(r"\w+|\S", text)}))
made = st.lists(pieces, max_size=20).map(" ".join)


@example("SELECT TRY_CONVERT(int, 'a'), PARSE('3' AS int)", "syntax error at end of input", 60, "")
@example("", "incomplete input", -1, "")
@given(st.one_of(st.sampled_from(TEXTS), made), st.sampled_from(SAID), st.integers(-1, 80), pieces)
def test_every_rejection_is_explained(sql: str, said: str, index: int, near: str) -> None:
    words = said.replace("{near}", near)
    for engine in ENGINES:
        explanation, place = explain(engine, words, min(index, len(sql)), sql, CATALOGUE)
        assert explanation.code.startswith("sql.")
        assert explanation.message
        assert place is None or place.line >= 1


def test_the_engines_are_all_of_them() -> None:
    assert set(STAND_INS) < set(ENGINES)
