"""What queries on MariaDB may not call or look at, beside what their login may not."""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.engines.answers import Answer, failed
from jentrow.core.engines.servers.engine import PREFIX
from jentrow.core.engines.statements import refused_call, refused_statement, stands_in
from jentrow.core.samples.scripts.own_place import FOLDERS
from jentrow.core.sql.tokens import name_of, tokens_of

_NEVER: Final = r"""
    sleep | benchmark | get_lock | release_lock | release_all_locks | is_free_lock | is_used_lock
    | load_file | master_\w+ | wait_for_\w+ | source_pos_wait | nextval | lastval | setval
    | connection_id | sys_exec | sys_eval | sys_get | sys_set | load_extension
    | uncompress\w* | des_\w+ | xp_\w+ | binlog_\w+ | wsrep_\w+ | spider_\w+ | ps_\w+ | gtid_\w+
"""
REFUSED_ON_COPIES: Final = re.compile(_NEVER, re.VERBOSE | re.IGNORECASE)
"""Names of functions that are refused: what sleeps, locks, reads files, changes the session."""

REFUSED: Final = re.compile(f"{_NEVER} | last_insert_id", re.VERBOSE | re.IGNORECASE)
"""The same in answers, which only read: with what tells of rows that were added."""

HIDDEN: Final = re.compile(
    r"""
    processlist | (global|session)_(variables|status) | system_variables | user_privileges
    | schema_privileges | table_privileges | column_privileges | user_statistics | client_statistics
    | user_variables | profiling | plugins | all_plugins | innodb_\w+ | files | events
    | performance_schema | mysql | sys
    """,
    re.VERBOSE | re.IGNORECASE,
)
"""Tables and databases that tell of others' work, of settings and of who there is."""

_EXECUTED: Final = re.compile(r"/\*M?!")
_AFTER: Final = frozenset({".", "FROM", "JOIN"})


def refusal(sql: str) -> Answer | None:
    """Why a text is refused, as far as its words tell."""
    if found := _EXECUTED.search(sql):
        return failed("refused", "policy.statement", "", found.start(), "comment")
    if problem := refused_statement(sql, "mysql"):
        return problem
    if not stands_in(sql, WORTH_A_LOOK):
        return None
    tokens = tokens_of(sql, "mysql")
    for at, token in enumerate(tokens):
        before = tokens[at - 1].word if at else ""
        after = tokens[at + 1].word if at + 1 < len(tokens) else ""
        if (token.word, after) in _PAIRS:
            return failed("refused", "policy.statement", "", token.start, _PAIRS[token.word, after])
        if token.word in (":=", "INTO"):
            return failed("refused", "policy.statement", "", token.start, token.word)
        name = name_of(sql, token)
        is_place = before in _AFTER or after == "."
        if name and is_place and HIDDEN.fullmatch(name):
            return failed("refused", "policy.statement", "", token.start, name.lower())
    return refused_call(sql, "mysql", REFUSED)


WORTH_A_LOOK: Final = (
    "sleep", "benchmark", "lock", "load_file", "master_", "wait", "nextval", "lastval", "setval",
    "last_insert_id", "connection_id", "sys", "load_extension", "uncompress", "des_", "xp_",
    "binlog_", "wsrep_", "spider_", "ps_", "gtid_", "processlist", "global_", "session_",
    "_variables", "_privileges", "_statistics", "profiling", "plugins", "innodb_", "files", "events",
    "performance_schema", "mysql", "@", ":=", "into", "for",
)  # fmt: skip
"""One of these stands in any text that is refused for its words: most texts have none of them."""

_PAIRS: Final = {
    ("@", "@"): "setting",
    ("FOR", "UPDATE"): "FOR UPDATE",
    ("FOR", "SHARE"): "FOR UPDATE",
    ("LOCK", "IN"): "FOR UPDATE",
}

DEFINING: Final = frozenset({"CREATE", "ALTER", "DROP", "RENAME", "TRUNCATE"})
"""What statements begin with that MariaDB does for good, whatever comes after them."""

_CHANGES: Final = frozenset({"SELECT", "WITH", "VALUES", "INSERT", "REPLACE", "UPDATE", "DELETE"})
_DEFINED: Final = frozenset({"TABLE", "TABLES", "VIEW", "INDEX"})
_BEFORE_DEFINED: Final = frozenset({"OR", "REPLACE", "UNIQUE", "FULLTEXT", "IGNORE", "ONLINE"})
_REFUSED_BY_WORD: Final = {
    **dict.fromkeys(
        ("BEGIN", "START", "COMMIT", "ROLLBACK", "SAVEPOINT", "RELEASE", "XA", "PREPARE"),
        "transaction",
    ),
    **dict.fromkeys(("SET", "RESET", "SHOW", "FLUSH"), "setting"),
    **dict.fromkeys(("LOAD", "USE", "ATTACH", "DETACH", "INSTALL", "HANDLER"), "other file"),
    "PRAGMA": "pragma",
}
_OUT: Final = frozenset({"OUTFILE", "DUMPFILE", "@"})


def refused_change(sql: str) -> str:
    """Why a statement on a learner's own copy is refused, as failed changes call it; or empty."""
    if _EXECUTED.search(sql):
        return "this"
    tokens = tokens_of(sql, "mysql")
    words = [token.word for token in tokens]
    first = next((word for word in words if word != "("), "")
    if first in DEFINING:
        defined = next((word for word in words[1:] if word not in _BEFORE_DEFINED), "")
        # TRUNCATE may leave TABLE out.
        if defined not in _DEFINED and first != "TRUNCATE":
            return "trigger" if defined in ("TRIGGER", "DEFINER") else "this"
    elif first not in _CHANGES:
        return _REFUSED_BY_WORD.get(first, "this")
    for at, token in enumerate(tokens):
        after = words[at + 1] if at + 1 < len(words) else ""
        if token.word == ":=" or (token.word, after) == ("@", "@"):
            return "setting"
        if (token.word == "INTO" and after in _OUT) or (token.word, after) in FOLDERS:
            return "other file"
        name = name_of(sql, token)
        is_place = after == "." or (at > 0 and words[at - 1] in _AFTER)
        if name and (name.lower().startswith(PREFIX) or (is_place and HIDDEN.fullmatch(name))):
            return "this"
    return "function" if refused_call(sql, "mysql", REFUSED_ON_COPIES) else ""
