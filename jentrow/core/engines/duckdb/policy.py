"""What queries on DuckDB may not call: what reads files and settings, sleeps, or runs other text."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import Final

from jentrow.core.engines.answers import Answer, failed
from jentrow.core.engines.statements import refused_call, refused_statement
from jentrow.core.sql.tokens import tokens_of

REFUSED: Final = re.compile(
    r"""
    read_\w+ | write_\w+ | parquet_\w+ | sniff_csv | glob | query | query_table | json_execute_\w+
    | json_serialize_sql | json_deserialize_sql | current_setting | getenv | getvariable | which_secret
    | checkpoint | force_checkpoint | nextval | currval | enable_\w+ | disable_\w+ | add_parquet_key
    | duckdb_(?!tables|columns|constraints|views|functions|types|schemas|indexes|keywords)\w+
    | pragma_(?!table_info|show|version)\w+ | from_substrait\w* | get_substrait\w* | sql_auto_complete
    | seq_scan | index_scan | (python_)?arrow_scan\w* | pandas_scan | python_map_function | test_\w+
    | sleep\w* | pg_sleep\w* | repeat_row | summary | set_config | in_search_path | load_aws\w*
    | current_(query|connection|transaction)\w* | set(seed|val)
    | \w*external_resource\w* | \w+_grammar_extension | truncate_\w+ | verify_\w+ | get_block_size
    """,
    re.VERBOSE | re.IGNORECASE,
)
"""Names of functions that are refused."""

_SHOWING: Final = frozenset({"SHOW", "DESCRIBE", "SUMMARIZE", "EXPLAIN", "PIVOT"})


def refusal(sql: str) -> Answer | None:
    """Why a text is refused, as far as its words tell: what stands first in it."""
    if problem := refused_statement(sql, "duckdb"):
        return problem
    found = filter(None, (_refused_showing(sql), refused_function(sql)))
    return min(found, key=_index, default=None)


def refused_function(sql: str) -> Answer | None:
    """The function of a text, of whatever kind, that nobody may call."""
    return refused_call(sql, "duckdb", REFUSED)


def _refused_showing(sql: str) -> Answer | None:
    for token, after in pairwise(tokens_of(sql, "duckdb")):
        if token.word == "(" and after.word in _SHOWING:
            return failed("refused", "policy.statement", "", after.start, after.word)
    return None


def _index(refused: Answer) -> int:
    *_, index, _ = refused
    return int(index)
