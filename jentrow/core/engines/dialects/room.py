"""Where texts in other dialects are translated and meet DuckDB, in a worker process."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.answers import FAILED, Answer, Tables, failed
from jentrow.core.engines.dialects.loader import StandInLoader, functions_for
from jentrow.core.engines.duckdb.policy import refusal
from jentrow.core.engines.duckdb.room import LOADING_BYTES, DuckDBRoom
from jentrow.core.engines.duckdb.scratch import DuckDBScratch
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.loading.datasets import load_parts
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.engines.scratch import Scratch
from jentrow.core.engines.statements import refused_statement
from jentrow.core.sql.columnkinds import ColumnKinds, column_kinds
from jentrow.core.sql.stand_ins.stand_in import foreign_word, stood_in
from jentrow.core.sql.tokens import tokens_of

TYPED_COLUMNS: Final = (
    "SELECT DISTINCT column_name, data_type, coalesce(comment, '') FROM duckdb_columns() "
    "WHERE NOT internal"
)


class StandInRoom(DuckDBRoom):
    """DuckDB standing in for another engine."""

    engine: str

    def __init__(self) -> None:
        super().__init__()
        self._kinds: dict[str, ColumnKinds] = {}

    def run(self, location: str, sql: str, limits: Limits) -> Answer:
        """Runs what stands in for a query."""
        if problem := refused_statement(sql, self.engine):
            return problem
        # What may not be called is refused by the words of the text, before it is translated.
        refused = refusal(sql)
        if refused is not None and refused[2] == "policy.function":
            return refused
        made = stood_in(self.engine, sql, self.kinds(location))
        stop = foreign_word(self.engine, sql)
        if stop is not None or not made.sql:
            stop = stop or tokens_of(sql, self.engine)[-1]
            words = f'syntax error at or near "{sql[stop.start : stop.end]}"'
            return failed("error", "", words, stop.start, '{"sort": "Parser"}')
        answer = super().run(location, made.sql, limits)
        if answer[0] == FAILED:
            kind, verdict, code, words, _, detail = answer
            # The place is one in the translation: there is none in the text that was written.
            return (kind, verdict, code, words, -1, detail)
        return answer

    def kinds(self, location: str) -> ColumnKinds:
        """What the columns of a dataset hold."""
        if location not in self._kinds:
            found = self._get(location, LOADING_BYTES).execute(TYPED_COLUMNS).fetchall()
            self._kinds[location] = column_kinds(found)
        return self._kinds[location]

    def scratch(self, location: str) -> Scratch | None:
        """A database of the same schema in memory, for made-up rows; texts come translated."""
        source = self._get(location, LOADING_BYTES)
        return DuckDBScratch(
            source,
            functions_for(self.engine),
            empty_is_null=self.engine == "oracle",
            collation=self.collation,
        )

    def build(self, location: str, parts: DatasetParts) -> Tables:
        """Writes a database file with the dialect's own functions in it."""
        loader = StandInLoader(self.engine, location, LOADING_BYTES)
        try:
            tables = load_parts(loader, parts, own=False)
            loader.note_texts()
            loader.add_functions()
            return tables
        finally:
            loader.close()


class TSQLRoom(StandInRoom):
    """For T-SQL."""

    engine = "tsql"
    collation = "nocase"


class OracleRoom(StandInRoom):
    """For Oracle SQL."""

    engine = "oracle"


class Db2Room(StandInRoom):
    """For Db2 SQL."""

    engine = "db2"
