"""A script as an engine runs it in a place of its own: a schema, or a database, that is empty."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Final

from jentrow.core.samples.scripts.mariadb import with_versioned_comments, without_delimiters
from jentrow.core.samples.scripts.postgresql import with_copied_rows, without_lines
from jentrow.core.samples.scripts.statements import SETTING_UP
from jentrow.core.sql.tokens import Token, name_of, statements_in

_SCHEMA: Final = re.compile(
    r"CREATE\s+(?:SCHEMA|DATABASE)\s+(?:IF\s+NOT\s+EXISTS\s+)?[`\"]?(\w+)", re.IGNORECASE
)
_USUAL_SCHEMAS: Final = {"postgres": {"public"}, "duckdb": {"main"}, "mysql": set[str]()}
_NAMED: Final = re.compile(r"'(\w+)\.")
"""The schema in a text that names a sequence, or a table."""

FOLDERS: Final = frozenset({("DATA", "DIRECTORY"), ("INDEX", "DIRECTORY")})
"""Words that say where a table of MariaDB has its files: here, where the server has all others."""

OWN_FOLDER: Final = "NO_DIR_IN_CREATE"
"""The mode of a session in which such words say nothing."""

_EVENT: Final = re.compile(
    r"(?:CREATE(?:\s+OR\s+REPLACE)?(?:\s+DEFINER\s*=\s*\S+)?|ALTER|DROP)\s+EVENT\b", re.IGNORECASE
)
"""What a server would do by itself, at times: none of a sample, whose rows stand as they are."""

_AS_GIVEN: Final = "NO_AUTO_VALUE_ON_ZERO"
"""What MariaDB's dumps say so that their rows are taken as they stand: a 0 in a numbered column, too."""


def for_a_place_of_its_own(script: str, dialect: str) -> str:
    """A script without what sets up a server, and with its tables in no named schema.

    Everything stays in its line.
    """
    before = ""
    if dialect == "postgres":
        script = without_lines(with_copied_rows(script), lambda *_: None)
    elif dialect == "mysql":
        before = (
            f"SET SESSION sql_mode = '{_AS_GIVEN},{OWN_FOLDER}'; " if _AS_GIVEN in script else ""
        )
        script, _ = without_delimiters(with_versioned_comments(script))
    schemas = _USUAL_SCHEMAS.get(dialect, set()) | {one.lower() for one in _SCHEMA.findall(script)}
    parts, at = [before], 0
    for start, end in _of_another_place(script, dialect, schemas):
        parts += [script[at:start], "\n" * script.count("\n", start, end)]
        at = end
    return "".join(parts) + script[at:]


def _of_another_place(script: str, dialect: str, schemas: set[str]) -> Iterator[tuple[int, int]]:
    """Where a script sets up a server, names a schema before a table, or a folder for its files."""
    for tokens in statements_in(script, dialect):
        start = tokens[0].start
        if SETTING_UP.match(script, start) or (dialect == "mysql" and _EVENT.match(script, start)):
            yield start, tokens[-1].end
            continue
        for at, (token, following) in enumerate(pairwise(tokens)):
            if following.word == "." and (name_of(script, token) or "").lower() in schemas:
                yield token.start, following.end
            elif dialect == "mysql" and (token.word, following.word) in FOLDERS:
                named = next((one for one in tokens[at + 2 : at + 4] if one.kind == "text"), None)
                if named is not None:
                    yield token.start, named.end
            elif token.kind == "text" and _names_something(tokens, at):
                place = _NAMED.match(script, token.start, token.end)
                if place and place[1].lower() in schemas:
                    yield place.start(1), place.end()


def _names_something(tokens: Sequence[Token], at: int) -> bool:
    """Whether a text names a sequence or a table: nextval('public.numbers'::regclass)."""
    is_argument = at >= 2 and tokens[at - 2].word in ("NEXTVAL", "SETVAL", "CURRVAL")
    return is_argument or (tokens[at + 1].word == "::" and tokens[at + 2].word == "REGCLASS")
