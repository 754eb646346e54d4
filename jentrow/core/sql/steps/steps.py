"""A query taken apart into its logical steps, each with a query that gives the rows at it.

FROM and joins → WHERE → GROUP BY → HAVING → SELECT → DISTINCT → ORDER BY → LIMIT; common table
expressions, subqueries and the operands of set operations have traces of their own. The order is
the logical one of the SQL standard (ISO/IEC 9075-2, 7.4 to 7.17), whatever an engine really does.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, Literal, TypeAlias

from sqlglot import exp
from sqlglot.tokenizer_core import Token, TokenType

from jentrow.core.sql.aggregates import aggregates_in, has_aggregate
from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.parsing import parsed, parser_tokens, printed_sql
from jentrow.core.sql.scopes import (
    TableColumns,
    cte_named,
    is_recursive,
    outer_references,
    sources_of,
    subqueries_in,
)
from jentrow.core.sql.steps.details import (
    Partners,
    Told,
    branch_taken,
    cases_of,
    named_parts,
    partner_counts,
    parts_of,
)
from jentrow.core.sql.steps.queries import (
    BESIDE,
    group_key,
    only_clauses,
    operands_in,
    ordered_by,
    readings_of,
    reads_itself,
    truth_of,
    with_aliases_replaced,
    with_rounds,
    without_order,
)

StepKind: TypeAlias = Literal[
    "from", "join", "where", "group", "having", "select", "distinct", "order", "limit", "operand",
    "rounds",
]  # fmt: skip
Beside: TypeAlias = Literal["", "truth", "group", "round"]
"""What the last column of a step's rows tells beside the row: whether the condition is true (1),
false (0) or unknown (NULL); the number of the row's group; the round of a recursion."""

_T = TokenType
_FROM: Final = (_T.FROM,)
_JOINING: Final = frozenset(
    {_T.JOIN, _T.LEFT, _T.RIGHT, _T.FULL, _T.INNER, _T.OUTER, _T.CROSS, _T.NATURAL}
)
_ENDS: Final = _JOINING | frozenset(
    {
        _T.FROM, _T.WHERE, _T.GROUP_BY, _T.HAVING, _T.ORDER_BY, _T.LIMIT, _T.FETCH, _T.WINDOW,
        _T.UNION, _T.EXCEPT, _T.INTERSECT, _T.SEMICOLON, _T.SELECT,
    }
)  # fmt: skip

Role: TypeAlias = Literal["query", "cte", "derived", "subquery", "operand"]


@dataclass(frozen=True, slots=True)
class Step:
    """One step. ``queries`` give its rows: the first one that the engine takes counts.

    ``least`` is how many groups there are even of no rows: one where nothing is grouped by.
    ``tellings`` are the same queries with a further column for each of ``told``, before the one that
    stands beside. ``partners`` count the rows of a join that have none.
    """

    kind: StepKind
    clause: str
    queries: tuple[str, ...]
    beside: Beside = ""
    least: int = 0
    told: tuple[Told, ...] = ()
    tellings: tuple[str, ...] = ()
    partners: tuple[tuple[Partners, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Trace:
    """A query's steps, and the traces of the queries inside it.

    ``note`` says why there are no steps, or what is to be known of them. ``name`` is the name of a
    common table expression or derived table, or the keyword before an operand.
    """

    role: Role
    name: str
    sql: str
    steps: tuple[Step, ...]
    nested: tuple[Trace, ...] = ()
    note: str = ""


UNREAD: Final = "This query cannot be taken apart: only its own rows can be shown."


TOO_LARGE: Final = "This query has too many parts to be taken apart."
MOST_NODES: Final = 2_000
MOST_PARTS: Final = 50
"""Sources, queries and operands of a query that is taken apart. Each is written anew for each step
that follows it: the work grows with the square of them, and nobody reads so many steps."""


def take_apart(sql: str, dialect: str, columns: TableColumns) -> Trace:
    """Takes a query apart. Never fails: where it cannot be read, the trace has a note instead."""
    tree = parsed(sql, dialect)
    if tree is None:
        return Trace("query", "", sql, (), (), UNREAD)
    if _is_too_large(tree):
        return Trace("query", "", sql, (), (), TOO_LARGE)
    try:
        return _Apart(sql, dialect, columns).trace(tree, "query", "", [])
    except PARSER_FAILURES:
        return Trace("query", "", sql, (), (), UNREAD)


def _is_too_large(tree: exp.Expr) -> bool:
    parts = 0
    for nodes, node in enumerate(tree.walk()):
        parts += isinstance(node, exp.Query | exp.Table | exp.Join | exp.CTE)
        if nodes > MOST_NODES or parts > MOST_PARTS:
            return True
    return False


class _Apart:
    """The work of taking apart, for one dialect and one sample."""

    def __init__(self, sql: str, dialect: str, columns: TableColumns) -> None:
        self.dialect, self.columns = dialect, columns
        self.sql = sql
        self.tokens = parser_tokens(sql, dialect)

    def text(self, node: exp.Expr) -> str:
        return printed_sql(node, self.dialect)

    def written(self, node: exp.Expr, *keywords: TokenType) -> str:
        """A clause as its author wrote it, from its keyword to where the next clause begins."""
        starts = [one.meta["start"] for one in node.walk() if "start" in one.meta]
        begins = [
            at
            for at, token in enumerate(self.tokens)
            if starts and token.token_type in keywords and token.start < min(starts)
        ]
        if not begins:
            return self.text(node).strip()
        begin = begins[-1]
        while begin and keywords[0] in _JOINING and self.tokens[begin - 1].token_type in _JOINING:
            begin -= 1
        depth = 0
        end = begin
        for at in range(begins[-1], len(self.tokens)):
            kind = self.tokens[at].token_type
            depth += (kind == TokenType.L_PAREN) - (kind == TokenType.R_PAREN)
            if depth < 0 or (depth == 0 and at > begins[-1] and kind in _ENDS):
                break
            if kind == TokenType.COMMA and depth == 0 and keywords == _FROM:
                break
            end = at
        return self.sql[self.tokens[begin].start : self.tokens[end].end + 1]

    def trace(self, query: exp.Query, role: Role, name: str, around: list[exp.CTE]) -> Trace:
        """The trace of a query; ``around`` are the common table expressions that it sees."""
        while isinstance(query, exp.Subquery):
            query = query.this
        shown = self.text(query)
        if role in ("derived", "subquery"):
            outer = outer_references(query, self.columns)
            if outer:
                read = ", ".join(dict.fromkeys(self.text(column) for column in outer))
                note = f"It runs again for each row of the query around it, whose {read} it reads."
                return Trace(role, name, shown, (), (), note)
        with_ = query.args.get("with_")
        own = list(with_.expressions) if with_ is not None else []
        seen = _seen(around, own)
        nested = [self._cte(cte, _seen(around, own[:at])) for at, cte in enumerate(own)]
        if isinstance(query, exp.SetOperation):
            operands = list(operands_in(query))
            nested += [
                self.trace(operand, "operand", keyword, seen) for keyword, operand, _ in operands
            ]
            steps = tuple(self._combined(query, operands, seen))
        elif isinstance(query, exp.Select):
            nested += self._inside(query, seen)
            steps = tuple(self._steps(query, seen))
        else:
            return Trace(role, name, shown, (), tuple(nested), UNREAD)
        return Trace(role, name, shown, steps, tuple(nested))

    def _cte(self, cte: exp.CTE, around: list[exp.CTE]) -> Trace:
        if not is_recursive(cte):
            return self.trace(cte.this, "cte", cte.alias, around)
        shown = self.text(cte.this)
        star = exp.Select(expressions=[exp.Star()]).from_(exp.to_identifier(cte.alias, quoted=True))
        queries = [
            self._whole(star.copy(), [*around, one]) for one in (with_rounds(cte), cte) if one
        ]
        step = Step("rounds", shown, tuple(queries), "round" if len(queries) > 1 else "")
        nested: list[Trace] = []
        for keyword, operand, _ in (
            operands_in(cte.this) if isinstance(cte.this, exp.SetOperation) else ()
        ):
            if any(cte_named(table) is cte for table in operand.find_all(exp.Table)):
                note = f"It reads the rows of {cte.alias} that the round before gave, and runs again until there are none."
                nested.append(Trace("operand", keyword, self.text(operand), (), (), note))
            else:
                nested.append(self.trace(operand, "operand", keyword, around))
        return Trace("cte", cte.alias, shown, (step,), tuple(nested))

    def _inside(self, select: exp.Select, seen: list[exp.CTE]) -> Iterator[Trace]:
        """The derived tables and subqueries that stand directly in a SELECT."""
        derived = {
            id(source.unnest()): source for source in sources_of(select) if _is_query(source)
        }
        for query in subqueries_in(select):
            around = query.find_ancestor(exp.Select)
            if around is not select or query.find_ancestor(exp.CTE) is not select.find_ancestor(
                exp.CTE
            ):
                continue
            source = derived.get(id(query))
            role: Role = "subquery" if source is None else "derived"
            yield self.trace(query, role, source.alias_or_name if source else "", seen)

    def _whole(self, query: exp.Query, seen: list[exp.CTE]) -> str:
        """A query as text, with the common table expressions that it may read."""
        query.set("with_", None)
        if seen:
            ctes = [cte.copy() for cte in seen]
            query.set("with_", exp.With(expressions=ctes, recursive=any(map(reads_itself, seen))))
        return self.text(query)

    def _combined(
        self, query: exp.SetOperation, operands: list[tuple[str, exp.Query, exp.Query]],
        seen: list[exp.CTE],
    ) -> Iterator[Step]:  # fmt: skip
        for keyword, operand, so_far in operands:
            bare = without_order(so_far)
            clause = f"{keyword} {self.text(operand)}".strip()
            yield Step("operand", clause, (self._whole(bare, seen),))
        yield from self._tail(query, seen)

    def _tail(self, query: exp.Query, seen: list[exp.CTE]) -> Iterator[Step]:
        order = query.args.get("order")
        if order is not None:
            unlimited = query.copy()
            for part in ("limit", "offset"):
                unlimited.set(part, None)
            yield Step("order", self.written(order, _T.ORDER_BY), (self._whole(unlimited, seen),))
        cuts = [
            query.args[part] for part in ("limit", "offset") if query.args.get(part) is not None
        ]
        if cuts:
            clause = self.written(cuts[0], _T.LIMIT, _T.FETCH)
            yield Step("limit", clause, (self._whole(query.copy(), seen),))

    def _steps(self, select: exp.Select, seen: list[exp.CTE]) -> Iterator[Step]:
        yield from self._rows(select, seen)
        where = select.args.get("where")
        if where is not None:
            queries, tellings = [], []
            for condition in readings_of(where.this, select):
                query = only_clauses(select, "from_", "joins", "laterals")
                queries.append(self._beside(query.copy(), [exp.Star()], truth_of(condition), seen))
                shown = [exp.Star(), *_truths(parts_of(condition))]
                tellings.append(self._beside(query, shown, truth_of(condition), seen))
            told = self._parts_told(where.this)
            yield Step(
                "where", self.written(where, _T.WHERE), tuple(queries), "truth",
                told=told, tellings=tuple(tellings) if told else (),
            )  # fmt: skip
        yield from self._groups(select, seen)
        bare = without_order(select)
        assert isinstance(bare, exp.Select)
        bare.set("distinct", None)
        items = exp.Tuple(expressions=[item.copy() for item in select.expressions])
        clause = self.written(items, _T.SELECT)
        told, telling = self._branches(bare)
        yield Step(
            "select", clause, (self._whole(bare, seen),), told=told,
            tellings=(self._whole(telling, seen),) if told else (),
        )  # fmt: skip
        if select.args.get("distinct") is not None:
            yield Step("distinct", "DISTINCT", (self._whole(without_order(select), seen),))
        yield from self._tail(select, seen)

    def _rows(self, select: exp.Select, seen: list[exp.CTE]) -> Iterator[Step]:
        start = select.args.get("from_")
        if start is None:
            return
        joins = select.args.get("joins") or []
        for upto in range(len(joins) + 1):
            query = only_clauses(select, "from_", "laterals")
            query.set("expressions", [exp.Star()])
            query.set("joins", [join.copy() for join in joins[:upto]])
            clause = self._source(joins[upto - 1]) if upto else self.written(start, *_FROM)
            partners = (
                self._partners(query, joins[upto - 1], joins[: upto - 1], seen) if upto else ()
            )
            yield Step(
                "join" if upto else "from", clause, (self._whole(query, seen),), partners=partners
            )

    def _partners(
        self, query: exp.Select, join: exp.Join, earlier: list[exp.Join], seen: list[exp.CTE]
    ) -> tuple[tuple[Partners, str], ...]:
        before = query.copy()
        before.set("joins", [one.copy() for one in earlier])
        return tuple(
            (name, self._whole(count, seen))
            for name, count in partner_counts(before, join, earlier).items()
        )

    def _parts_told(self, condition: exp.Expr) -> tuple[Told, ...]:
        return tuple(Told("truth", self.text(part)) for part in parts_of(condition))

    def _branches(self, select: exp.Select) -> tuple[tuple[Told, ...], exp.Select]:
        """What the branches of a select list's CASEs are, and the query that tells which is taken."""
        cases = cases_of(select)
        told = tuple(
            Told(
                "branch",
                _name_of(case) or self.text(case),
                tuple(self.text(when.this) for when in case.args["ifs"]),
                case.args.get("default") is not None,
            )
            for case in cases
        )
        telling = select.copy()
        telling.set(
            "expressions",
            [*telling.expressions, *named_parts([branch_taken(one) for one in cases])],
        )
        return told, telling

    def _source(self, join: exp.Join) -> str:
        """A join as written; one by a comma has no keyword of its own."""
        starts = [one.meta["start"] for one in join.this.walk() if "start" in one.meta]
        before = [token for token in self.tokens if starts and token.start < min(starts)]
        while before and before[-1].token_type in (_T.L_PAREN, _T.SELECT):
            before.pop()
        if before and before[-1].token_type == _T.COMMA:
            return self._until_next(before[-1])
        if not join.args.get("on") and not join.args.get("using") and not join.args.get("method"):
            return self.text(join).strip()
        return self.written(join, _T.JOIN)

    def _until_next(self, first: Token) -> str:
        """The text from a token on, to where the next source or clause begins."""
        depth = 0
        end = first.end
        for token in self.tokens[self.tokens.index(first) + 1 :]:
            kind = token.token_type
            depth += (kind == _T.L_PAREN) - (kind == _T.R_PAREN)
            if depth < 0 or (depth == 0 and (kind in _ENDS or kind == _T.COMMA)):
                break
            end = token.end
        return self.sql[first.start : end + 1]

    def _groups(self, select: exp.Select, seen: list[exp.CTE]) -> Iterator[Step]:
        group, having = select.args.get("group"), select.args.get("having")
        aggregated = group is not None or having is not None or has_aggregate(select)
        if not aggregated:
            return
        keys = [group_key(key, select) for key in group.expressions] if group is not None else []
        # A name means a column first, and an alias of the select list where there is no such column.
        readings = [keys, [with_aliases_replaced(key, select) for key in keys]]
        if group is None or keys:
            clause = "one group of all rows" if group is None else self.written(group, _T.GROUP_BY)
            queries = [self._numbered(select, terms, seen) for terms in readings]
            least = 1 if group is None else 0
            yield Step("group", clause, tuple(dict.fromkeys(queries)), "group", least)
        if having is not None:
            conditions = [having.this, with_aliases_replaced(having.this, select)]
            tested = dict.fromkeys(
                (
                    self._tested(select, terms, condition, [], seen),
                    self._tested(select, terms, condition, parts_of(condition), seen),
                )
                for terms in readings
                for condition in conditions
            )
            clause = self.written(having, _T.HAVING)
            told = self._parts_told(having.this)
            yield Step(
                "having", clause, tuple(query for query, _ in tested), "truth", told=told,
                tellings=tuple(telling for _, telling in tested) if told else (),
            )  # fmt: skip

    def _numbered(self, select: exp.Select, keys: list[exp.Expr], seen: list[exp.CTE]) -> str:
        """The rows before grouping, with the number of the group that each falls into."""
        query = only_clauses(select, "from_", "joins", "laterals", "where")
        number: exp.Expr = exp.Literal.number(1)
        if keys:
            order = exp.Order(expressions=[ordered_by(key.copy()) for key in keys])
            number = exp.Window(this=exp.DenseRank(), order=order)
        return self._beside(query, [exp.Star()], number, seen, in_order=True)

    def _tested(
        self, select: exp.Select, keys: list[exp.Expr], condition: exp.Expr,
        parts: list[exp.Expr], seen: list[exp.CTE],
    ) -> str:  # fmt: skip
        """A row for each group: its keys, the aggregates of HAVING, its parts, whether it is kept."""
        query = only_clauses(select, "from_", "joins", "laterals", "where", "windows")
        if keys:
            query.set("group", exp.Group(expressions=[key.copy() for key in keys]))
        told = [one.copy() for one in (*keys, *aggregates_in(condition))]
        return self._beside(query, [*told, *_truths(parts)], truth_of(condition), seen)

    def _beside(
        self, query: exp.Select, items: list[exp.Expr], beside: exp.Expr, seen: list[exp.CTE],
        *, in_order: bool = False,
    ) -> str:  # fmt: skip
        query.set("expressions", [*items, exp.alias_(beside, BESIDE)])
        if in_order:
            query.set("order", exp.Order(expressions=[ordered_by(exp.column(BESIDE))]))
        return self._whole(query, seen)


def _seen(around: list[exp.CTE], own: list[exp.CTE]) -> list[exp.CTE]:
    names = {cte.alias.lower() for cte in own}
    return [*(cte for cte in around if cte.alias.lower() not in names), *own]


def _is_query(source: exp.Expr) -> bool:
    return isinstance(source, exp.Subquery)


def _truths(parts: list[exp.Expr]) -> list[exp.Expr]:
    return named_parts([truth_of(part) for part in parts])


def _name_of(case: exp.Case) -> str:
    """The alias of an item of the select list that is nothing but a CASE; empty otherwise."""
    around = case.parent
    return around.alias if isinstance(around, exp.Alias) and around.this is case else ""
