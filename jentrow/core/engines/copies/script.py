"""One script on a learner's own copy, whatever the engine: all of it is done, or nothing."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import ClassVar

from jentrow.core.engines.answers import Stop
from jentrow.core.engines.copy_answers import CopyAnswer, StatementAnswer, done, failed_copy
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.sql.tokens import statements_in


class RefusedChange(Exception):
    """Raised where a statement is of a kind that nobody may run; ``args`` say which."""


class CopyScript(ABC):
    """Runs the statements of a script one by one, within bounds; an engine says how each step is done."""

    dialect: ClassVar[str]
    problems: ClassVar[tuple[type[Exception], ...]]
    """What the engine raises where it rejects a statement, or stops it."""

    def __init__(self) -> None:
        self._at = (1, 0, 0)

    def run(self, script: str) -> CopyAnswer:
        """Runs a script; nothing of it is done where it fails."""
        said: list[StatementAnswer] = []
        statement = ""
        try:
            parts = statements_in(script, self.dialect)
            texts = [script[tokens[0].start : tokens[-1].end] for tokens in parts]
            if not texts:
                return failed_copy("error", "sql.syntax", "", self._at, "empty")
            self._begin(texts)
            for number, tokens in enumerate(parts, 1):
                self._at = (number, tokens[0].start, tokens[-1].end)
                statement = texts[number - 1]
                said.append(self._done(statement))
            if self._is_full():
                self._at = (0, 0, 0)
                return self._undone("stopped", "limit.memory", "", "full")
            self._keep()
        except RefusedChange as refused:
            return self._undone("refused", "", "", refused.args[0])
        except Stop as stop:
            return self._undone("stopped", stop.code, "")
        except self.problems as problem:
            return self._undone(*self._told(problem, statement))
        return done(said)

    @abstractmethod
    def _begin(self, statements: list[str]) -> None:
        """Makes it possible to undo these statements."""

    @abstractmethod
    def _done(self, sql: str) -> StatementAnswer:
        """Runs one statement. Raises :class:`RefusedChange` and :class:`Stop`."""

    def _is_full(self) -> bool:
        """Whether the copy, with all statements done, is larger than it may be."""
        return False

    @abstractmethod
    def _keep(self) -> None:
        """Lets what was done stand."""

    @abstractmethod
    def _told(self, problem: Exception, statement: str) -> tuple[str, str, str, str, int]:
        """Verdict, code, engine's words, detail and byte offset of an error, as :data:`CopyAnswer` has them."""

    @abstractmethod
    def _undo(self) -> list[TableSchema]:
        """Takes back what was done; gives the tables, for words about names only."""

    def _undone(
        self, verdict: str, code: str, words: str, detail: str = "", offset: int = -1
    ) -> CopyAnswer:
        columns = [(one.name, [column.name for column in one.columns]) for one in self._undo()]
        return failed_copy(verdict, code, words, self._at, detail, columns, offset)
