"""Functions and clauses of T-SQL that the stand-in lacks, written with what it has.

Source: the function reference of SQL Server 2022.
"""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.formulas import formula
from jentrow.core.sql.stand_ins.functions import (
    UNKNOWN_TEXT,
    cast_to,
    failing,
    is_text,
    is_truth,
    repeatable,
)  # fmt: skip
from jentrow.core.sql.stand_ins.tsql.functions import expression_of
from jentrow.core.sql.tokens import tokens_of

_BRACKETS: Final = {"[": "[]", "]": "[]", '"': '""', "'": "''"}


def quoted_names(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """QUOTENAME puts a name in brackets, and writes a closing one within it twice."""
    for call in list(tree.find_all(exp.Anonymous))[::-1]:
        if call.name.upper() == "QUOTENAME" and 1 <= len(call.expressions) <= 2:
            name, *said = call.expressions
            signs = _BRACKETS.get(said[0].name) if said else "[]"
            if signs is None:
                notes.append("QUOTENAME with this sign has no counterpart.")
                continue
            begin, end, twice = (exp.Literal.string(one) for one in (*signs, signs[1] * 2))
            made = formula("b || REPLACE(n, e, t) || e", b=begin, n=name, e=end, t=twice)
            call.replace(exp.paren(made))
    return tree


_NUMERIC: Final = (
    "CASE WHEN t IS NULL THEN 0 "
    "WHEN REGEXP_FULL_MATCH(t, '[ ]*[+-]?([0-9]+[.]?[0-9]*|[.][0-9]+)([eEdD][+-]?[0-9]+)?[ ]*') THEN 1 "
    "WHEN t = '' OR REGEXP_MATCHES(t, '[^-+.,$0-9eEdD \\t]') THEN 0 ELSE f END"
)
"""Whether a text is some number. Of one that is of signs of money, points and commas alone, nobody
can tell here: ``ISNUMERIC('$')`` is 1."""


def numeric_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """ISNUMERIC."""
    found = (one for one in tree.find_all(exp.Anonymous) if one.name.upper() == "ISNUMERIC")
    for call in repeatable(found, notes):
        if len(call.expressions) == 1:
            text = cast_to(call.expressions[0], "VARCHAR")
            call.replace(formula(_NUMERIC, t=text, f=failing(UNKNOWN_TEXT)))
    return tree


def places_of_patterns(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """PATINDEX is the place where a pattern of LIKE first fits, and 0 where it does nowhere."""
    for call in repeatable(
        (one for one in tree.find_all(exp.Anonymous) if one.name.upper() == "PATINDEX"), notes
    ):
        if len(call.expressions) != 2:
            continue
        pattern, searched = call.expressions
        if not isinstance(pattern, exp.Literal) or searched.find(exp.Collate):
            notes.append("PATINDEX is kept where its pattern is written as a text.")
            continue
        said = pattern.name
        inner = said.removeprefix("%").removesuffix("%") if said != "%" else ""
        before = "(.*?)" if said.startswith("%") else "()"
        after = "" if said.endswith("%") else "$"
        whole = exp.Literal.string(f"^{before}(?:{expression_of(inner)}){after}")
        call.replace(
            formula(
                "CASE WHEN REGEXP_MATCHES(s, w, 'is') "
                "THEN LENGTH(REGEXP_EXTRACT(s, w, 1, 'is')) + 1 WHEN s IS NOT NULL THEN 0 END",
                s=searched,
                w=whole,
            )
        )
    return tree


def sums_of_groups(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """GROUP BY … WITH ROLLUP is ROLLUP (…); so with CUBE."""
    for group in tree.find_all(exp.Group):
        for kind in ("rollup", "cube"):
            clauses = group.args.get(kind) or []
            if len(clauses) == 1 and not clauses[0].expressions and group.expressions:
                clauses[0].set("expressions", group.expressions)
                group.set("expressions", [])
    return tree


def squares_as_floats(tree: exp.Expr, sql: str, notes: list[str]) -> None:
    """SQUARE gives a float, of whole numbers too; the parser takes it for a power."""
    words = {token.word for token in tokens_of(sql, "tsql")}
    if "SQUARE" in words and "POWER" in words:
        notes.append("Which of SQUARE and POWER stands where is not known here.")
    elif "SQUARE" in words:
        for power in tree.find_all(exp.Pow):
            power.set("this", cast_to(power.this, "DOUBLE"))


def bits(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """BIT is 1 for every number but 0; no sum and no largest one is taken of it."""
    for call in tree.find_all(exp.Sum, exp.Avg, exp.Min, exp.Max):
        of = call.this.this if isinstance(call.this, exp.Distinct) else call.this
        if isinstance(of, exp.Expr) and is_truth(of, kinds):
            notes.append(
                f"T-SQL takes no {call.key.upper()} of a BIT: CAST(… AS INT) makes it one."
            )
    for cast in list(tree.find_all(exp.Cast)):
        if cast.to.is_type(exp.DataType.Type.BIT) and not is_text(cast.this, kinds):
            cast.set("to", exp.DataType.build("BOOLEAN", dialect="duckdb"))
    return tree


_LETTERS_ALIKE: Final = "{} finds letters in any case, and on the stand-in it does not."


def letters_taken(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TRANSLATE, TRIM, GREATEST and LEAST do not tell capitals from small letters."""
    for call in tree.find_all(exp.Translate, exp.Trim):
        taken = call.args.get("from_" if isinstance(call, exp.Translate) else "expression")
        is_plain = isinstance(taken, exp.Literal) and taken.name.lower() == taken.name.upper()
        if taken is not None and not is_plain:
            notes.append(_LETTERS_ALIKE.format(call.key.upper()))
    notes += [
        f"{most.key.upper()} sorts texts without their letter case in T-SQL."
        for most in tree.find_all(exp.Greatest, exp.Least)
        if any(is_text(one, kinds) for one in (most.this, *most.expressions))
    ]
    return tree
