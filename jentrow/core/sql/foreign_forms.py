"""What a text holds that its dialect's own engine does not take, though the stand-in would.

The parser reads many dialects at once, and DuckDB takes much that others refuse: an answer would be
called right that the engine of the course rejects. Here it is told which words, forms and functions
are not the dialect's own. What newer versions of an engine have come to take is told too: whether the
course's has it, its instructor knows.

Sources: the SELECT and function references of SQL Server 2022
(https://learn.microsoft.com/sql/t-sql/), Oracle Database 19c
(https://docs.oracle.com/en/database/oracle/oracle-database/19/sqlrf/) and Db2 11.5
(https://www.ibm.com/docs/en/db2/11.5).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Final

from sqlglot import exp

from jentrow.core.sql.foreign_functions import FUNCTIONS, NO_FUNCTIONS
from jentrow.core.sql.tokens import Token, tokens_of

_LABELS: Final = {"tsql": "T-SQL", "oracle": "Oracle SQL", "db2": "Db2 SQL"}

_OPERATORS: Final = frozenset(
    {"DIV", "MOD", "XOR", "REGEXP", "RLIKE", "GLOB", "SIMILAR", "ISNULL", "NOTNULL", "MATCH"}
)
"""Words that stand between or behind operands in other dialects; as functions some are known here."""
_SIGNS: Final = {
    "tsql": frozenset({"==", "<=>", "~", "&&", "->", "->>", "||"}),
    "oracle": frozenset({"==", "<=>", "~", "&&", "->", "->>", "%", "&", "|"}),
    "db2": frozenset({"==", "<=>", "~", "&&", "->", "->>"}),
}
_CLAUSES: Final = frozenset({"FROM", "WHERE", "GROUP", "ORDER", "HAVING"})
_CONDITIONS: Final = (
    exp.EQ, exp.NEQ, exp.GT, exp.GTE, exp.LT, exp.LTE, exp.In, exp.Between, exp.Like, exp.Is,
    exp.Exists, exp.Not, exp.And, exp.Or,
)  # fmt: skip
_STAND_IN_ONLY: Final = (
    exp.Struct,
    exp.Array,
    exp.Columns,
    exp.TableSample,
    exp.Bracket,
    exp.Lambda,
)


def foreign_forms(tree: exp.Query, sql: str, dialect: str) -> list[str]:
    """What is not the dialect's own, each as a sentence; nothing where all of it is."""
    tokens = tokens_of(sql, dialect)
    found = [
        *_foreign_signs(tokens, dialect),
        *_foreign_functions(tree, tokens, dialect),
        *(said for look in _LOOKS for said in look(tree, dialect)),
        *(_aliases_after_as(tree, tokens) if dialect == "oracle" else ()),
    ]
    return [f"{_LABELS[dialect]} {said}" for said in dict.fromkeys(found)]


def _foreign_signs(tokens: Sequence[Token], dialect: str) -> Iterator[str]:
    for at, token in enumerate(tokens):
        after = tokens[at + 1] if at + 1 < len(tokens) else None
        before = tokens[at - 1] if at else None
        if token.word in _OPERATORS and _is_operator(before, after):
            yield f"has no operator {token.word}."
        pair = token.word + after.word if after is not None and after.start == token.end else ""
        if token.word in _SIGNS[dialect] or pair in _SIGNS[dialect]:
            yield f"has no operator {pair if pair in _SIGNS[dialect] else token.word}."
        if token.word == "," and after is not None and after.word in _CLAUSES:
            yield "takes no comma before a clause."
        yield from _foreign_words(tokens, at, dialect)
    if tokens and tokens[0].word in ("FROM", "TABLE"):
        yield "begins a query with SELECT or WITH."


def _is_operator(before: Token | None, after: Token | None) -> bool:
    """Whether a word stands behind an operand: it is no name then, and calls nothing."""
    if before is None or before.word in ("SELECT", ",", ".", "AS"):
        return False
    if after is not None and after.word in (",", ".", "("):
        return False
    return before.kind != "mark" or before.word == ")"


def _foreign_words(tokens: Sequence[Token], at: int, dialect: str) -> Iterator[str]:
    word = tokens[at].word
    after = [token.word for token in tokens[at + 1 : at + 3]]
    if (
        word == "OFFSET"
        and dialect != "db2"
        and tokens[at + 1 :]
        and after[1:] not in (["ROW"], ["ROWS"])
    ):
        yield "counts OFFSET in ROWS: OFFSET n ROWS."
    if word == "CONCAT" and after[:1] == ["("] and dialect != "tsql":
        depth = tokens[at + 1].depth + 1
        commas = 0
        for token in tokens[at + 2 :]:
            if token.depth < depth:
                break
            commas += token.depth == depth and token.word == ","
        if commas != 1:
            yield "joins two texts with CONCAT, and more with ||."
    if dialect != "tsql":
        return
    if word == "NULLS" and after[:1] in (["FIRST"], ["LAST"]):
        yield "has no NULLS FIRST and no NULLS LAST: NULL sorts first."
    if word == "INTERVAL" and at + 1 < len(tokens) and tokens[at + 1].kind in ("text", "number"):
        yield "has no INTERVAL: DATEADD counts days and months on."
    if word in ("CURRENT_DATE", "CURRENT_TIME"):
        yield f"has no {word}: CAST(GETDATE() AS DATE) is the day."
    if word == "SUBSTRING" and after[:1] == ["("]:
        inside = [one for one in tokens[at + 2 :] if one.depth == tokens[at + 1].depth + 1]
        if any(one.word == "FROM" for one in inside[:4]):
            yield "writes SUBSTRING(text, start, length)."


def _foreign_functions(tree: exp.Query, tokens: Sequence[Token], dialect: str) -> Iterator[str]:
    """Functions are told by their names as they are written: the parser calls many alike."""
    named = {
        one.alias.upper() for one in tree.find_all(exp.CTE, exp.Subquery, exp.Values) if one.alias
    }
    for at, token in enumerate(tokens[:-1]):
        if token.kind != "word" or tokens[at + 1].word != "(" or token.word in NO_FUNCTIONS:
            continue
        before = tokens[at - 1].word if at else ""
        if token.word in named or before in ("AS", "WITH"):
            continue
        if before == ".":
            yield "calls no function of a value by a dot."
        elif token.word not in FUNCTIONS[dialect]:
            yield f"has no function {token.word} that is known here."


def _aliases_used_early(tree: exp.Query, dialect: str) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        aliases = {
            item.alias.lower()
            for item in select.selects
            if isinstance(item, exp.Alias) and not _mentions(item.this, item.alias)
        }
        if not aliases:
            continue
        parts = [
            *(select.args.get(name) for name in ("where", "group", "having")),
            *(item.unalias() for item in select.selects),
        ]
        for part in parts:
            for column in part.find_all(exp.Column) if part is not None else ():
                if column.table or column.name.lower() not in aliases:
                    continue
                if column.find_ancestor(exp.Select) is select:
                    yield f"knows {column.name}, a name that SELECT gives, in ORDER BY alone."


def _mentions(node: exp.Expr, name: str) -> bool:
    return any(column.name.lower() == name.lower() for column in node.find_all(exp.Column))


def _truth_values(tree: exp.Query, dialect: str) -> Iterator[str]:
    if dialect == "db2":
        return
    if tree.find(exp.Boolean):
        yield "has no TRUE and FALSE."
    for select in tree.find_all(exp.Select):
        if any(isinstance(item.unalias().unnest(), _CONDITIONS) for item in select.selects):
            yield "gives no condition as a value: CASE WHEN … THEN … does."
    for node in tree.find_all(exp.Where, exp.Having, exp.And, exp.Or, exp.Not):
        sides = (node.this, node.expression) if isinstance(node, exp.Connector) else (node.this,)
        if any(isinstance(side.unnest(), exp.Column | exp.Literal) for side in sides if side):
            yield "wants a comparison for a condition."


def _joins(tree: exp.Query, dialect: str) -> Iterator[str]:
    if dialect != "tsql":
        return
    for join in tree.find_all(exp.Join):
        if join.method == "NATURAL":
            yield "has no NATURAL JOIN."
        if join.args.get("using"):
            yield "has no USING: a join says ON."
    if any(
        not isinstance(one.parent, exp.Lateral) and _is_lateral(one)
        for one in tree.find_all(exp.Lateral)
    ):
        yield "has no LATERAL: CROSS APPLY does that."


def _is_lateral(node: exp.Lateral) -> bool:
    return node.args.get("cross_apply") is None


def _set_operations(tree: exp.Query, dialect: str) -> Iterator[str]:
    for one in tree.find_all(exp.Intersect, exp.Except):
        if dialect == "tsql" and not one.args.get("distinct", True):
            yield "has no ALL behind INTERSECT and EXCEPT."


def _orders(tree: exp.Query, dialect: str) -> Iterator[str]:
    with_clause = tree.args.get("with_")
    if with_clause is not None and with_clause.args.get("recursive"):
        yield "has no word RECURSIVE: an expression that calls itself is one."
    if dialect == "tsql":
        for fetch in tree.find_all(exp.Fetch):
            if fetch.parent is not None and not fetch.parent.args.get("offset"):
                yield "has FETCH only behind OFFSET n ROWS: TOP n takes the first ones."


def _groups(tree: exp.Query, dialect: str) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        group = select.args.get("group")
        if group is None:
            continue
        if group.args.get("all") is not None:
            yield "has no GROUP BY ALL."
        if any(isinstance(key, exp.Literal) for key in group.expressions):
            yield "groups by no position: GROUP BY names what it groups by."
    if tree.find(exp.Filter):
        yield "has no FILTER: CASE inside the aggregate does that."
    for select in tree.find_all(exp.Select):
        distinct = select.args.get("distinct")
        if distinct is not None and distinct.args.get("on") is not None:
            yield "has no DISTINCT ON."


def _sources(tree: exp.Query, dialect: str) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        if dialect in ("oracle", "db2") and select.args.get("from_") is None:
            yield "wants FROM in every query: DUAL, or SYSIBM.SYSDUMMY1, is a table of one row."
    for subquery in tree.find_all(exp.Subquery):
        in_from = isinstance(subquery.parent, exp.From | exp.Join)
        if dialect == "tsql" and in_from and not subquery.alias:
            yield "wants a name for a query in FROM."
    for tuple_ in tree.find_all(exp.Tuple):
        if dialect == "tsql" and isinstance(tuple_.parent, exp.In | exp.EQ):
            yield "compares no rows of several values."


def _stand_in_alone(tree: exp.Query, dialect: str) -> Iterator[str]:
    if tree.find(*_STAND_IN_ONLY):
        yield "has no lists, structures, samples and functions of columns as DuckDB has them."
    for star in tree.find_all(exp.Star):
        if star.args.get("except_") or star.args.get("replace"):
            yield "has no * with columns left out."


_LOOKS: Final[tuple[Callable[[exp.Query, str], Iterator[str]], ...]] = (
    _aliases_used_early,
    _truth_values,
    _joins,
    _set_operations,
    _orders,
    _groups,
    _sources,
    _stand_in_alone,
)


def _aliases_after_as(tree: exp.Query, tokens: Sequence[Token]) -> Iterator[str]:
    before = {token.start: tokens[at - 1].word for at, token in enumerate(tokens) if at}
    for alias in tree.find_all(exp.TableAlias):
        name = alias.this
        if isinstance(alias.parent, exp.CTE) or not isinstance(name, exp.Identifier):
            continue
        if before.get(name.meta.get("start", -1)) == "AS":
            yield f"has no AS before {name.name}, another name of a table."
