from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.dataset import Dataset, TooSlow
from jentrow.core.samples.rows.edits import Delete, Insert, make_edits
from jentrow.core.samples.rows.pages import RowReader, SortKey
from jentrow.core.samples.rows.profile import follow, profile_table, referring_rows
from tests.core.samples.conftest import MakeDataset

conditions = st.sampled_from(["", "nights > 2", "meal_plan IS NULL", "guest LIKE '%a%' -- why"])
sorts = st.lists(
    st.builds(SortKey, st.sampled_from(["nights", "guest", "meal_plan", "STAY_ID"]), st.booleans()),
    max_size=2,
)


@settings(
    max_examples=settings.default.max_examples // 2,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(sorts, conditions, st.integers(0, 45), st.integers(0, 20))
def test_a_page_is_a_cut_of_the_whole(
    huts_kept_once: Dataset, sort: list[SortKey], where: str, offset: int, limit: int
) -> None:
    reader = RowReader(huts_kept_once)
    order = ", ".join(
        [f"{key.column} {'DESC' if key.descending else ''}" for key in sort] + ["rowid"]
    )
    condition = f"WHERE {where}\n" if where else ""
    with huts_kept_once.reading() as db:
        whole = list(db.execute(f"SELECT * FROM stays {condition} ORDER BY {order}"))
    page = reader.page("stays", sort=sort, where=where, offset=offset, limit=limit)
    assert [row.values for row in page.rows] == whole[offset : offset + limit]
    assert (page.total, page.matching) == (38, len(whole))
    for at, row in enumerate(page.rows):
        assert reader.place_of("stays", row.number, sort=sort, where=where) == offset + at


@pytest.fixture(scope="module")
def huts_kept_once(tmp_path_factory: pytest.TempPathFactory) -> Dataset:
    from jentrow.core.samples.making.dataset_files import make_dataset
    from jentrow.core.samples.recipes import Recipe
    from tests.demo_course import DEMO

    folder: Path = tmp_path_factory.mktemp("huts")
    schema = (DEMO / "samples" / "huts" / "schema.sql").read_text(encoding="utf-8")
    from jentrow.core.samples.csvfiles import read_header
    from jentrow.core.samples.recipes import ColumnSource, CSVSource

    sources = tuple(
        CSVSource(path.stem, str(path), tuple(ColumnSource(n, n) for n in read_header(path)))
        for path in sorted((DEMO / "samples" / "huts" / "open").glob("*.csv"))
    )
    make_dataset(Recipe("tables", schema, sources), folder / "a.db", lambda done, total: None)
    return Dataset.adopt(folder / "kept", folder / "a.db", "made")


def test_pages_follow_changes_and_gaps(weirs: Dataset) -> None:
    reader = RowReader(weirs)
    assert [row.number for row in reader.page("notes").rows] == [1, 2, 3, 4]
    make_edits(weirs, [Delete("notes", (2,)), Insert("notes", {"text": "new"})])
    page = reader.page("notes", offset=1, limit=2)
    assert (page.version, page.total, [row.number for row in page.rows]) == (2, 4, [3, 4])
    assert reader.place_of("notes", 2) is None
    assert reader.place_of("notes", 5) == 3


def test_views_are_paged_too(weirs: Dataset) -> None:
    page = RowReader(weirs).page("low_weirs", sort=[SortKey("code", True)], where="height_m > 1")
    assert [row.values for row in page.rows] == [("W3", 1.5), ("W2", 1.5)]
    assert (page.total, page.matching) == (2, 2)


@pytest.mark.parametrize(
    ("where", "words"),
    [
        ("nights >", "cannot be read"),
        ("1) OR (1", "it is not one expression"),
        ("1; DELETE FROM stays", "cannot be read"),
        ("nowhere = 1", "no such column: nowhere"),
        ('nights = "many"', "no such column"),
    ],
)
def test_a_condition_that_is_none_says_why(huts_kept_once: Dataset, where: str, words: str) -> None:
    with pytest.raises(UnusableInput, match=words):
        RowReader(huts_kept_once).page("stays", where=where)
    with pytest.raises(UnusableInput, match="no column 'nowhere'"):
        RowReader(huts_kept_once).page("stays", sort=[SortKey("nowhere")])


def test_a_look_that_takes_too_long_is_ended(huts_kept_once: Dataset) -> None:
    endless = "WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT sum(x) FROM n"
    with pytest.raises(TooSlow, match="takes too long"), huts_kept_once.reading(0.05) as db:
        list(db.execute(endless))


def test_columns_are_counted(weirs: Dataset) -> None:
    profile = profile_table(weirs, "notes")
    text, weight, raw, _ = profile.columns
    assert (text.different, text.nulls, text.empty) == (2, 1, 1)
    assert text.commonest == (("a", 2), ("", 1))
    assert (weight.smallest, weight.largest) == (1.5, 2.0)
    assert raw.different == 2
    make_edits(weirs, [Insert("notes", {"text": "A"}), Insert("notes", {"text": "b "})])
    text = profile_table(weirs, "notes").columns[0]
    assert (text.case_variants, text.blanks) == (2, 1)
    assert profile_table(weirs, "low_weirs").rows == 2


def test_links_lead_there_and_back(huts_kept_once: Dataset) -> None:
    assert follow(huts_kept_once, "stays", "hut_id", 101) == ("huts", 4)
    assert follow(huts_kept_once, "wardens", "mentor_id", 1) is None
    assert follow(huts_kept_once, "stays", "guest", 101) is None
    found = {
        (one.table, one.columns[0]): (one.count, one.where)
        for one in referring_rows(huts_kept_once, "huts", 4)
    }
    assert found["stays", "hut_id"] == (5, '"hut_id" = 4')
    assert set(found) == {
        ("stays", "hut_id"),
        ("wardens", "hut_id"),
        ("trails", "from_hut"),
        ("trails", "to_hut"),
    }


def test_a_column_named_as_the_row_number(make_of: MakeDataset) -> None:
    dataset = make_of("CREATE TABLE t (rowid TEXT, oid TEXT); INSERT INTO t VALUES ('a', 'b');")
    (row,) = RowReader(dataset).page("t").rows
    assert (row.number, row.values) == (1, ("a", "b"))
    make_edits(dataset, [Delete("t", (1,))])
    assert RowReader(dataset).page("t").total == 0
