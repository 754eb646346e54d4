"""Tables made on an engine and filled, with those of their rules that the engine takes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

from jentrow.core.engines.loading.loader import Loader, StatementFailed
from jentrow.core.engines.loading.neutral import NeutralTable
from jentrow.core.engines.loading.rules import NO_RULES, TableRules, holds_computed, rules_of
from jentrow.core.samples.csvfiles import read_table, write_record


def make_table(loader: Loader, table: NeutralTable, *, for_changing: bool) -> None:
    """Makes a table with its rows. Raises :class:`StatementFailed`.

    ``for_changing`` tells that its rows will be changed, so that its rules count. One that the
    engine does not take, or that the rows do not meet there, is left out.
    """
    if loader.script_dialect:  # what it stands in for has no enumerations
        table = table.without_enumerations
    rules = rules_of(table, loader) if for_changing else NO_RULES
    problem: StatementFailed | None = None
    for attempt, some_rules in _attempts(loader, table, rules):
        try:
            _filled(loader, attempt, some_rules)
            return
        except StatementFailed as failed:
            problem = failed
            loader.drop(table.schema.name)
    assert problem is not None
    raise problem


def _attempts(
    loader: Loader, table: NeutralTable, rules: TableRules
) -> Iterator[tuple[NeutralTable, TableRules]]:
    """A table with its rules, and then with ever fewer of them."""
    yield table, rules
    plain = table.without_enumerations
    if rules != NO_RULES:
        taken = NO_RULES
        for one in rules.each():
            if _is_taken(loader, plain, one):
                taken = taken.with_(one)
        if taken != rules:
            yield table, taken
        yield table, taken.without_computed()
        yield table, replace(taken.without_computed(), checks=())
    if plain != table or rules != NO_RULES:
        yield plain, NO_RULES


def _is_taken(loader: Loader, table: NeutralTable, rule: TableRules) -> bool:
    try:
        if rule.computed:
            _filled(loader, table, rule)
        else:
            loader.create(table, rule)
    except StatementFailed:
        return False
    finally:
        loader.drop(table.schema.name)
    return True


def _filled(loader: Loader, table: NeutralTable, rules: TableRules) -> None:
    name = table.schema.name
    every = [column.name for column in table.columns]
    if rules.computed:
        # Computed as a sample's file has them, or not at all: first its values have to meet the
        # condition that they are what the engine would compute.
        types = dict(zip(every, table.types, strict=True))
        holds = (
            holds_computed(loader, column, text, types[column])
            for column, text in rules.computed.items()
        )
        loader.create(table, rules.without_computed(*holds))
        loader.copy(name, every, table.rows)
        loader.drop(name)
    loader.create(table, rules)
    rows = _without(table.rows, frozenset(rules.computed)) if rules.computed else table.rows
    loader.copy(name, [one for one in every if one not in rules.computed], rows)


def _without(rows: Path, columns: frozenset[str]) -> Path:
    """A file of rows without some of its columns."""
    names, records = read_table(rows)
    kept = [at for at, name in enumerate(names) if name not in columns]
    found = rows.with_suffix(".written.csv")
    with found.open("w", encoding="utf-8", newline="") as out:
        write_record(out, [names[at] for at in kept])
        for record in records:
            write_record(out, [record[at] for at in kept])
    return found
