"""TO_CHAR of Oracle by formats that have words, or are of numbers.

Names of months and days are English. Source: *Format Models* in the SQL language reference 19c.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.formulas import formula
from jentrow.core.sql.stand_ins.functions import as_strftime, called, cast_to, repeatable
from jentrow.core.sql.stand_ins.number_formats import oracle_number_format

_NUMBERS: Final = {
    "YYYY": "%Y", "RRRR": "%Y", "YY": "%y", "RR": "%y", "MM": "%m", "DD": "%d", "DDD": "%j",
    "HH24": "%H", "HH12": "%I", "HH": "%I", "MI": "%M", "SS": "%S", "IW": "%V", "IYYY": "%G",
}  # fmt: skip
_WORDS: Final = {"MONTH": ("%B", 9), "MON": ("%b", 0), "DAY": ("%A", 9), "DY": ("%a", 0)}
"""Words by what the stand-in calls them, and the letters that they are filled up to."""
_WORKED_OUT: Final = {
    "Q": "CAST(EXTRACT(QUARTER FROM x) AS VARCHAR)",
    "W": "CAST((EXTRACT(DAY FROM x) - 1) // 7 + 1 AS VARCHAR)",
    "WW": "LPAD(CAST((EXTRACT(DOY FROM x) - 1) // 7 + 1 AS VARCHAR), n, '0')",
}
_PIECE: Final = re.compile(
    r"""(?P<mode>FM)|(?P<half>[AP]\.M\.|[AP]M)|(?P<word>MONTH|MON|DAY|DY)
    |(?P<number>IYYY|RRRR|YYYY|RR|YY|MM|DDD|DD|HH24|HH12|HH|MI|SS|IW)|(?P<worked>WW|W|Q)
    |(?P<sign>[-/.,;: ]|"[^"]*")""",
    re.IGNORECASE | re.VERBOSE,
)


def texts_by_format(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TO_CHAR of numbers by a format, and of dates by one with words."""
    found = (one for one in tree.find_all(exp.ToChar) if _is_said(one))
    for call in repeatable(found, notes):
        said = call.args["format"].name
        numbers = oracle_number_format(said)
        if numbers is not None:
            call.replace(numbers.text_of(call.this))
        elif as_strftime(said) is None and (pieces := _pieces(said, call.this)):
            whole = exp.Anonymous(this="CONCAT", expressions=pieces)
            is_there = exp.Not(this=exp.Is(this=call.this.copy(), expression=exp.Null()))
            call.replace(exp.Case(ifs=[exp.If(this=is_there, true=whole)]))
    return tree


def _is_said(call: exp.ToChar) -> bool:
    return isinstance(call.args.get("format"), exp.Literal)


def _pieces(said: str, date: exp.Expr) -> list[exp.Expr]:
    """The parts of a date's text; none where a piece of its format has no counterpart."""
    pieces: list[exp.Expr] = []
    is_filled, at = True, 0
    while at < len(said):
        found = _PIECE.match(said, at)
        if found is None:
            return []
        if found["mode"]:
            is_filled = not is_filled
        else:
            pieces += _piece(found, cast_to(date.copy(), "TIMESTAMP"), is_filled=is_filled)
        at = found.end()
    return pieces


def _piece(found: re.Match[str], moment: exp.Expr, *, is_filled: bool) -> Iterator[exp.Expr]:
    said = found[0].upper()
    if found["sign"]:
        yield exp.Literal.string(found[0].strip('"'))
    elif found["number"]:
        code = _NUMBERS[said]
        shortened = code if is_filled or code in ("%Y", "%G", "%V") else f"%-{code[1]}"
        yield called("STRFTIME", moment, shortened)
    elif found["worked"]:
        digits = exp.Literal.number(2 if is_filled else 1)
        yield formula(_WORKED_OUT[said], x=moment, n=digits)
    elif found["half"]:
        half = called("STRFTIME", moment, "%p")
        if "." in said:
            half = formula("REPLACE(h, 'M', '.M.')", h=half)
        yield half if found[0][0].isupper() else exp.Lower(this=half)
    else:
        code, width = _WORDS[said]
        word = _in_case(called("STRFTIME", moment, code), found[0])
        yield called("RPAD", word, width, " ") if width and is_filled else word


def _in_case(word: exp.Expr, said: str) -> exp.Expr:
    """A word in the letters of the format: MONTH, Month, month."""
    if said[0].islower():
        return exp.Lower(this=word)
    return word if said[1].islower() else exp.Upper(this=word)
