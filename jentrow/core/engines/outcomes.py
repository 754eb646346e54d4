"""What a worker's answer to a query means: its rows, or a failure in a learner's words."""

from __future__ import annotations

from typing import Any, Final

from jentrow.core.engines.answers import AWAY, ROWS, typed_names
from jentrow.core.engines.explaining import explain
from jentrow.core.engines.labels import DIALECTS, LABELS
from jentrow.core.engines.limits import SQL_LENGTH, Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure, QueryOutcome
from jentrow.core.errors import EngineUnavailable
from jentrow.core.processes.crossing import unpacked
from jentrow.core.results import Column, ResultSet
from jentrow.core.sql.script_words import script_words
from jentrow.core.sql.skeleton import skeleton_of
from jentrow.core.sql.spellings.spellings import form_at

_WORDS: Final[dict[tuple[str, str], str]] = {
    (
        "limit.time",
        "",
    ): "The query was stopped: it takes too long. A join without its condition, or "
    "a recursion without an end, does that.",
    ("limit.rows", ""): "The query was stopped: it gives more than {rows} rows. A join without its "
    "condition does that.",
    ("limit.memory", ""): "The query was stopped: it needs too much memory.",
    ("policy.statement", "several"): "More than one statement: an answer is a single query.",
    ("policy.statement", ""): "Not a query: an answer only reads, with SELECT, WITH or VALUES.",
    ("policy.statement", "table"): "The query reads {name}, which is not a table of the sample.",
    ("policy.function", ""): "The function {name} is not allowed in an answer.",
}


def outcome_of(
    answer: Any, sql: str, dataset: LoadedDataset, limits: Limits, *, told: bool = True
) -> QueryOutcome:
    """The result or the failure that an answer of a worker stands for.

    A failure that is not ``told`` has no words.

    Raises :class:`EngineUnavailable` where the engine's server does not answer.
    """
    if answer[0] == ROWS:
        _, names, rows, types = answer
        columns = tuple(Column(name, declared=type) for name, type in typed_names(names, types))
        return ResultSet(columns, unpacked(rows) if isinstance(rows, bytes) else rows)
    if not told and answer[0] != AWAY:
        _, verdict, code, *_ = answer
        return QueryFailure(verdict, code, "")
    return failure_of(answer, sql, dataset, limits)


def failure_of(answer: Any, sql: str, dataset: LoadedDataset, limits: Limits) -> QueryFailure:
    """The failure that an answer of a worker stands for. Raises :class:`EngineUnavailable`."""
    if answer[0] == AWAY:
        raise EngineUnavailable(answer[1])
    _, verdict, code, words, index, detail = answer
    if verdict == "stopped":
        return stopped(code, limits)
    if verdict == "refused":
        return _refused(code, detail, words, sql, dataset)
    if detail == "empty":
        return QueryFailure("error", "sql.syntax", "There is no query here.")
    if detail == "not_utf8":
        return QueryFailure("error", "sql.runtime", "The result holds text that is not UTF-8.")
    explanation, place = explain(dataset.engine, words, index, sql, dict(dataset.columns), detail)
    return QueryFailure(
        "error", explanation.code, explanation.message, words, place, explanation.near
    )


def unusable(sql: str) -> QueryFailure | None:
    """A refusal for text that cannot be handed to an engine as it is."""
    message = ""
    if len(sql) > SQL_LENGTH:
        message = f"The query has {len(sql)} characters; at most {SQL_LENGTH} are taken."
    elif "\0" in sql:
        message = "The query holds a NUL character; remove it."
    elif not _is_text(sql):
        message = "The query holds characters that are not Unicode text; save it as UTF-8."
    return QueryFailure("refused", "policy.statement", message) if message else None


def _is_text(sql: str) -> bool:
    try:
        sql.encode()
    except UnicodeEncodeError:
        return False
    return True


def stopped(code: str, limits: Limits) -> QueryFailure:
    """A query that passed a limit; ``code`` says which."""
    message = _WORDS[code, ""].format(rows=limits.rows)
    return QueryFailure("stopped", code, message)  # type: ignore[arg-type]


def _refused(code: str, detail: str, words: str, sql: str, dataset: LoadedDataset) -> QueryFailure:
    engine = dataset.engine
    owner, _, table = detail.rpartition(".")
    if owner and table in dict(dataset.columns):
        message = f"Tables of the sample have no {owner} before them: write {table} alone."
        return QueryFailure("error", "sql.object", message, words, near=table)
    around = script_words(sql, DIALECTS[engine]) if code == "policy.statement" else None
    if around is not None:
        message = f"{_WORDS.get((code, detail), _WORDS[code, ''])} {around.message}"
        return QueryFailure("refused", code, message, words, around.place, around.near)  # type: ignore[arg-type]
    if code == "policy.statement" and detail and detail != "several" and detail.upper() != detail:
        message = _WORDS[code, "table"].format(name=detail)
    elif code == "policy.function":
        message = _WORDS[code, ""].format(name=detail)
    else:
        message = _WORDS.get((code, detail), _WORDS[code, ""])
        hint = form_at(skeleton_of(sql, DIALECTS[engine]), 0, engine, LABELS[engine])
        if detail != "several" and hint:
            message = f"{message} {hint}"
    return QueryFailure("refused", code, message, words)  # type: ignore[arg-type]
