"""Lists as spreadsheet programs write them."""

from __future__ import annotations

from pathlib import Path

import pytest

from jentrow.core.exercises.submissions import read_answers
from jentrow.core.rosters import read_roster
from jentrow.core.spreadsheets import rows_of_list

LIST = [["learner", "exercise", "sql"], ["ada", "high-huts", "SELECT a, b;\n"]]


@pytest.mark.parametrize(
    "text",
    [
        'learner,exercise,sql\nada,high-huts,"SELECT a, b;\n"\n',
        'learner;exercise;sql\r\nada;high-huts;"SELECT a, b;\n"\r\n',
        'learner\texercise\tsql\nada\thigh-huts\t"SELECT a, b;\n"\n',
        'sep=;\r\nlearner;exercise;sql\r\nada;high-huts;"SELECT a, b;\n"\r\n',
        'SEP=|\nlearner|exercise|sql\nada|high-huts|"SELECT a, b;\n"\n',
    ],
)
def test_rows_are_found_whatever_stands_between_their_fields(tmp_path: Path, text: str) -> None:
    assert list(rows_of_list(text)) == LIST
    path = tmp_path / "answers.csv"
    path.write_text(text, encoding="utf-8", newline="")
    found = read_answers(path)
    assert not found.problems
    assert [(one.learner, one.exercise, one.sql) for one in found.submissions] == [tuple(LIST[1])]


def test_a_place_is_the_file_s_line(tmp_path: Path) -> None:
    path = tmp_path / "answers.csv"
    path.write_text("sep=;\nlearner;exercise;sql\n;high-huts;SELECT 1\n", encoding="utf-8")
    assert read_answers(path).problems == ["line 3 names no learner"]


def test_a_roster_with_the_line_that_says_the_delimiter(tmp_path: Path) -> None:
    path = tmp_path / "learners.csv"
    path.write_text("sep=;\nlearner id;name\na1;Ada\n", encoding="utf-8")
    (only,) = read_roster(path).classes
    assert [(one.code, one.name) for one in only.entries] == [("a1", "Ada")]
