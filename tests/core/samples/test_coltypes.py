from __future__ import annotations

import datetime as dt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.samples.schema.coltypes import (
    WHAT_IT_TAKES,
    ColumnType,
    NotOfType,
    guess_type,
    read_column,
    read_value,
    type_of_declaration,
)


@pytest.mark.parametrize(
    ("texts", "type"),
    [
        (["1", "-2", None, ""], ColumnType("integer")),
        (["1", "2.50"], ColumnType("decimal")),
        (["1,5", "2"], ColumnType("decimal", "comma")),
        (["1.250,00", "-12,5", "0,5", "7"], ColumnType("decimal", "comma")),
        (["1,250.00", "12.5", "0.5"], ColumnType("decimal", "grouped")),
        (["1,25.0"], ColumnType("text")),
        (["1.2.3"], ColumnType("text")),
        (["007,5"], ColumnType("text")),
        (["1e5", "2.5"], ColumnType("float")),
        (["007", "12"], ColumnType("text")),
        (["12345678901234567890"], ColumnType("decimal")),
        (["2026-02-28", "2024-02-29"], ColumnType("date")),
        (["2026-02-29"], ColumnType("text")),
        (["2026-02-28 10:00", "2026-02-28T10:00:01.5Z"], ColumnType("timestamp")),
        (["1.4.2026", "31.12.2025"], ColumnType("date", "d.m.y")),
        (["13/1/2026"], ColumnType("date", "d/m/y")),
        (["1/13/2026"], ColumnType("date", "m/d/y")),
        (["1.4.2026 9:30", "31.12.2025"], ColumnType("timestamp", "d.m.y")),
        (["1/13/2026 24:30"], ColumnType("text")),
        (["yes", "No"], ColumnType("boolean")),
        (["yes", "maybe"], ColumnType("text")),
        (["0", "1"], ColumnType("integer")),
        ([None, ""], ColumnType("text")),
        ([], ColumnType("text")),
    ],
)
def test_the_narrowest_type_is_guessed(texts: list[str | None], type: ColumnType) -> None:
    assert guess_type(texts) == type


@pytest.mark.parametrize(
    ("text", "type", "value"),
    [
        ("-1.234.567,5", ColumnType("decimal", "comma"), -1234567.5),
        ("1.250", ColumnType("float", "comma"), 1250),
        ("1,234,567", ColumnType("decimal", "grouped"), 1234567),
        ("12.5", ColumnType("float", "grouped"), 12.5),
        ("3.7.2026 9:05", ColumnType("timestamp", "d.m.y"), "2026-07-03 09:05:00"),
        ("7/3/2026", ColumnType("timestamp", "m/d/y"), "2026-07-03 00:00:00"),
    ],
)
def test_a_value_is_read_in_its_file_s_form(text: str, type: ColumnType, value: object) -> None:
    assert read_value(text, type) == value


@given(
    st.one_of(
        st.lists(st.integers(-(10**17), 10**17).map(str), min_size=1),
        st.lists(st.dates().map(dt.date.isoformat), min_size=1),
        st.lists(st.decimals(-(10**6), 10**6, places=2).map(str), min_size=1),
        st.lists(st.datetimes().map(lambda moment: moment.isoformat(" ", "seconds")), min_size=1),
    )
)
def test_what_is_guessed_takes_every_value(texts: list[str]) -> None:
    values, problems = read_column(texts, guess_type(texts))
    assert problems == []
    assert None not in values


@given(st.lists(st.one_of(st.none(), st.text("0123456789.-+eE _,", max_size=6)), max_size=8))
def test_a_column_at_once_is_read_as_its_texts_one_by_one(texts: list[str | None]) -> None:
    for type in (ColumnType("integer"), ColumnType("decimal"), ColumnType("float")):
        _, problems = read_column(texts, type)
        wrong = set()
        for at, text in enumerate(texts):
            if text is None or not text.strip():
                continue
            try:
                read_value(text, type)
            except NotOfType:
                wrong.add(at)
        assert {at for at, _ in problems} == wrong


def test_what_is_wrong_is_said_in_words() -> None:
    _, problems = read_column(["1", "x", None, "1_0", "٣"], ColumnType("integer"))
    assert problems == [
        (1, "'x' is not a whole number"),
        (3, "'1_0' is not a whole number"),
        (4, "'٣' is not a whole number"),
    ]
    values, problems = read_column(["yes", "", "0"], ColumnType("boolean"))
    assert (values, problems) == ([1, None, 0], [])
    assert read_column(["3.7.2026"], ColumnType("date", "d.m.y"))[0] == ["2026-07-03"]
    assert read_column(["2026-07-03T08:05"], ColumnType("timestamp"))[0] == ["2026-07-03 08:05:00"]
    assert read_value("x'48aF'", ColumnType("binary")) == b"H\xaf"
    assert read_value("99999999999999999999", ColumnType("decimal")) == 1e20
    with pytest.raises(NotOfType, match="not a whole number"):
        read_value("99999999999999999999", ColumnType("integer"))


@pytest.mark.parametrize(
    ("declared", "name"),
    [
        ("VARCHAR(30)", "text"),
        ("DOUBLE PRECISION", "float"),
        ("decimal(8,2)", "decimal"),
        ("BIGINT", "integer"),
        ("TIMESTAMP", "timestamp"),
        ("BOOLEAN", "boolean"),
        ("BLOB", "binary"),
        ("", None),
        ("POINT", "integer"),  # as SQLite reads it: the word INT is in it
    ],
)
def test_declarations_mean_types(declared: str, name: str | None) -> None:
    assert type_of_declaration(declared) == name
    assert name is None or name in WHAT_IT_TAKES
