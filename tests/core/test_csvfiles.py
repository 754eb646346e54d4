from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jentrow.core.errors import InvalidSample
from jentrow.core.samples.csvfiles import read_table

cells = st.one_of(
    st.none(), st.text(alphabet='a", \n;', max_size=4), st.text(max_size=3).map(lambda t: t.strip())
)
texts = cells.map(
    lambda cell: (
        cell if cell is None else cell.replace("\r", "").replace("\0", "").replace("\ufeff", "")
    )
)


def written(rows: list[list[str | None]]) -> str:
    def field(cell: str | None) -> str:
        return "" if cell is None else '"' + cell.replace('"', '""') + '"'

    return "\r\n".join(",".join(map(field, row)) for row in rows)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(texts, texts), max_size=5))
def test_what_is_written_is_read(tmp_path: Path, rows: list[tuple[str | None, ...]]) -> None:
    path = tmp_path / "table.csv"
    table: list[list[str | None]] = [["one", "two"], *map(list, rows)]
    path.write_bytes(written(table).encode())
    # Line ends inside a field are read as one character, whatever they were.
    assert read_table(path) == (["one", "two"], [list(row) for row in rows])


@pytest.mark.parametrize(
    ("text", "rows"),
    [
        ("a,b\n1,2\n", [["1", "2"]]),
        ("a,b\n1,\n,2", [["1", None], [None, "2"]]),
        ('a,b\n"",\n', [["", None]]),
        ('a,b\n\n"x, y","say ""so"""\n\n', [["x, y", 'say "so"']]),
        ('\ufeffa,b\n" 1 ",2\n', [[" 1 ", "2"]]),
        ("a\nNULL\n", [["NULL"]]),
    ],
)
def test_null_and_empty_text_are_told_apart(
    tmp_path: Path, text: str, rows: list[list[str | None]]
) -> None:
    path = tmp_path / "table.csv"
    path.write_text(text, encoding="utf-8")
    assert read_table(path)[1] == rows


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            "a,A\n1,2\n",
            "line 1: a stands there twice; the header needs a different name in every column",
        ),
        (
            "a,\n1,2\n",
            "line 1: column 2 has no name; the header needs a different name in every column",
        ),
        ('a,b\n1,"2\n', "line 2: a quote out of place"),
        ('a,b\n"x"y,2\n', "line 2: a quote out of place"),
        ('a,b\n1,2\n"1\n2",3,4\n', "line 3: 3 fields"),
    ],
)
def test_what_cannot_be_read_says_where(tmp_path: Path, text: str, words: str) -> None:
    path = tmp_path / "table.csv"
    path.write_text(text, encoding="utf-8")
    with pytest.raises(InvalidSample, match=words):
        read_table(path)
