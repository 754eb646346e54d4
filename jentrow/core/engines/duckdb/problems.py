"""What DuckDB says of a text that it does not take."""

from __future__ import annotations

import json
import re
from typing import Final

import duckdb

from jentrow.core.engines.answers import Answer, failed
from jentrow.core.sql.stand_ins.functions import FAILS
from jentrow.core.sql.text import index_of_byte

_OWN: Final = re.compile(rf"'{FAILS}(?P<words>[^']*)'")
"""The words of a failure that a translation has made: see :func:`failing`."""


def words_of(problem: duckdb.Error) -> str:
    """What DuckDB says, without its sort and its advice."""
    _, _, said = str(problem).partition(" Error: ")
    if said.startswith("{"):
        said = json.loads(said)["exception_message"]
    lines = (said or str(problem)).split("\n")
    # Of a file, the first line says where, and a later one what is wrong there.
    of_file = [line for line in lines if line.startswith("Error when converting column")]
    return (of_file or lines)[0].rstrip(".!")


def rejected(problem: duckdb.Error, sql: str) -> Answer:
    """A sort of its own, its words, and a place in the text."""
    sort, _, said = str(problem).partition(" Error: ")
    found: dict[str, str] = {"exception_message": said}
    if said.startswith("{"):
        found = json.loads(said)
    words = found["exception_message"]
    if own := _OWN.search(words):
        sort, words = "Invalid Input", own["words"]
    location = found.get("location", "").strip("[]").split(",")
    index = index_of_byte(sql, int(location[0])) if location[0].isdigit() else -1
    if isinstance(problem, duckdb.PermissionException):
        return failed("refused", "policy.function", words, index, "that reads files")
    if "in read-only mode" in words or "has been locked" in words:
        return failed("refused", "policy.statement", words, index)
    detail = json.dumps(
        {
            "sort": sort,
            **{key: found[key] for key in ("name", "type", "error_subtype") if key in found},
        }
    )
    return failed("error", "", words, index, detail)
