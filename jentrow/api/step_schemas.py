"""The steps of a query, what they run on, and their rows."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jentrow.api.exercise_schemas import Sql
from jentrow.api.schemas import Cell, Given, Result, View
from jentrow.core.samples.rows.edits import Insert
from jentrow.core.sql.steps.details import MOST_PARTS, Told
from jentrow.services.samples.steps import Stage, StepAsked


class Step(View):
    """A step of a trace with its rows counted."""

    kind: Literal[
        "from", "join", "where", "group", "having", "select", "distinct", "order", "limit",
        "operand", "rounds",
    ]  # fmt: skip
    clause: str
    beside: Literal["", "truth", "group", "round"]
    sql: str
    rows: int | None
    parts: dict[str, int]
    problem: str
    told: list[Told]
    telling: str


class Trace(View):
    """A query's steps, and the traces of the queries inside it."""

    role: Literal["query", "cte", "derived", "subquery", "operand"]
    name: str
    sql: str
    steps: list[Step]
    nested: list[Trace]
    note: str


class StepQuery(Given):
    """A step's query; ``beside`` says that its last column stands beside the rows.

    ``only`` narrows the rows of a condition to those that it kept, or that were false, or unknown.
    ``telling`` is the step's query with ``told`` further columns.
    """

    sql: Sql
    beside: bool = False
    only: Literal["", "kept", "false", "unknown"] = ""
    telling: Sql = ""
    told: Annotated[int, Field(ge=0, le=MOST_PARTS)] = 0

    def asked(self) -> StepAsked:
        """The question, as the use cases take it."""
        return StepAsked(self.sql, self.beside, self.only, self.telling, self.told)


class AddedRow(Given):
    """A row that is added for as long as somebody looks; what is left out takes its default."""

    table: Annotated[str, Field(max_length=200)]
    values: Annotated[dict[str, str | None], Field(max_length=200)]


class Staged(Given):
    """What a query runs on: the engine, rows that the dataset has beside its own, how LIKE compares."""

    engine: Annotated[str, Field(max_length=40)] = "sqlite"
    added: Annotated[list[AddedRow], Field(max_length=50, default_factory=list)]
    minds_case: bool = False

    def stage(self, sample: str, dataset: str) -> Stage:
        """What the query runs on, as the use cases take it."""
        rows = tuple(Insert(one.table, one.values) for one in self.added)
        return Stage(sample, dataset, self.engine, rows, self.minds_case)


class TraceQuery(Staged):
    """A query that is to be taken apart."""

    sql: Sql


class StepQueryOn(Staged, StepQuery):
    """A step's query, and what it runs on."""


class StepRows(View):
    """The rows of a step."""

    result: Result | None
    beside: list[Cell]
    message: str
    told: list[list[Cell]]
