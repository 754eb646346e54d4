"""A T-SQL script with a semicolon behind each statement: most are written without any.

A batch ends with GO on a line of its own, a statement where another begins: a word that begins one,
outside parentheses, that is no part of the statement before it. Views and programs have a batch to
themselves.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from jentrow.core.samples.scripts.pieces import LeaveOut, Pieces
from jentrow.core.samples.scripts.reasons import (
    CONDITION,
    DECIDES,
    DROPS,
    FAILING,
    ONCE,
    PROGRAM,
)
from jentrow.core.sql.tokens import Token, each_token

_PROGRAMS: Final = frozenset({"PROC", "PROCEDURE", "FUNCTION", "TRIGGER"})
_ROWS: Final = frozenset({"INSERT", "UPDATE", "DELETE", "SELECT", "MERGE"})
_BEGINNINGS: Final = _ROWS | {
    "CREATE", "ALTER", "DROP", "TRUNCATE", "SET", "USE", "EXEC", "EXECUTE", "PRINT", "DECLARE", "IF",
    "WHILE", "BEGIN", "END", "ELSE", "COMMIT", "ROLLBACK", "GRANT", "REVOKE", "DENY", "DBCC",
    "RAISERROR", "THROW", "RETURN", "WAITFOR", "BULK",
}  # fmt: skip
"""Words with which a statement begins, or a block of them ends."""

_THINGS: Final = _PROGRAMS | {
    "TABLE", "VIEW", "INDEX", "DATABASE", "SCHEMA", "SEQUENCE", "TYPE", "CONSTRAINT", "COLUMN",
    "SYNONYM", "USER", "LOGIN",
}  # fmt: skip
_DROPPING: Final = re.compile(r"DROP|PRINT|USE|ALTER DATABASE|ALTER TABLE .*DROP CONSTRAINT")
"""How a statement begins that drops something, or that stands beside such."""

_OF_A_BLOCK: Final = frozenset({"TRAN", "TRANSACTION", "DISTRIBUTED", "DIALOG", "CONVERSATION"})
_REST: Final = re.compile(r"[ \t]*(\d*)[ \t\r]*(?:--[^\n]*)?(?:\n|\Z)")


def separated(script: str, leave_out: LeaveOut) -> str:
    """The script with a semicolon behind each statement; every line stays where it was.

    What no sample can take over is blank in it, and told to ``leave_out``: its line, its text, why.
    """
    pieces = Pieces(script, leave_out)
    batch: list[Token] = []
    for token in each_token(script, "tsql"):
        times = _ends_batch(script, token)
        if times is None:
            batch.append(token)
            continue
        _Batch(script, batch, pieces).take()
        batch.clear()
        pieces.blank(token.start, token.end + len(times))
        if times.strip() not in ("", "1"):
            leave_out(pieces.line_of(token.start), f"GO{times}", ONCE)
    _Batch(script, batch, pieces).take()
    return pieces.text()


def _ends_batch(script: str, token: Token) -> str | None:
    """What stands behind GO on its line, how often a batch is run; None where it is no such line."""
    if token.word != "GO":
        return None
    line = script[script.rfind("\n", 0, token.start) + 1 : token.start]
    rest = _REST.match(script, token.end)
    return script[token.end : rest.end(1)] if rest and not line.strip() else None


class _Batch:
    """The statements of one batch."""

    def __init__(self, script: str, tokens: Sequence[Token], pieces: Pieces) -> None:
        self._script, self._tokens, self._pieces = script, tokens, pieces

    def take(self) -> None:
        """Puts semicolons behind its statements, and blanks what is none of a sample."""
        at = 0
        while at < len(self._tokens):
            word = self._word(at)
            if word == ";":
                at += 1
            elif self._is_program(at):
                at = self._leave(at, len(self._tokens), PROGRAM)
            elif word == "IF":
                at = self._condition(at)
            elif word == "WHILE":
                at = self._leave(at, self._end_of_guarded(self._end(at)), DECIDES)
            elif word in ("BEGIN", "END") and self._is_bracket(at):
                at = self._bracket(at)
            else:
                end = self._end(at)
                self._pieces.end_statement(self._tokens[end - 1].end)
                at = end

    def _word(self, at: int) -> str:
        return self._tokens[at].word if 0 <= at < len(self._tokens) else ""

    def _words(self, at: int, count: int) -> str:
        return " ".join(self._word(one) for one in range(at, at + count))

    def _leave(self, at: int, end: int, why: str) -> int:
        self._pieces.leave(self._tokens[at].start, self._tokens[end - 1].end, why)
        return end

    def _is_program(self, at: int) -> bool:
        thing = at + 3 if self._word(at + 1) == "OR" else at + 1
        return self._word(at) in ("CREATE", "ALTER") and self._word(thing) in _PROGRAMS

    def _condition(self, at: int) -> int:
        """IF: of a sample that begins empty it is known what is not there yet."""
        end = self._end(at)
        words = self._words(at, end - at)
        guarded = self._end_of_guarded(end)
        if ("NOT EXISTS" in words or "IS NULL" in words) and self._word(guarded) != "ELSE":
            return self._leave(at, end, CONDITION)
        if self._only_drops(end, guarded) and self._word(guarded) != "ELSE":
            return self._leave(at, guarded, DROPS)
        while self._word(guarded) == "ELSE":
            guarded = self._end_of_guarded(guarded + 1)
        return self._leave(at, guarded, DECIDES)

    def _only_drops(self, at: int, end: int) -> bool:
        """Whether no statement from here to there does more than drop something, and say so."""
        while at < end:
            if self._word(at) in (";", "BEGIN", "END"):
                at += 1
                continue
            begun, at = at, self._end(at)
            if not _DROPPING.match(self._words(begun, at - begun)):
                return False
        return True

    def _end_of_guarded(self, at: int) -> int:
        """Where the statement or block ends that a condition is put on."""
        if self._word(at) == "BEGIN" and self._is_bracket(at):
            return self._end_of_block(at)
        if self._word(at) in ("IF", "WHILE"):
            return self._end_of_guarded(self._end(at))
        end = self._end(at) if at < len(self._tokens) else at
        return end + 1 if self._word(end) == ";" and self._word(end + 1) == "ELSE" else end

    def _is_bracket(self, at: int) -> bool:
        """Whether BEGIN or END is one of a block, and not of a transaction."""
        return self._word(at + 1) not in _OF_A_BLOCK

    def _bracket(self, at: int) -> int:
        """A block's beginning or end goes, and the whole of one that is for errors."""
        kind = self._word(at + 1)
        if self._word(at) == "BEGIN" and kind == "CATCH":
            return self._leave(at, self._end_of_block(at), FAILING)
        end = at + 2 if kind in ("TRY", "CATCH") else at + 1
        self._pieces.blank(self._tokens[at].start, self._tokens[end - 1].end)
        return end

    def _end_of_block(self, at: int) -> int:
        depth = 0
        for end in range(at, len(self._tokens)):
            word = self._word(end)
            if word == "CASE" or (word == "BEGIN" and self._is_bracket(end)):
                depth += 1
            elif word == "END":
                depth -= 1
                if not depth:
                    return end + 2 if self._word(end + 1) in ("TRY", "CATCH") else end + 1
        return len(self._tokens)

    def _end(self, at: int) -> int:
        """Where the statement ends that begins here."""
        depth, cases, seen = self._tokens[at].depth, 0, {self._word(at)}
        # A view's text is all that its batch has.
        is_view = self._word(at) in ("CREATE", "ALTER") and "VIEW" in (
            self._word(at + 1),
            self._word(at + 3),
        )
        for end in range(at + 1, len(self._tokens)):
            token = self._tokens[end]
            if token.word == ";":
                return end
            if is_view or token.depth != depth or token.kind != "word":
                continue
            if token.word == "CASE":
                cases += 1
            elif token.word == "END" and cases:
                cases -= 1
            elif token.word in _BEGINNINGS and not cases and self._begins(at, end, seen):
                return end
            seen.add(token.word)
        return len(self._tokens)

    def _begins(self, at: int, end: int, seen: set[str]) -> bool:
        """Whether a word begins another statement than the one that is being read."""
        head, before, word, after = (self._word(one) for one in (at, end - 1, end, end + 1))
        if before in (".", ",", "THEN", "GRANT", "REVOKE", "DENY", "WITH", "FOR", "AFTER", "OF"):
            return False
        # An INSERT's rows, and what a WITH is for, come in a statement of their own words.
        for_rows = "INSERT" in seen and not seen & {"VALUES", "SELECT", "EXEC", "EXECUTE"}
        waits = for_rows or (head == "WITH" and not seen & _ROWS)
        match word:
            case "IF":
                return before not in _THINGS
            case "SELECT" | "EXEC" | "EXECUTE" if waits:
                return False
            case "SELECT":
                return before not in ("UNION", "ALL", "EXCEPT", "INTERSECT", "AS")
            case "INSERT" | "UPDATE" | "DELETE" | "MERGE":
                if head == "WITH" and not seen & _ROWS:
                    return False
                is_action = before == "ON" and head != "SET"  # of a foreign key
                return not (is_action or before == "BULK")
            case "SET":
                is_own = head in ("UPDATE", "MERGE", "WITH") and "SET" not in seen
                return not (is_own or head == "ALTER" or before in ("UPDATE", "DELETE"))
            case "ALTER":
                return not (after == "COLUMN" or before == "OR")
            case "DROP":
                return head != "ALTER" or after in _THINGS - {"COLUMN", "CONSTRAINT"}
            case "CREATE":
                return head != "CREATE" or "SCHEMA" not in seen
        return True
