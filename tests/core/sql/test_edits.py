"""The catalogue of single edits: each kind where it applies, and nothing but its own place changed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.engines.labels import DIALECTS
from jentrow.core.sql.edits.catalogue import catalogue, edits_of, kind_named
from jentrow.core.sql.edits.draft import draft_of
from jentrow.core.sql.mentions import Mentions
from jentrow.core.sql.parsing import parsed
from jentrow.core.sql.spans import spanned
from tests.core.sql.edits import TABLES

CASES = [
    pytest.param(entry, case, id=f"{entry.kind.name}: {case[0][:40]}")
    for entry in catalogue()
    for case in entry.cases
]
TEXTS = sorted({case[0] for entry in catalogue() for case in entry.cases})
READ = [("sqlite", sql) for sql in TEXTS] + [
    (dialect, sql)
    for dialect in ("postgres", "duckdb", "mysql")
    for sql in TEXTS[::8]
    if spanned(sql, dialect) is not None
]


def drafted(sql: str, *others: str, dialect: str = "sqlite"):
    draft = draft_of(sql, dialect, TABLES, [draft_of(one, dialect, TABLES) for one in others])
    assert draft is not None
    return draft


@pytest.mark.parametrize(("entry", "case"), CASES)
def test_a_kind_makes_the_edit_of_its_case(entry, case):
    before, after, *others = case
    draft = drafted(before, *others)
    made = {
        before[: change.start] + change.new + before[change.end :] for change in entry.edits(draft)
    }
    assert after in made


@pytest.mark.parametrize(("dialect", "sql"), READ)
def test_every_edit_of_a_text_can_be_read_again_and_differs_from_it(dialect, sql):
    others = [text for text in TEXTS[::24] if spanned(text, dialect) is not None]
    edits = edits_of(drafted(sql, *others, dialect=dialect))
    assert edits
    unread = [edit.edited for edit in edits if parsed(edit.edited, dialect) is None]
    assert unread == []
    assert all(edit.edited != sql for edit in edits)


OWN_WORDS = ("TOTAL(", "FULL JOIN", "EXCEPT ALL")
"""What some dialects have and others have not."""


@pytest.mark.parametrize("dialect", sorted({*DIALECTS.values()} - {"sqlite"}))
def test_the_same_text_has_the_same_edits_and_mentions_the_same_in_every_dialect(dialect):
    def told(sql, dialect):
        mentions = Mentions()
        mentions.add(drafted(sql, dialect=dialect))
        edits = {edit.edited for edit in edits_of(drafted(sql, dialect=dialect))}
        kept = {one for one in edits if not any(word in one for word in OWN_WORDS)}
        return kept, mentions.conditions, mentions.beside

    read = [sql for sql in TEXTS if spanned(sql, dialect) is not None]
    assert len(read) > 0.9 * len(TEXTS)
    for sql in read:
        assert told(sql, dialect) == told(sql, "sqlite"), sql


CALLS = [
    "MAX(nights)", "MIN(nights + (1))", "TRIM(guest)", "TRIM(TRIM(guest))", "UPPER(TRIM( guest ))",
    "TRIM(UPPER(guest))", "COALESCE(MAX(nights), 0)", "SUBSTR(guest, 1, 2)", "EXTRACT(YEAR FROM arrival)",
    "CAST(CAST(nights AS INT) AS CHAR(5))", "POSITION('a' IN guest)", "(MAX(nights))", "MAX(MAX(nights))",
    "MAX(nights) OVER (PARTITION BY guest)", "CASE WHEN TRIM(guest) = 'x' THEN MIN(nights) END",
]  # fmt: skip


@pytest.mark.parametrize("dialect", sorted({*DIALECTS.values()}))
def test_a_call_covers_its_name_and_its_parentheses(dialect):
    reading = spanned(f"SELECT {', '.join(CALLS)} FROM stays", dialect)
    assert reading is not None
    assert [reading.text(one) for one in reading.tree.selects] == CALLS


@pytest.mark.parametrize("sql", TEXTS)
def test_the_likeliest_comes_first_and_no_text_comes_twice(sql):
    edits = edits_of(drafted(sql))
    assert [edit.likelihood for edit in edits] == sorted(
        (edit.likelihood for edit in edits), reverse=True
    )
    assert len({edit.edited for edit in edits}) == len(edits)


def test_what_was_borrowed_is_marked_and_comes_last():
    edits = edits_of(
        drafted("SELECT name FROM huts", "SELECT name FROM huts WHERE beds > 20 ORDER BY beds")
    )
    borrows = [edit.borrows for edit in edits]
    assert True in borrows
    assert borrows == sorted(borrows)
    assert {edit.edited for edit in edits if "beds > 20" in edit.edited} == {
        edit.edited for edit in edits if edit.borrows and "beds > 20" in edit.edited
    }


def test_comments_and_layout_stay():
    sql = "SELECT name -- the hut\nFROM huts /* all */\nWHERE  beds <20"
    (edit,) = [one for one in edits_of(drafted(sql)) if one.new == "<="]
    assert edit.edited == sql.replace("<", "<=")
    assert (edit.place.line, edit.place.column) == (3, 13)
    assert edit.in_words == "write `<=` instead of `<`"


def test_what_is_borrowed_is_written_with_the_own_aliases():
    sql = "SELECT x.name FROM huts x JOIN stays y ON y.hut_id = x.hut_id"
    other = "SELECT name FROM huts JOIN stays s USING (hut_id) WHERE s.nights > 2 AND huts.beds > 3"
    made = {edit.new for edit in edits_of(drafted(sql, other)) if edit.borrows}
    assert " WHERE y.nights > 2" in made
    assert " WHERE x.beds > 3" in made


def test_a_kind_is_found_by_its_name_and_names_differ():
    names = [entry.kind.name for entry in catalogue()]
    assert len(set(names)) == len(names)
    assert kind_named("comparison").mistake.endswith(".")


@given(st.text(alphabet="SELECTFROMWHEREhutsbed ()*,.'=<>123\n", max_size=120))
def test_no_text_makes_the_catalogue_fail(sql):
    draft = draft_of(sql, "sqlite", TABLES)
    if draft is not None:
        edits_of(draft)


def test_a_text_as_deep_as_nobody_writes_is_not_read():
    assert spanned("SELECT " + "(" * 400 + "1" + ")" * 400, "sqlite") is None
