"""What SQLite rejects, in a learner's words: case by case, from a file."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure
from jentrow.core.engines.sqlite.capabilities import capabilities
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.sql.skeleton import skeleton_of
from jentrow.core.sql.spellings.functions import FUNCTIONS
from jentrow.core.sql.spellings.keywords import KEYWORDS, nearest_keyword
from jentrow.core.sql.spellings.spellings import FORMS
from tests.cases import read_cases
from tests.demo_course import ROOT

CASES = read_cases(ROOT / "tests" / "data" / "rejections.yaml")


@pytest.mark.parametrize(("sql", "words"), CASES, ids=[sql for sql, _ in CASES])
def test_a_rejection_says_what_to_write(
    engine: SQLiteEngine, huts: LoadedDataset, sql: str, words: str
) -> None:
    outcome = engine.run(huts, sql, Limits())
    assert isinstance(outcome, QueryFailure)
    assert words in outcome.message
    assert "The engine says" not in outcome.message


def test_what_is_advised_for_a_text_can_be_written(
    engine: SQLiteEngine, huts: LoadedDataset
) -> None:
    outcome = engine.run(huts, 'SELECT name FROM huts WHERE name = "It\'s"', Limits())
    assert isinstance(outcome, QueryFailure)
    (advised,) = re.findall(r"('It.*?s')\.", outcome.message)
    assert not isinstance(
        engine.run(huts, f"SELECT name FROM huts WHERE name = {advised}", Limits()), QueryFailure
    )


def test_functions_of_other_dialects_are_no_functions_here() -> None:
    """A hint that belongs to a function which the engine has would never be told, or be untrue."""
    told = {name for name, (_, instead) in FUNCTIONS.items() if "sqlite" in instead}
    here = told & set(capabilities().functions)
    assert here <= {"if", "mod", "trunc"}, "these differ in what they take, or came with a version"


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.name)
def test_no_form_is_found_in_texts_and_names(form: object) -> None:
    """What stands in quotes or in a comment is never taken for a form of another dialect."""
    hidden = "SELECT 'TOP 5 x::y ILIKE N''z''' AS \"FETCH FIRST\" -- SELECT TOP 5\nFROM huts"
    assert not skeleton_of(hidden, "sqlite").spans(form.pattern)  # type: ignore[attr-defined]


@given(st.sampled_from([one for one in KEYWORDS if len(one) > 3]), st.data())
def test_two_letters_that_changed_places_are_found(keyword: str, data: st.DataObject) -> None:
    at = data.draw(st.integers(0, len(keyword) - 2))
    slip = keyword[:at] + keyword[at + 1] + keyword[at] + keyword[at + 2 :]
    if slip in KEYWORDS:
        return
    found = nearest_keyword(slip)
    assert found is not None
    assert sorted(found) == sorted(keyword) or abs(len(found) - len(slip)) <= 1


def test_a_keyword_is_not_misspelt() -> None:
    assert all(nearest_keyword(one) is None for one in KEYWORDS)
    assert nearest_keyword("huts") is None


def test_long_texts_are_not_searched(engine: SQLiteEngine, huts: LoadedDataset) -> None:
    """A pattern with an open middle would take time by the square of their length."""
    long = "SELECT nmae FROM huts WHERE name IN (" + "NULL, " * 20_000
    assert not skeleton_of(long, "sqlite").spans(re.compile(r" NULL "))
    for sql in (long, "SELECT SUBSTRING ( " * 9_000, "SELCT " + "name, " * 20_000):
        outcome = engine.run(huts, sql, Limits())
        assert isinstance(outcome, QueryFailure)
        assert outcome.verdict in ("error", "refused")
