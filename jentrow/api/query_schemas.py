"""Queries that are tried on a dataset, alone, on every engine, or beside another."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jentrow.api.schemas import Given, Result, View, Woven
from jentrow.core.sql.text import Place


class RunName(Given):
    """The name of a run; empty for none."""

    name: Annotated[str, Field(max_length=80)]


class Query(Given):
    """A query to try."""

    sql: Annotated[str, Field(max_length=200_000)]


class QueryOn(Query):
    """A query, and the engine that is to run it."""

    engine: Annotated[str, Field(max_length=40)] = "sqlite"


class TwoQueries(Given):
    """Two queries to compare; the first is what is due."""

    first: Annotated[str, Field(max_length=200_000)]
    second: Annotated[str, Field(max_length=200_000)]


class Tried(View):
    """What came of a query."""

    result: Result | None
    verdict: Literal["ran", "error", "refused", "stopped"]
    message: str
    place: Place | None
    near: str
    runs_as: str
    doubts: list[str]


class EngineRun(View):
    """What a query gives on one engine, and whether that is what the first engine gave."""

    engine: str
    label: str
    version: str
    result: Result | None
    message: str
    same: bool | None
    woven: Woven | None
    why: list[str]


class Compared(View):
    """Two queries' results, woven."""

    same: bool
    woven: Woven | None
    message: str
