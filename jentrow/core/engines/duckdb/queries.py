"""One query at a time on a connection, refused, watched and stopped where it must be."""

from __future__ import annotations

import duckdb

from jentrow.core.engines.answers import Answer, Stop, failed, told_columns
from jentrow.core.engines.duckdb.connection import Watch
from jentrow.core.engines.duckdb.policy import refusal
from jentrow.core.engines.duckdb.problems import rejected
from jentrow.core.engines.duckdb.values import Executed, Fetching
from jentrow.core.engines.limits import Limits
from jentrow.core.results import Column


class Queries:
    """Runs them, and remembers the columns of the last one."""

    def __init__(self) -> None:
        self.watch = Watch()
        self._names: tuple[str, ...] = ()
        self._types: tuple[str, ...] = ()

    def run(self, db: duckdb.DuckDBPyConnection, sql: str, limits: Limits) -> Answer:
        """Runs one query."""
        self._names = ()
        if refused := refusal(sql):
            return refused
        self.watch.begin(db, limits.seconds)
        try:
            return self._fetched(db, sql, limits)
        except Stop as stop:
            return failed("stopped", stop.code, "")
        except duckdb.InterruptException:
            return failed("stopped", "limit.time", "")
        except (duckdb.OutOfMemoryException, MemoryError):
            return failed("stopped", "limit.memory", "")
        except duckdb.Error as problem:
            return rejected(problem, sql)
        except (OverflowError, ValueError) as beyond:  # a value that Python has no type for
            return failed("error", "sql.runtime", str(beyond))
        finally:
            self.watch.end()

    def _fetched(self, db: duckdb.DuckDBPyConnection, sql: str, limits: Limits) -> Answer:
        """The rows, up to the bounds, as they come."""
        executed = Executed(db, sql)
        self._names, self._types = executed.names, executed.types
        rows = Fetching(limits).rows(executed)
        return ("rows", self._names, rows, self._types)

    def told_columns(self) -> tuple[Column, ...]:
        """The columns of the last query as people tell them apart, with their types."""
        return told_columns([(name, "") for name in self._names], self._types)
