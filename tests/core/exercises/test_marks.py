from __future__ import annotations

from decimal import Decimal
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.comparison.shares import ResultShares
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.files.exercisefile import CONTENT
from jentrow.core.exercises.grading.outcomes import Outcome
from jentrow.core.exercises.markscheme import (
    PARTS,
    Cost,
    MarkScheme,
    TextParts,
    settle,
)
from tests.core.exercises.test_grading import ALL, graded


def scheme(**weights: float) -> MarkScheme:
    written = {"marks": {"scheme": "by_parts", "weights": weights}}
    read: MarkScheme = CONTENT.read(written, [])["marks"]
    return read


BY_PARTS = scheme(columns=1, rows=2, order=1)
BY_PARTS_AND_CONSTRUCTS = scheme(rows=1, constructs=1)


def ledger(outcome: Outcome) -> list[tuple[str, float, float | None]]:
    return [(line.part, line.points, line.possible) for line in outcome.ledger]


def with_rules(engine: SQLiteEngine, reference: str, sql: str, **more: Any) -> Outcome:
    problems: list[str] = []
    written = {name: more.pop(name) for name in ("constructs", "layout") if name in more}
    more |= CONTENT.read(written, problems)
    assert problems == []
    return graded(engine, reference, sql, **more)


ORDERED = "SELECT name, level FROM gauges ORDER BY level"


@pytest.mark.parametrize(
    ("sql", "lines"),
    [
        (ORDERED, [("columns", 1.0, 1.0), ("rows", 2.0, 2.0), ("order", 1.0, 1.0)]),
        (ORDERED + " DESC", [("columns", 1.0, 1.0), ("rows", 2.0, 2.0), ("order", 0.5, 1.0)]),
        (
            "SELECT name, level FROM gauges WHERE name = 'Brugg'",
            [("columns", 1.0, 1.0), ("rows", 1.0, 2.0), ("order", 0.5, 1.0)],
        ),
        ("SELECT name FROM gauges ORDER BY level",
         [("columns", 0.5, 1.0), ("rows", 1.0, 2.0), ("order", 0.5, 1.0)]),
        ("SELECT level, name FROM gauges ORDER BY 1",
         [("columns", 0.0, 1.0), ("rows", 2.0, 2.0), ("order", 1.0, 1.0)]),
        ("SELECT 'x', 'y'", [("columns", 1.0, 1.0), ("rows", 0.0, 2.0), ("order", 0.0, 1.0)]),
        ("SELECT nothing FROM gauges", [("result", 0.0, 4.0)]),
    ],
)  # fmt: skip
def test_marks_by_parts(
    sql: str, lines: list[tuple[str, float, float]], engine: SQLiteEngine
) -> None:
    outcome = graded(engine, ORDERED, sql, points=4, marks=BY_PARTS)
    assert ledger(outcome) == lines
    assert outcome.mark == sum(points for _, points, _ in lines)


def test_what_is_wrong_on_other_data_counts(engine: SQLiteEngine) -> None:
    sql = "SELECT name, level FROM gauges WHERE basin > 0 ORDER BY level"
    outcome = graded(engine, ORDERED, sql, points=4, marks=BY_PARTS)
    assert outcome.datasets[0].verdict == "correct"
    assert ("rows", 1.0, 2.0) in ledger(outcome)


def test_the_alternative_that_earns_most_stands(engine: SQLiteEngine) -> None:
    also = {"levels": "SELECT level FROM gauges ORDER BY level"}
    sql = "SELECT level FROM gauges WHERE name = 'Brugg' ORDER BY 1"
    outcome = graded(engine, ORDERED, sql, points=4, marks=BY_PARTS, also=also)
    assert (outcome.answer, outcome.mark) == ("levels", 2.5)


def test_constructs_and_layout_take_off(engine: SQLiteEngine) -> None:
    rules: dict[str, Any] = {
        "constructs": [
            {"require": "is_null", "points": 1, "message": "IS NULL was taught"},
            {"forbid": "wildcard", "points": 1.5},
            {"forbid": "limit"},
        ],
        "layout": {"keyword_case": "upper", "spacing": True, "points": 0.5},
    }
    outcome = with_rules(
        engine, "SELECT * FROM gauges", "select *\nfrom gauges LIMIT 9", points=4, **rules
    )
    assert outcome.verdict == "correct"
    assert ledger(outcome) == [
        ("result", 4.0, 4.0), ("constructs", -1.0, None), ("constructs", -1.5, None),
        ("layout", -0.25, None),
    ]  # fmt: skip
    assert outcome.mark == 1.25
    assert [(one.code, one.evidence.get("line")) for one in outcome.findings] == [
        ("construct.required", None), ("construct.forbidden", 1), ("construct.forbidden", 2),
        ("style.layout", 1),
    ]  # fmt: skip
    assert outcome.findings[0].message == "IS NULL was taught"
    kept = with_rules(
        engine, "SELECT name FROM gauges", "SELECT name FROM gauges WHERE name IS NOT NULL", **rules
    )
    assert (kept.mark, kept.findings) == (1.0, ())


def test_a_mark_is_never_below_nothing(engine: SQLiteEngine) -> None:
    rules = [{"forbid": "wildcard", "points": 3}, {"require": "limit", "points": 3}]
    outcome = with_rules(
        engine, "SELECT * FROM gauges", "SELECT * FROM gauges", points=4, constructs=rules
    )
    assert ledger(outcome)[1:] == [("constructs", -3.0, None), ("constructs", -1.0, None)]
    assert outcome.mark == 0


@pytest.mark.parametrize("marks", [MarkScheme(), BY_PARTS_AND_CONSTRUCTS])
def test_a_text_too_long_to_read_waits_for_the_instructor(
    engine: SQLiteEngine, marks: MarkScheme
) -> None:
    sql = f"{ALL} WHERE name IS NOT NULL OR '{'x' * 20_000}' = ''"
    rules = [{"require": "cte", "points": 1}]
    outcome = with_rules(engine, ALL, sql, constructs=rules, points=4, marks=marks)
    assert (outcome.verdict, outcome.undecided) == ("correct", "constructs")
    assert outcome.to_json()["undecided"] == "constructs"
    assert "not checked" in outcome.ledger[-1].message
    assert outcome.mark == (4 if marks.kind == "all_or_nothing" else 2)


@pytest.mark.parametrize(
    "tail", ["; -- done", " -- done", ";; /* done", " /*" + "x" * 30_000 + "*/", "\n;\n--\n"]
)
def test_nothing_behind_a_query_hides_it_from_the_rules(engine: SQLiteEngine, tail: str) -> None:
    rules = [{"require": "cte", "points": 1}, {"forbid": "wildcard", "points": 1}]
    outcome = with_rules(
        engine, "SELECT * FROM gauges", "SELECT * FROM gauges" + tail, constructs=rules, points=4
    )
    assert [one.code for one in outcome.findings] == ["construct.required", "construct.forbidden"]
    assert (outcome.mark, outcome.undecided) == (2, "")


shares = st.fractions(0, 1, max_denominator=50)
maybe = st.none() | shares


@given(
    points=st.integers(1, 4000).map(lambda hundredths: hundredths / 100),
    weights=st.lists(st.floats(0, 9), min_size=6, max_size=6),
    result=st.builds(ResultShares, shares, shares, maybe, maybe),
    text=st.builds(TextParts, maybe, maybe),
)
def test_the_lines_add_up_to_the_mark(
    points: float, weights: list[float], result: ResultShares, text: TextParts
) -> None:
    scheme = MarkScheme("by_parts", dict(zip(PARTS, [1 + weights[0], *weights[1:]], strict=True)))
    settled = settle(points, scheme, "incorrect", result, text)
    assert Decimal(str(settled.mark)) == sum(Decimal(str(one.points)) for one in settled.ledger)
    possible = sum(Decimal(str(line.possible)) for line in settled.ledger)
    assert possible == Decimal(str(points))
    assert 0 <= settled.mark <= points
    assert all(
        line.possible is not None and line.points <= line.possible for line in settled.ledger
    )
    full = settle(points, scheme, "correct", ResultShares(), TextParts(Fraction(1), Fraction(1)))
    assert full.mark == points
    assert settle(points, scheme, "incorrect", result, text) == settled


@given(
    points=st.integers(1, 4000).map(lambda hundredths: hundredths / 100),
    costs=st.lists(st.integers(0, 900).map(lambda hundredths: hundredths / 100), max_size=5),
)
def test_all_or_nothing_adds_up_too(points: float, costs: list[float]) -> None:
    text = TextParts(construct_costs=tuple(Cost("broken", cost) for cost in costs))
    settled = settle(points, MarkScheme(), "correct", ResultShares(), text)
    assert Decimal(str(settled.mark)) == sum(Decimal(str(one.points)) for one in settled.ledger)
    left = Decimal(str(points)) - sum(Decimal(str(cost)) for cost in costs)
    assert Decimal(str(settled.mark)) == max(Decimal(0), left)


@pytest.mark.parametrize(
    ("written", "words"),
    [
        ({"marks": {"scheme": "half"}}, "marks.scheme is 'half', but must be one of all_or_nothing, by_parts"),
        ({"marks": {"weights": {"row": 1}}}, "marks.weights: unknown name 'row', did you mean rows"),
        ({"marks": {"weights": {"order": 1}}}, "marks.weights: columns or rows must have a weight"),
        ({"marks": {"weights": {"rows": -1}}}, "marks.weights.rows is -1, but must be a number from 0 to 1,000"),
        ({"marks": {"one_edit": 1}}, "marks.one_edit is 1, but must be a number at least 0, below 1"),
        ({"marks": {"one_edit": True}}, "marks.one_edit is True, but must be a number"),
        ({"constructs": [{"require": "cases"}]}, "constructs, number 1: unknown construct 'cases', did you mean case"),
        ({"constructs": [{"require": "in"}, {"require": "case", "forbid": "in"}]}, "constructs, number 2: expected either require or forbid"),
        ({"constructs": [{"require": {"case": 1}}]}, "unknown construct"),
        ({"constructs": [{"forbid": "function"}]}, "needs a name"),
        ({"constructs": [{"forbid": "in", "name": "x"}]}, "takes no name"),
        ({"constructs": [{"forbid": "in", "points": 0.001}]}, "constructs, number 1, points: 0.001 must have at most two decimals"),
        ({"constructs": [{"forbid": "in", "point": 1}]}, "constructs, number 1: unknown name 'point', did you mean points"),
        ({"constructs": {"forbid": "in"}}, "constructs must be a list of mappings"),
        ({"layout": {"keyword_case": "title"}}, "one of upper, lower, or nothing"),
        ({"layout": {"clauses": True}}, "did you mean clause_lines"),
        ({"layout": {"spacing": "yes"}}, "layout.spacing is 'yes', but must be true or false"),
        ({"tags": [None]}, "tags, number 1 is empty, but must be text (in quotes)"),
        ({"tags": ["x"] * 21}, "tags must be a list of texts, at most 20"),
        ({"rules": {"limits": {"seconds": float("inf")}}}, "rules.limits.seconds is inf, but must be a number above 0, at most 600"),
        ({"feedback": {"hint": "x" * 3_000}}, "…, but must be text of at most 2,000 characters"),
        ({"prompt": "a\0b"}, "prompt: it holds a NUL character; remove it"),
        ({"points": None}, "points is empty, but must be a number above 0"),
        ({"title": 2026}, "title is 2026, but must be text (in quotes)"),
    ],
    ids=lambda one: one if isinstance(one, str) else "",
)  # fmt: skip
def test_what_is_wrong_is_named(written: dict[str, Any], words: str) -> None:
    problems: list[str] = []
    whole = {"sample": "gauges", "engine": "duckdb"} | written
    assert CONTENT.read(whole, problems) == {"sample": "gauges", "engine": "duckdb"}
    assert len(problems) == 1
    assert words in problems[0]


def test_a_list_or_mapping_that_is_empty_is_left_out() -> None:
    problems: list[str] = []
    written = {"tags": None, "rules": None, "trials": None, "points": 2}
    assert CONTENT.read(written, problems) == {"points": 2}
    assert problems == []
