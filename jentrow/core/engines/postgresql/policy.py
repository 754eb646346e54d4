"""What queries on PostgreSQL may not call or look at, beside what their login may not."""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.engines.answers import Answer, failed
from jentrow.core.engines.statements import refused_call, refused_statement
from jentrow.core.sql.tokens import name_of, tokens_of

REFUSED: Final = re.compile(
    r"""
    pg_(?!typeof|get_\w+def|get_expr|get_keywords|get_serial_sequence|table_is_visible|size_pretty
        |column_size|type_is_visible|encoding_to_char)\w+
    | set_config | current_setting | current_query | lo_\w+ | loread | lowrite
    | (query|table|schema|database|cursor)_to_xml\w* | dblink\w* | ts_stat | ts_rewrite
    | nextval | setval | currval | lastval | txid_\w+ | inet_(client|server)_\w+ | binary_upgrade_\w+
    | file_fdw\w* | postgres_fdw\w* | xpath_table | gin_clean\w* | brin_\w+ | row_security_active
    | has_(?!table|column|schema)\w+_privilege
    """,
    re.VERBOSE | re.IGNORECASE,
)
"""Names of functions that are refused: what sleeps, locks, reads settings and files, runs text."""

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


def refusal(sql: str) -> Answer | None:
    """Why a text is refused, as far as its words tell."""
    if problem := refused_statement(sql, "postgres"):
        return problem
    tokens = tokens_of(sql, "postgres")
    for at, token in enumerate(tokens):
        if token.kind == "name" and sql[token.start] in "uU":
            return failed("refused", "policy.statement", "", token.start, "escaped")
        name = name_of(sql, token)
        if name and HIDDEN.fullmatch(name):
            return failed("refused", "policy.statement", "", token.start, name.lower())
        if token.word in ("FOR",) and at + 1 < len(tokens) and tokens[at + 1].word in _LOCKING:
            return failed("refused", "policy.statement", "", token.start, "FOR UPDATE")
    return refused_call(sql, "postgres", REFUSED)


_LOCKING: Final = frozenset({"UPDATE", "SHARE", "NO", "KEY"})
