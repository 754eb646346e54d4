"""A query's text as edits look at it: its tree, its words between the nodes, and what columns mean."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, TypeAlias

from sqlglot import exp

from jentrow.core.sql.aggregates import has_aggregate
from jentrow.core.sql.edits.edit import Change
from jentrow.core.sql.edits.facts import ColumnFacts, KeyFacts, TableFacts, Tables
from jentrow.core.sql.scopes import cte_named, output_names, sources_of
from jentrow.core.sql.spans import Span, SpannedTree, spanned
from jentrow.core.sql.tokens import Token, tokens_of

Clause: TypeAlias = Literal["where", "having", "on"]


@dataclass(frozen=True, slots=True)
class Source:
    """A table in FROM: what the query calls it; ``table`` is None for one that is derived."""

    called: str
    table: TableFacts | None
    node: exp.Expr


@dataclass(frozen=True, slots=True)
class Condition:
    """A condition of a clause: its whole tree, and the SELECT that it belongs to."""

    clause: Clause
    root: exp.Expr
    select: exp.Select
    holder: exp.Expr


class Draft:
    """A query that may be edited. ``others`` are queries from which an edit may borrow."""

    def __init__(self, reading: SpannedTree, tables: Tables, others: Sequence[Draft] = ()) -> None:
        self.sql, self.dialect, self.tree = reading.sql, reading.dialect, reading.tree
        self.tables, self.others = tables, tuple(others)
        self._reading = reading
        self._tokens = tokens_of(reading.sql, reading.dialect)
        self._starts = [token.start for token in self._tokens]

    # places

    def span(self, node: exp.Expr) -> Span:
        """Which stretch of the text a node covers; an empty one at the end where nobody knows."""
        return self._reading.span(node) or (len(self.sql), len(self.sql))

    def text(self, node: exp.Expr | None) -> str:
        """A node as it is written; empty for none."""
        return "" if node is None else self._reading.text(node)

    def known(self, *nodes: exp.Expr | None) -> bool:
        """Whether it is known where all these nodes stand."""
        return all(node is not None and self._reading.span(node) is not None for node in nodes)

    def tokens(self, begin: int, end: int) -> tuple[Token, ...]:
        """The tokens that begin in a stretch of the text."""
        return self._tokens[bisect_left(self._starts, begin) : bisect_left(self._starts, end)]

    def before(self, at: int) -> Token | None:
        """The last token that begins before an index."""
        found = bisect_left(self._starts, at) - 1
        return self._tokens[found] if found >= 0 else None

    def after(self, at: int) -> Token | None:
        """The first token that begins at an index, or after it."""
        found = bisect_left(self._starts, at)
        return self._tokens[found] if found < len(self._tokens) else None

    def words_of(self, node: exp.Binary) -> tuple[Token, ...]:
        """The tokens between the two sides of an operator: the operator itself."""
        if not self.known(node.this, node.expression):
            return ()
        return self.tokens(self.span(node.this)[1], self.span(node.expression)[0])

    def word_in(self, node: exp.Expr, *words: str) -> Token | None:
        """The first of the words in the text of a node, at the node's own depth of parentheses."""
        begin, end = self.span(node)
        inside = self.tokens(begin, end)
        depth = min((token.depth for token in inside), default=0)
        return next((one for one in inside if one.word in words and one.depth == depth), None)

    def repeats_of(self, begin: int, end: int) -> list[Span]:
        """Where the same words stand as in a stretch of whole tokens, in their order, itself too."""
        wanted = [self._said(token) for token in self.tokens(begin, end)]
        count = len(wanted)
        if not count:
            return []
        said = [self._said(token) for token in self._tokens]
        found: list[Span] = []
        at = 0
        while at + count <= len(said):
            if said[at : at + count] == wanted:
                found.append((self._tokens[at].start, self._tokens[at + count - 1].end))
                at += count
            else:
                at += 1
        return found

    def _said(self, token: Token) -> str:
        return token.word or self.sql[token.start : token.end]

    # changes

    def changed(
        self, node: exp.Expr | Token | Span, new: str, likelihood: float, *, borrows: bool = False
    ) -> Iterator[Change]:
        """What stands at a place, replaced; nothing where the place is not known."""
        if isinstance(node, exp.Expr):
            if not self.known(node):
                return
            begin, end = self.span(node)
        else:
            begin, end = (node.start, node.end) if isinstance(node, Token) else node
        if self.sql[begin:end] != new:
            yield Change(begin, end, new, likelihood, borrows)

    def inserted(
        self, at: int, new: str, likelihood: float, *, borrows: bool = False
    ) -> Iterator[Change]:
        """Something put in at a place."""
        yield Change(at, at, new, likelihood, borrows)

    def dropped(self, begin: int, end: int, likelihood: float) -> Iterator[Change]:
        """A stretch left out, with the blank before it."""
        while begin > 0 and self.sql[begin - 1] in " \t" and begin < end:
            begin -= 1
        left = self.sql[begin - 1 : begin]
        right = self.sql[end : end + 1]
        glued = left.isalnum() and right.isalnum()
        yield Change(begin, end, " " if glued else "", likelihood)

    # the parts of the query

    @cached_property
    def selects(self) -> tuple[exp.Select, ...]:
        """All SELECTs, the outermost first."""
        return tuple(one for one in self.tree.find_all(exp.Select) if self.known(one))

    @cached_property
    def conditions(self) -> tuple[Condition, ...]:
        """The conditions of all WHERE, HAVING and ON clauses."""
        found: list[Condition] = []
        for select in self.selects:
            for clause in ("where", "having"):
                holder = select.args.get(clause)
                if holder is not None and self.known(holder, holder.this):
                    found.append(Condition(clause, holder.this, select, holder))
            for join in select.args.get("joins") or ():
                on = join.args.get("on")
                if self.known(on):
                    found.append(Condition("on", on, select, join))
        return tuple(found)

    def chain(self, node: exp.Expr) -> list[exp.Expr]:
        """The parts of a chain of AND, or of OR; a single one where it is no chain."""
        if not isinstance(node, exp.And | exp.Or):
            return [node]
        kind = type(node)
        parts: list[exp.Expr] = []
        waiting: list[exp.Expr] = [node]
        while waiting:
            one = waiting.pop()
            if type(one) is kind:
                waiting += [one.expression, one.this]
            else:
                parts.append(one)
        return parts

    def end_of_sources(self, select: exp.Select) -> int | None:
        """Where FROM with its joins ends; None where there is no FROM."""
        start = select.args.get("from_")
        if start is None or not self.known(start):
            return None
        ends = [self.span(start)[1]]
        ends += [self.span(one)[1] for one in select.args.get("joins") or () if self.known(one)]
        return max(ends)

    def end_before(self, select: exp.Select, *clauses: str) -> int:
        """Where the last of some clauses of a SELECT ends, FROM and joins counted among them."""
        ends = [self.end_of_sources(select) or self.span(select)[1]]
        for clause in clauses:
            part = select.args.get(clause)
            if part is not None and self.known(part):
                ends.append(self.span(part)[1])
        return max(ends)

    # what columns mean

    def sources(self, select: exp.Select) -> list[Source]:
        """The tables of a SELECT, left to right."""
        return [
            Source(one.alias_or_name, self._facts_of_source(one), one) for one in sources_of(select)
        ]

    def _facts_of_source(self, source: exp.Expr) -> TableFacts | None:
        if isinstance(source, exp.Table) and cte_named(source) is None:
            return self.tables.get(source.name.lower())
        return None

    def select_of(self, node: exp.Expr) -> exp.Select | None:
        """The innermost SELECT that a node stands in."""
        above = node.parent
        while above is not None and not isinstance(above, exp.Select):
            above = above.parent
        return above

    def meaning(self, column: exp.Expr) -> tuple[Source, ColumnFacts] | None:
        """The table and column that a column means; None where that is not known."""
        if not isinstance(column, exp.Column):
            return None
        select = self.select_of(column)
        while select is not None:
            for source in self.sources(select):
                if column.table and source.called.lower() != column.table.lower():
                    continue
                found = source.table.column(column.name) if source.table else None
                if found is not None and source.table is not None:
                    return source, found
            select = self.select_of(select)
        return None

    def family(self, node: exp.Expr) -> str:
        """What kind of value a node gives, as far as its text tells; empty where it does not."""
        node = node.unnest()
        if isinstance(node, exp.Column):
            found = self.meaning(node)
            return found[1].family if found else ""
        if isinstance(node, exp.Literal):
            return "text" if node.is_string else "number"
        if isinstance(node, exp.Min | exp.Max) and not node.expressions:
            return self.family(node.this)
        if isinstance(node, exp.Count | exp.Sum | exp.Avg | exp.Neg | exp.Sub | exp.Mul | exp.Div):
            return "number"
        return ""

    def in_scope(self, select: exp.Select) -> Iterator[tuple[str, ColumnFacts, Source]]:
        """The columns that a SELECT can name: as they are to be written, and what they are."""
        sources = self.sources(select)
        columns = [self._columns_of(source) for source in sources]
        times = Counter(column.name.lower() for held in columns for column in held)
        alone = len(sources) == 1
        qualifies = any(one.table for one in select.find_all(exp.Column))
        for source, held in zip(sources, columns, strict=True):
            for column in held:
                bare = alone and not qualifies
                bare = bare or (not qualifies and times[column.name.lower()] == 1)
                name = self.name(column.name)
                yield name if bare else f"{self.name(source.called)}.{name}", column, source

    def _columns_of(self, source: Source) -> Sequence[ColumnFacts]:
        """The columns of a source; of one that is derived, what its query calls them."""
        if source.table is not None:
            return source.table.columns
        names = output_names(source.node, {})
        return [ColumnFacts(one, "other", nullable=True) for one in sorted(names or ())]

    def name(self, name: str) -> str:
        """A name as SQL takes it, quoted where it must be."""
        if name.isidentifier() and name.isascii():
            return name
        mark = "`" if self.dialect == "mysql" else '"'
        return mark + name.replace(mark, mark * 2) + mark

    def links(
        self, left: Source, right: Source
    ) -> Iterator[tuple[tuple[str, ...], tuple[str, ...]]]:
        """The foreign keys between two tables: pairs of the left's columns and the right's."""
        if left.table is None or right.table is None:
            return
        for key in left.table.keys:
            if _names(key, right.table):
                yield key.columns, key.to
        for key in right.table.keys:
            if _names(key, left.table):
                yield key.to, key.columns

    def is_grouped(self, select: exp.Select) -> bool:
        """Whether a SELECT makes groups, be it one of all rows."""
        return select.args.get("group") is not None or has_aggregate(select)


def _names(key: KeyFacts, table: TableFacts) -> bool:
    return key.table.lower() == table.name.lower()


def draft_of(sql: str, dialect: str, tables: Tables, others: Sequence[Draft] = ()) -> Draft | None:
    """A text as a draft; None where it cannot be read."""
    reading = spanned(sql, dialect)
    return None if reading is None else Draft(reading, tables, others)
