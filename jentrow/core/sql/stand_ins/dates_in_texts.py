"""Texts that a dialect reads as dates, whatever is set, in forms that the stand-in does not know."""

from __future__ import annotations

import re
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import Step, cast_to
from jentrow.core.sql.stand_ins.timed_values import is_timed

_OTHER_DATES: Final = {
    "tsql": (re.compile(r"(?P<y>\d{4})(?P<m>\d\d)(?P<d>\d\d)"),),
    "db2": (
        re.compile(r"(?P<m>\d\d?)/(?P<d>\d\d?)/(?P<y>\d{4})"),
        re.compile(r"(?P<d>\d\d?)\.(?P<m>\d\d?)\.(?P<y>\d{4})"),
        re.compile(r"(?P<y>\d{4})-(?P<m>\d\d)-(?P<d>\d\d)[- ](?P<time>\d\d\.\d\d\.\d\d(?:\.\d+)?)"),
    ),
}
"""Dates in texts that the dialects read whatever is set: 20260131; 01/31/2026,
31.01.2026 and 2026-01-31-12.30.00."""


_LIKE_A_DATE: Final = re.compile(r"\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}(?:[ T-][\d:. ]*)?")
_DB2_DATES: Final = (
    *_OTHER_DATES["db2"],
    re.compile(r"\d{4}-\d\d?-\d\d?(?:[ T-]\d\d?[:.]\d\d[:.]\d\d(?:\.\d+)?)?"),
)

_TIMED: Final = ("DATE", "TIMESTAMP", "TIMESTAMPNTZ", "DATETIME", "DATETIME2")
"""Types, as the dialects and the stand-in call them."""


def dates_in_texts(dialect: str) -> Step:
    """A text beside a date is read as one."""

    def step(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
        for literal in tree.find_all(exp.Literal):
            holder = literal.parent
            if not literal.is_string or not _is_beside_a_date(holder, kinds):
                continue
            if dialect == "db2" and _is_no_date_of_db2(literal.name):
                notes.append("Db2 reads texts as dates like 2026-01-31, 01/31/2026, 31.01.2026.")
            for pattern in _OTHER_DATES[dialect]:
                if found := pattern.fullmatch(literal.name):
                    literal.set("this", _as_the_stand_in_writes(found))
        return tree

    return step


def _is_no_date_of_db2(text: str) -> bool:
    """Whether a text looks like a date or moment, and has none of the forms that Db2 reads."""
    return bool(_LIKE_A_DATE.fullmatch(text)) and not any(
        form.fullmatch(text) for form in _DB2_DATES
    )


def _as_the_stand_in_writes(found: re.Match[str]) -> str:
    time = found.groupdict().get("time")
    day = f"{found['y']}-{found['m']:0>2}-{found['d']:0>2}"
    return f"{day} {time.replace('.', ':', 2)}" if time else day


def _is_beside_a_date(holder: exp.Expr | None, kinds: ColumnKinds) -> bool:
    match holder:
        case exp.Cast():
            return bool(holder.to.is_type(*_TIMED))
        case exp.Between() | exp.In():
            return is_timed(holder.this, kinds)
        case exp.Binary():
            return is_timed(holder.this, kinds) or is_timed(holder.expression, kinds)
    return isinstance(
        holder, exp.Date | exp.DateAdd | exp.DateDiff | exp.TsOrDsToDate | exp.Timestamp
    )


_TAKEN_APART: Final = (
    exp.Year, exp.Month, exp.Day, exp.Quarter, exp.DayOfWeek, exp.DayOfWeekIso, exp.DayOfYear,
    exp.DayOfMonth, exp.Week, exp.LastDay, exp.Dayname, exp.Monthname, exp.NextDay, exp.Hour,
    exp.Minute, exp.Second,
)  # fmt: skip
_IN_TEXTS: Final = (
    (re.compile(r"\d\d?[:.]\d\d(?:[:.]\d\d)?"), "TIME"),
    (re.compile(r"[\d./-]{8,10}"), "DATE"),
    (re.compile(r"\d{4}-\d\d-\d\d[- ]\d\d[:.]\d\d.*"), "TIMESTAMP"),
)
"""How a text is read that a part is taken of, by what is written in it."""


def parts_of_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Db2 reads a text as a moment where a part of one is asked for."""
    for call in list(tree.find_all(*_TAKEN_APART)):
        text = call.this
        if isinstance(text, exp.Literal) and text.is_string:
            type = next((type for form, type in _IN_TEXTS if form.fullmatch(text.name)), None)
            if type == "TIME":
                text.set("this", text.name.replace(".", ":"))
            if type is not None:
                call.set("this", cast_to(text, type))
    return tree
