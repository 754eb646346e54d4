"""Why statements on a learner's own copy were not done, in a learner's words."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from jentrow.core.engines.copy_answers import CopyAnswer
from jentrow.core.engines.explaining import explain
from jentrow.core.engines.labels import DIALECTS
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.outcomes import stopped
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.sql.text import first_word, index_of_byte, place_at, place_within
from jentrow.core.sql.tokens import statements_in

CHANGE_INTERRUPTED: Final = (
    "the process that ran the statements was ended before it answered: look whether they were done."
)

_REFUSED_CHANGES: Final = {
    "transaction": "Each run is one transaction already: leave BEGIN, COMMIT and the like out.",
    "pragma": "PRAGMA is not allowed here.",
    "setting": "Settings cannot be changed here.",
    "other file": "Only this copy can be reached from here.",
    "trigger": "Triggers cannot be made here.",
    "virtual table": "Virtual tables cannot be made here.",
    "function": "A function in this statement is not allowed here.",
    "this": "Something in this statement is not allowed here.",
}


def gone_change() -> QueryFailure:
    """The failure of statements on a copy that is there no more."""
    return QueryFailure("error", "sql.runtime", "The copy is gone: begin again with a new one.")


def failed_change(answer: CopyAnswer, engine: str, script: str, limits: Limits) -> QueryFailure:
    """The failure that a worker's answer to a script on an engine stands for."""
    _, verdict, code, words, (number, start, end), detail, columns, offset = answer
    several = len(statements_in(script, DIALECTS[engine])) > 1
    which = f"Statement {number}: " if several and number else ""
    undone = " Nothing was changed."
    if number > 1:
        undone = " Nothing was changed, by the statements before it neither."
    place, near = place_at(script, start), first_word(script[start:end])
    if detail == "empty":
        return QueryFailure("error", "sql.syntax", "There is no statement here.")
    if detail == "gone":
        return gone_change()
    if detail == "full":
        message = "Your copy is full: delete something, or begin again with a new copy."
        return QueryFailure("stopped", "limit.memory", which + message + undone, "", place, near)
    if verdict == "stopped":
        found = stopped(code, limits)
        return replace(found, message=which + found.message + undone, place=place, near=near)
    if verdict == "refused":
        message = _REFUSED_CHANGES.get(detail, _REFUSED_CHANGES["this"])
        return QueryFailure(
            "refused", "policy.statement", which + message + undone, "", place, near
        )
    if detail == "not_utf8":
        return QueryFailure("error", "sql.runtime", "The result holds text that is not UTF-8.")
    catalogue = {name: tuple(found) for name, found in columns}
    statement = script[start:end]
    index = index_of_byte(statement, offset) if offset >= 0 else -1
    explanation, within = explain(engine, words, index, statement, catalogue, detail)
    if within is not None:
        place, near = place_within(script, start, within), explanation.near
    return QueryFailure(
        "error", explanation.code, which + explanation.message + undone, words, place, near
    )
