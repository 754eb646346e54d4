"""What a script's INSERTs have the server work out, as SQLite can: sequences, moments, no table."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

from sqlglot import exp

_COUNTING_DAYS: Final = ("oracle", "tsql", "db2")
"""Dialects in which a moment and a number, or an interval, are a moment so many days away."""


@dataclass
class Sequences:
    """The sequences that a script makes: by name, what comes next and by how much it goes on."""

    _known: dict[str, tuple[int, int]] = field(default_factory=dict)

    def made(self, statement: exp.Create) -> None:
        """Notes a sequence with its start and increment."""
        said = statement.find(exp.SequenceProperties)
        start, step = (
            whole(said.args.get(name)) if said else None for name in ("start", "increment")
        )
        self._known[statement.this.name.lower()] = (1 if start is None else start, step or 1)

    def following(self, name: str) -> int | None:
        """The next value of a sequence; None where there is no such."""
        if name.lower() not in self._known:
            return None
        value, step = self._known[name.lower()]
        self._known[name.lower()] = (value + step, step)
        return value


def whole(node: object) -> int | None:
    """The whole number that a literal stands for; None for anything else."""
    try:
        return int(node.sql()) if isinstance(node, exp.Expr) else None
    except ValueError:
        return None


def inserts_of(statement: exp.MultitableInserts) -> list[exp.Insert]:
    """The rows that INSERT ALL writes out one by one; none where they come from a query."""
    source = statement.args["source"]
    from_ = source.args.get("from_") if isinstance(source, exp.Select) else None
    if from_ is None or not _is_no_table(from_):
        return []
    found = [one.this for one in statement.expressions]
    return found if all(isinstance(one.expression, exp.Values) for one in found) else []


def worked_out(
    statement: exp.Insert | exp.Update | exp.Delete, sequences: Sequences, dialect: str
) -> None:
    """Changes what a statement has worked out into what SQLite works out."""
    if not isinstance(statement.expression, exp.Values):  # whose cells are read one by one
        for now in list(statement.find_all(exp.Systimestamp, exp.Localtimestamp)):
            now.replace(exp.CurrentTimestamp())
    for select in statement.find_all(exp.Select):
        from_ = select.args.get("from_")
        if from_ is not None and _is_no_table(from_) and not select.args.get("joins"):
            select.set("from_", None)
    if isinstance(statement.expression, exp.Values):
        for node in list(
            statement.expression.find_all(exp.NextValueFor, exp.Column, exp.Anonymous)
        ):
            value = sequences.following(_sequence(node))
            if value is not None:
                node.replace(exp.Literal.number(value))
    if dialect in _COUNTING_DAYS:
        for moved in list(statement.find_all(exp.Add, exp.Sub, exp.DateAdd)):
            if moment := _days_away(moved):
                moved.replace(moment)


def _is_no_table(from_: exp.Expr) -> bool:
    return isinstance(from_.this, exp.Table) and from_.this.name.lower() == "dual"


def _sequence(node: exp.Expr) -> str:
    """The sequence of which a node is the next value; empty where it is none."""
    match node:
        case exp.NextValueFor():
            return str(node.this.name)
        case exp.Column() if node.name.upper() == "NEXTVAL":
            return node.table
        case exp.Anonymous() if node.name.upper() == "NEXTVAL" and node.expressions:
            return str(node.expressions[0].name).rpartition(".")[2]
    return ""


def _days_away(node: exp.Expr) -> exp.Expr | None:
    """A number of days from now, which SQLite would take from the year."""
    days, unit = node.expression, str(node.args.get("unit") or "day").lower()
    if not isinstance(node.this, exp.CurrentTimestamp | exp.CurrentDate):
        return None
    if isinstance(days, exp.Interval) and days.this is not None:
        unit, days = str(days.args.get("unit") or unit).lower(), exp.Literal.number(days.this.name)
    is_back = isinstance(node, exp.Sub)
    if isinstance(days, exp.Neg):
        is_back, days = not is_back, days.this
    if not isinstance(days, exp.Literal) or days.is_string:
        return None
    name = "DATE" if isinstance(node.this, exp.CurrentDate) else "DATETIME"
    away = f"{'-' if is_back else '+'}{days.name} {unit.rstrip('s')}s"
    words = [exp.Literal.string("now"), exp.Literal.string(away)]
    return exp.Anonymous(this=name, expressions=words)
