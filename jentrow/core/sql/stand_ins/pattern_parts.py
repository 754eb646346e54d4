"""REGEXP_SUBSTR of Oracle SQL and Db2 SQL, on the stand-in.

Sources: the function references of Oracle Database 19c and Db2 11.5.
"""

from __future__ import annotations

import re
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import called


def parts_by_pattern(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """REGEXP_SUBSTR gives the n-th part of a text that fits a pattern; NULL where there are fewer."""
    for call in list(tree.find_all(exp.RegexpSubstr)):
        text, pattern = call.this, call.expression
        which, group = call.args.get("occurrence"), call.args.get("group")
        if call.args.get("position") is None:
            made = called("REGEXP_EXTRACT", text, pattern)
        elif _is_looked_for_from_the_start(call):
            options = [group or exp.Literal.number(0), call.args.get("parameters") or ""]
            parts = called("REGEXP_EXTRACT_ALL", text, pattern, *options)
            made = called("LIST_EXTRACT", parts, which or 1)
        else:
            notes.append(
                "REGEXP_SUBSTR is kept from a text's first letter on, of parts that are never empty."
            )
            continue
        call.replace(exp.Nullif(this=made, expression=exp.Literal.string("")))
    return tree


def _is_looked_for_from_the_start(call: exp.RegexpSubstr) -> bool:
    """Whether parts are counted from a text's beginning, and none of them can be empty.

    How many empty parts there are beside others, engines tell in different ways.
    """
    pattern, flags = call.expression, call.args.get("parameters")
    if call.args["position"] != exp.Literal.number(1) or not pattern.is_string:
        return False
    if flags is not None and not (flags.is_string and flags.name in ("", "i", "c")):
        return False
    try:
        fits = re.compile(_CLASS_OF_LETTERS.sub("a", pattern.name))
    except re.error:
        return False
    return fits.fullmatch("") is None


_CLASS_OF_LETTERS: Final = re.compile(r"\[:\w+:\]")
"""As in [[:alpha:]]."""
