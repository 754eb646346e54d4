"""Rows that a statement names by their numbers, however many these are."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

from sqlalchemy import (
    ColumnElement,
    Integer,
    TableValuedAlias,
    Text,
    bindparam,
    column,
    func,
    literal,
    select,
)
from sqlalchemy.orm import InstrumentedAttribute


def numbers_of(written: ColumnElement[str]) -> TableValuedAlias:
    """A table with a ``value`` for each number of a list that is written out as JSON.

    Its ``key`` is the number's place in the list, from 0 on.
    """
    return func.json_each(written).table_valued(column("key", Integer), column("value", Integer))


def among(
    named: InstrumentedAttribute[int] | InstrumentedAttribute[int | None], numbers: Iterable[int]
) -> ColumnElement[bool]:
    """Whether a column has one of these numbers.

    They go as one parameter: a statement with one for each is written anew for each count of them,
    and SQLite takes only so many.
    """
    given = numbers_of(literal(json.dumps(list(numbers))))
    return named.in_(select(given.c.value))


def among_given(
    named: InstrumentedAttribute[int] | InstrumentedAttribute[int | None],
) -> ColumnElement[bool]:
    """The same in a statement that is written once: the numbers come when it is run, ``given``."""
    return named.in_(select(numbers_of(bindparam("numbers", type_=Text())).c.value))


def given(numbers: Iterable[int]) -> dict[str, Any]:
    """The numbers of a statement that names rows by what is given."""
    return {"numbers": json.dumps(list(numbers))}
