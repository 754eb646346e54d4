"""The words of a view's author, kept where SQLite reads something else."""

from __future__ import annotations

import apsw
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.engines.loading.views import texts_for
from jentrow.core.samples.schema.view_texts import author_of, is_stand_in, kept, stand_in
from jentrow.core.samples.scripts.dialects import guess_dialect

TEXTS = st.text(st.characters(blacklist_characters="\0", blacklist_categories=("Cs",))).map(
    str.strip
)


@given(TEXTS.filter(bool), st.booleans())
def test_a_text_comes_back_from_sqlite_as_it_was_written(written: str, alone: bool) -> None:
    ddl = (
        stand_in("as", ["a", "from"], "postgres", written)
        if alone
        else kept('CREATE VIEW "as" ("a", "from") AS SELECT 1, 2', "postgres", written)
    )
    db = apsw.Connection(":memory:")
    db.execute(ddl)
    (stored,) = next(db.execute("SELECT sql FROM sqlite_schema"))
    assert author_of(stored) == ("postgres", written)
    assert is_stand_in(stored) == alone
    assert [name for (name,) in db.execute("SELECT name FROM pragma_table_info('as')")] == [
        "a",
        "from",
    ]
    assert list(texts_for(stored, "postgres")) == [written]


def test_a_view_of_sqlites_own_is_run_as_it_is_before_it_is_translated() -> None:
    view = "CREATE VIEW v AS SELECT IIF(a > 1, 'x', 'y') FROM t"
    first, *others = texts_for(view, "mysql")
    assert first == view
    assert [one for one in others if "IIF" not in one.upper()]
    assert author_of(view) is None


@pytest.mark.parametrize("dialect", ["duckdb", "mysql"])
def test_words_of_another_engine_are_translated(dialect: str) -> None:
    view = kept("CREATE VIEW v AS SELECT 1", "postgres", "CREATE VIEW v AS SELECT a::int FROM t")
    first = next(texts_for(view, dialect))
    assert "CAST(a AS" in first
    assert first != view


def test_kept_words_do_not_tell_in_which_dialect_a_script_is() -> None:
    view = stand_in("v", ["a"], "postgres", "CREATE VIEW v AS\nSELECT a::int\n\nFROM t")
    assert guess_dialect(f"CREATE TABLE t (a TEXT);\n{view};") == "sqlite"
