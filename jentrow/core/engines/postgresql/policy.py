"""What queries on PostgreSQL may not call or look at, beside what their login may not."""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.engines.answers import Answer, failed
from jentrow.core.engines.statements import refused_call, refused_statement, stands_in
from jentrow.core.sql.tokens import name_of, tokens_of

_NEVER: Final = r"""
    pg_(?!typeof|get_\w+def|get_expr|get_keywords|get_serial_sequence|table_is_visible|size_pretty
        |column_size|type_is_visible|encoding_to_char)\w+
    | set_config | current_setting | current_query | lo_\w+ | loread | lowrite
    | (query|table|schema|database|cursor)_to_xml\w* | dblink\w* | ts_stat | ts_rewrite
    | txid_\w+ | inet_(client|server)_\w+ | binary_upgrade_\w+
    | file_fdw\w* | postgres_fdw\w* | xpath_table | gin_clean\w* | brin_\w+ | row_security_active
    | has_(?!table|column|schema)\w+_privilege | setseed | currtid\w* | \w+_validator
"""
REFUSED_ON_COPIES: Final = re.compile(_NEVER, re.VERBOSE | re.IGNORECASE)
"""Names of functions that are refused: what sleeps, locks, reads settings and files, runs text."""

REFUSED: Final = re.compile(
    f"{_NEVER} | nextval | setval | currval | lastval", re.VERBOSE | re.IGNORECASE
)
"""The same in answers, which only read: with what changes a sequence, or tells how it was changed."""

HIDDEN: Final = re.compile(
    r"""
    pg_(stat(?!s\b)|statio)\w* | pg_settings | pg_file_settings | pg_hba\w* | pg_ident\w* | pg_locks
    | pg_cursors | pg_prepared\w* | pg_config | pg_shadow | pg_user\w* | pg_roles | pg_group | pg_auth\w*
    | pg_db_role_setting | pg_backend\w* | pg_shmem\w* | pg_replication\w* | pg_largeobject\w*
    | pg_database | pg_tablespace | pg_subscription\w*
    """,
    re.VERBOSE | re.IGNORECASE,
)
"""Tables and views that tell of others' work, of settings and of who there is."""


def _hidden(sql: str) -> Answer | None:
    """The refusal of a text that names what it may not look at, or may name it in escapes."""
    for token in tokens_of(sql, "postgres"):
        if token.kind == "name" and sql[token.start] in "uU":
            return failed("refused", "policy.statement", "", token.start, "escaped")
        name = name_of(sql, token)
        if name and HIDDEN.fullmatch(name):
            return failed("refused", "policy.statement", "", token.start, name.lower())
    return None


def refusal(sql: str) -> Answer | None:
    """Why a text is refused, as far as its words tell."""
    if problem := refused_statement(sql, "postgres"):
        return problem
    if not stands_in(sql, WORTH_A_LOOK):
        return None
    if hidden := _hidden(sql):
        return hidden
    tokens = tokens_of(sql, "postgres")
    for at, token in enumerate(tokens):
        if token.word in ("FOR",) and at + 1 < len(tokens) and tokens[at + 1].word in _LOCKING:
            return failed("refused", "policy.statement", "", token.start, "FOR UPDATE")
    return refused_call(sql, "postgres", REFUSED)


WORTH_A_LOOK: Final = (
    "pg_", "set_config", "current_", "lo_", "loread", "lowrite", "_to_xml", "dblink", "ts_stat",
    "ts_rewrite", "txid_", "inet_", "binary_upgrade_", "_fdw", "xpath_table", "gin_clean", "brin_",
    "row_security", "has_", "nextval", "setval", "currval", "lastval", "setseed",
    "currtid", "_validator", "u&", "for",
)  # fmt: skip
"""One of these stands in any text that is refused for its words: most texts have none of them."""

_LOCKING: Final = frozenset({"UPDATE", "SHARE", "NO", "KEY"})

_CHANGES: Final = frozenset(
    {"SELECT", "WITH", "VALUES", "TABLE", "INSERT", "UPDATE", "DELETE", "MERGE", "TRUNCATE"}
)
_DEFINING: Final = frozenset({"CREATE", "ALTER", "DROP"})
_DEFINED: Final = frozenset({"TABLE", "VIEW", "INDEX", "SEQUENCE", "TYPE", "DOMAIN"})
_BEFORE_DEFINED: Final = frozenset(
    {"OR", "REPLACE", "UNIQUE", "UNLOGGED", "RECURSIVE", "MATERIALIZED"}
)
_REFUSED_BY_WORD: Final = {
    **dict.fromkeys(
        ("BEGIN", "START", "COMMIT", "END", "ROLLBACK", "ABORT", "SAVEPOINT", "RELEASE", "PREPARE"),
        "transaction",
    ),
    **dict.fromkeys(("SET", "RESET", "SHOW", "DISCARD"), "setting"),
    **dict.fromkeys(("COPY", "LOAD", "IMPORT", "ATTACH", "DETACH"), "other file"),
    "PRAGMA": "pragma",
}


def refused_change(sql: str) -> str:
    """Why a statement on a learner's own copy is refused, as failed changes call it; or empty."""
    tokens = tokens_of(sql, "postgres")
    words = [token.word for token in tokens]
    first = next((word for word in words if word != "("), "")
    if first in _DEFINING:
        defined = next((word for word in words[1:] if word not in _BEFORE_DEFINED), "")
        if defined not in _DEFINED:
            return "trigger" if defined in ("TRIGGER", "RULE", "CONSTRAINT") else "this"
        if first == "ALTER" and {"OWNER", "TABLESPACE"} & set(words):
            return "this"
    elif first not in _CHANGES:
        return _REFUSED_BY_WORD.get(first, "this")
    if _hidden(sql):
        return "this"
    return "function" if refused_call(sql, "postgres", REFUSED_ON_COPIES) else ""
