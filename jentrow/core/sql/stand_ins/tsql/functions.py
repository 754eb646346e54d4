"""What functions of T-SQL mean, on the stand-in; sources as in :mod:`jentrow.core.sql.stand_ins.refusals.forms`."""

from __future__ import annotations

import re
from functools import partial
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import called, put_around, repeatable
from jentrow.core.sql.stand_ins.text_lengths import UNBOUNDED, named_columns_within, text_lengths
from jentrow.core.sql.stand_ins.timed_values import (
    count_days_on,
    is_date,
    is_float,
    is_moment,
    is_number,
)
from jentrow.core.sql.stand_ins.whole_numbers import is_whole


def lengths_without_blanks(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """LEN does not count blanks at the end."""
    for length in list(tree.find_all(exp.Length)):
        length.set("this", called("RTRIM", length.this, " "))
    return tree


_CUT_SOMEWHERE: Final = (
    "ISNULL cuts a text to the length of its first value, which is not known here."
)


def _cut(length: int, text: exp.Expr) -> exp.Expr:
    return called("LEFT", text, length)


def replacements_cut(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """ISNULL is as long as its first value: what stands in for NULL is cut off there."""
    named = named_columns_within(tree)
    for call in [one for one in tree.find_all(exp.Coalesce) if one.args.get("is_null")]:
        lengths = text_lengths(call.this, kinds, named)
        fits = all(
            isinstance(one, exp.Literal) and len(one.name) <= min(lengths - {0}, default=0)
            for one in call.expressions
        )
        if lengths <= UNBOUNDED or fits:
            continue
        if len(lengths) > 1:
            notes.append(_CUT_SOMEWHERE)
            continue
        put_around(call, partial(_cut, next(iter(lengths))))
    return tree


def sizes_by_default(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A text without a size has 30 letters in a cast, and a decimal 18 digits and no places."""
    for cast in tree.find_all(exp.Cast, exp.Convert):
        to = cast.to if isinstance(cast, exp.Cast) else cast.this
        value = cast.this if isinstance(cast, exp.Cast) else cast.expression
        if not isinstance(to, exp.DataType):
            continue
        if to.is_type(*exp.DataType.TEXT_TYPES) and cast.args.get("style") is None:
            if is_moment(value, kinds):
                notes.append("A moment becomes a text of another form in T-SQL.")
            elif is_float(value, kinds):
                notes.append("A FLOAT becomes a text of six digits in T-SQL.")
        if to.expressions:
            continue
        if to.is_type("VARCHAR", "NVARCHAR"):
            to.append("expressions", exp.DataTypeParam(this=exp.Literal.number(30)))
        elif to.is_type("DECIMAL"):
            for size in (18, 0):
                to.append("expressions", exp.DataTypeParam(this=exp.Literal.number(size)))
    return tree


def days_on_dates(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A number beside a moment of GETDATE counts days; a DATE takes neither + nor -."""
    for sum in list(tree.find_all(exp.Add, exp.Sub))[::-1]:
        now = sum.this.unnest()
        if isinstance(now, exp.CurrentTimestamp) and is_number(sum.expression, kinds):
            count_days_on(sum)
        elif is_date(sum.this, kinds) or is_date(sum.expression, kinds):
            notes.append("T-SQL takes no + and - on a DATE: DATEADD and DATEDIFF do that.")
        elif is_moment(sum.this, kinds) and is_moment(sum.expression, kinds):
            notes.append(
                "T-SQL gives a moment for the difference of two, if anything: DATEDIFF counts."
            )
    return tree


def without_hints(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """OPTION (…) says how a query runs, and not what it gives."""
    tree.set("options", None)
    return tree


def choices(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """CHOOSE is a CASE."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "CHOOSE" and len(call.expressions) > 1:
            index, *values = call.expressions
            made = exp.Case(this=index)
            for number, value in enumerate(values, 1):
                made = made.when(exp.Literal.number(number), value)
            call.replace(made)
    return tree


def texts_put_in(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """STUFF begins within its text, or gives NULL; NULL puts nothing in."""
    for call in list(tree.find_all(exp.Stuff)):
        values = (call.args[name] for name in ("this", "start", "length", "expression"))
        call.replace(called("JENTROW_STUFF", *values))
    return tree


def caseless_searches(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """CHARINDEX looks for a text in any letter case; so does REPLACE, which the stand-in cannot."""
    for search in tree.find_all(exp.StrPosition):
        for side in ("this", "substr"):
            search.set(side, exp.Lower(this=search.args[side]))
    for call in tree.find_all(exp.Replace):
        part = call.expression
        if not isinstance(part, exp.Literal) or part.name.lower() != part.name.upper():
            notes.append("REPLACE finds letters in any case, and on the stand-in it does not.")
    return tree


def likes(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """LIKE does not tell upper from lower case; its sets of letters are those of a regular expression."""
    for like in list(tree.find_all(exp.Like)):
        collated = next((one for one in like.find_all(exp.Collate) if minds_case(one)), None)
        pattern = like.expression
        if isinstance(pattern, exp.Literal) and "[" in pattern.name:
            if isinstance(like.parent, exp.Escape):
                notes.append(
                    "LIKE with a set of letters in brackets and ESCAPE has no counterpart."
                )
            value = collated.this if collated is not None else like.this
            options = "s" if collated is not None else "is"
            made = called("REGEXP_FULL_MATCH", value, expression_of(pattern.name), options)
            like.replace(exp.Not(this=made) if like.args.get("negate") else made)
        elif collated is None:
            negate = like.args.get("negate")
            like.replace(exp.ILike(this=like.this, expression=pattern, negate=negate))
    return tree


_PIECE: Final = re.compile(r"\[(\^?)([^\]]+)\]|.", re.DOTALL)
_WILDCARDS: Final = {"%": ".*", "_": "."}


def expression_of(pattern: str) -> str:
    """A regular expression that matches what a pattern of LIKE with sets of letters does."""
    made = ""
    for piece in _PIECE.finditer(pattern):
        if piece[2]:
            letters = re.sub(r"([\\^\[])", r"\\\1", piece[2])
            made += f"[{piece[1]}{letters}]"
        else:
            made += _WILDCARDS.get(piece[0]) or re.escape(piece[0])
    return made


def powers(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A power has the type of what is raised: a whole number's is whole, a decimal has as many places."""
    for power in tree.find_all(exp.Pow):
        whole = is_whole(power.this, kinds)
        if whole is None and not (
            isinstance(power.expression, exp.Literal) and power.expression.is_int
        ):
            notes.append(UNKNOWN_POWER)
        elif whole is False and not is_float(power.this, kinds):
            notes.append("POWER of a decimal has as many places as it, and all on the stand-in.")
    return tree


UNKNOWN_POWER: Final = "POWER of a whole number is one, and has its fraction on the stand-in."


def beginnings_before_the_text(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """SUBSTRING may begin before its text: the places there count for its length."""
    found = [
        one
        for one in tree.find_all(exp.Substring)
        if one.args.get("length") is not None and not _is_positive(one.args["start"])
    ]
    for call in repeatable(found, notes):
        text, start, length = (call.args[name] for name in ("this", "start", "length"))
        end = exp.Add(this=exp.paren(start.copy()), expression=exp.paren(length.copy()))
        one = exp.Literal.number(1)
        within = exp.Substring(
            this=text.copy(),
            start=one.copy(),
            length=exp.Sub(this=end.copy(), expression=one.copy()),
        )
        nothing = exp.Substring(this=text.copy(), start=one.copy(), length=exp.Literal.number(0))
        cases = (
            (exp.GTE(this=exp.paren(start.copy()), expression=one.copy()), call.copy()),
            (exp.GT(this=end.copy(), expression=one.copy()), within),
            (exp.LTE(this=end.copy(), expression=one.copy()), nothing),
        )
        call.replace(exp.Case(ifs=[exp.If(this=when, true=then) for when, then in cases]))
    return tree


def searches_for_nothing(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """CHARINDEX finds empty text nowhere."""
    for search in list(tree.find_all(exp.StrPosition)):
        part = search.args["substr"]
        if isinstance(part, exp.Literal) and part.is_string and not part.name:
            search.replace(exp.Literal.number(0))
    return tree


def _is_positive(number: exp.Expr) -> bool:
    return isinstance(number, exp.Literal) and number.is_int and int(number.name) > 0


_MINDS_CASE: Final = "POSIX"
_SORTING: Final = (exp.Ordered, exp.LT, exp.LTE, exp.GT, exp.GTE, exp.Between, exp.Max, exp.Min)


def collations(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """COLLATE: whether letters of two cases are one, and letters with accents and without.

    What a collation sorts by is another thing: there capitals stand beside their small letters.
    """
    for collate in list(tree.find_all(exp.Collate)):
        parts = collate.expression.name.upper().split("_")
        is_binary = parts[-1] in ("BIN", "BIN2")
        told = [part for part in parts if part in ("CI", "CS", "AI", "AS")]
        is_sorted = collate.find_ancestor(*_SORTING) is not None
        if not (is_binary or told) or (is_sorted and not is_binary) or told == ["CS", "AI"]:
            notes.append(
                "COLLATE is kept where texts are equal or not, and not where they are sorted."
            )
            continue
        names = ["NOCASE"] if "CI" in told else [_MINDS_CASE]
        names += ["NOACCENT"] if "AI" in told else []
        collate.set("expression", exp.Var(this=".".join(names)))
        beside = collate.parent
        if isinstance(beside, exp.EQ | exp.NEQ):  # of both sides, where it stands at one
            other = beside.left if beside.right is collate else beside.right
            if not isinstance(other, exp.Collate):
                other.replace(exp.Collate(this=other.copy(), expression=collate.expression.copy()))
    return tree


def minds_case(collate: exp.Collate) -> bool:
    """Whether a collation, as the stand-in has it, tells capitals from small letters."""
    return str(collate.expression.name) == _MINDS_CASE
