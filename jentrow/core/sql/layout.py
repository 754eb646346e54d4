"""Layout of a query's text: what does not follow the rules, and the text as it could be.

Only white space between words changes, and the case of keywords: the meaning never does. Gaps that
hold a comment stay as they are.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Final, Literal, TypeAlias

from sqlglot import exp
from sqlglot.tokenizer_core import Token, TokenType

from jentrow.core.sql.parsing import is_short, parsed, parser_tokens
from jentrow.core.sql.text import Place, place_at

LayoutRule: TypeAlias = Literal[
    "keyword_case", "clause_lines", "column_lines", "spacing", "indentation"
]

LAYOUT_WORDS: Final[dict[LayoutRule, str]] = {
    "keyword_case": "keywords in one case",
    "clause_lines": "a new line for each clause",
    "column_lines": "a new line for each column",
    "spacing": "spaces around operators and after commas",
    "indentation": "clauses below each other, the rest further in",
}
"""The closed list of layout rules, with their words."""

KeywordCase: TypeAlias = Literal["upper", "lower"]

INLINE: Final = 60
"""A subquery of no more characters may stand on one line."""

_INDENT: Final = 4
_KEYWORDS: Final = frozenset(
    {
        "SELECT", "DISTINCT", "ALL", "FROM", "WHERE", "GROUP", "BY", "HAVING", "ORDER", "LIMIT",
        "OFFSET", "FETCH", "JOIN", "INNER", "OUTER", "LEFT", "RIGHT", "FULL", "CROSS", "NATURAL",
        "ON", "USING", "AS", "AND", "OR", "NOT", "IN", "IS", "NULL", "ISNULL", "NOTNULL", "LIKE",
        "BETWEEN", "EXISTS", "CASE", "WHEN", "THEN", "ELSE", "END", "UNION", "INTERSECT",
        "EXCEPT", "WITH", "RECURSIVE", "VALUES", "ASC", "DESC", "OVER", "PARTITION", "ESCAPE",
        "COLLATE", "FILTER", "NULLS",
    }
)  # fmt: skip
_ALSO_FUNCTIONS: Final = frozenset({"LEFT", "RIGHT"})
_T = TokenType
_CLAUSES: Final = frozenset(
    {
        _T.SELECT, _T.FROM, _T.WHERE, _T.GROUP_BY, _T.HAVING, _T.ORDER_BY, _T.LIMIT, _T.FETCH,
        _T.UNION, _T.INTERSECT, _T.EXCEPT,
    }
)  # fmt: skip
_JOIN_WORDS: Final = frozenset(
    {_T.JOIN, _T.LEFT, _T.RIGHT, _T.FULL, _T.INNER, _T.OUTER, _T.CROSS, _T.NATURAL}
)
_QUERY_STARTS: Final = frozenset({_T.SELECT, _T.WITH, _T.VALUES})
_OPERATORS: Final = frozenset(
    {
        _T.EQ, _T.NEQ, _T.LT, _T.LTE, _T.GT, _T.GTE, _T.PLUS, _T.DASH, _T.STAR, _T.SLASH, _T.MOD,
        _T.DPIPE,
    }
)  # fmt: skip
_NO_OPERAND: Final = frozenset({_T.L_PAREN, _T.COMMA, _T.DOT}) | _OPERATORS


@dataclass(frozen=True, slots=True)
class LayoutRules:
    """Which rules count; ``points`` are what breaking them all costs (0: they are advice)."""

    keyword_case: KeywordCase | None = None
    clause_lines: bool = False
    column_lines: bool = False
    spacing: bool = False
    indentation: bool = False
    points: float = 0.0

    @property
    def chosen(self) -> tuple[LayoutRule, ...]:
        """The rules that count, in the order of the list."""
        return tuple(rule for rule in LAYOUT_WORDS if getattr(self, rule))


@dataclass(frozen=True, slots=True)
class LayoutChange:
    """One place that does not follow a rule, in words; the place is in the text as it is."""

    rule: LayoutRule
    place: Place
    message: str


@dataclass(frozen=True, slots=True)
class Layout:
    """A text as it could be, and what stands in the way; no changes where it follows the rules."""

    text: str
    changes: tuple[LayoutChange, ...]


@dataclass
class _Frame:
    """What lies between two parentheses, or the whole text."""

    is_query: bool
    base: int
    inline: bool = False
    items: int = 0
    clause: TokenType | None = None


@dataclass
class _Writer:
    """The text as it becomes, and where its end stands."""

    parts: list[str] = field(default_factory=list)
    column: int = 0

    def add(self, text: str) -> None:
        self.parts.append(text)
        last = text.rfind("\n")
        self.column = len(text) - last - 1 if last >= 0 else self.column + len(text)


def lay_out(sql: str, rules: LayoutRules, dialect: str) -> Layout:
    """Lays a query out by the rules. A text that cannot be read stays as it is."""
    unchanged = Layout(sql, ())
    if not is_short(sql, dialect) or not rules.chosen:
        return unchanged
    tokens = parser_tokens(sql, dialect)
    if not tokens:
        return unchanged
    text, changes = _Pass(sql, tokens, rules).run()
    return Layout(text, changes) if _means_the_same(sql, text, dialect) else unchanged


def _means_the_same(before: str, after: str, dialect: str) -> bool:
    """Whether two texts are read alike, names and values to the letter."""
    if before == after:
        return True
    ours, theirs = parsed(before, dialect), parsed(after, dialect)
    if ours is None or theirs is None:
        return False
    return _words(before, dialect) == _words(after, dialect) and _to_the_letter(
        ours
    ) == _to_the_letter(theirs)


def _to_the_letter(tree: exp.Expr) -> list[tuple[Any, ...]]:
    """What is equal for trees that are the same, letter case and all.

    The parser's own words for a tree say as much, and take time by the square of its depth.
    """
    return [
        (
            type(node),
            *(
                (name, len(value) if isinstance(value, list) else value)
                for name, value in node.args.items()
                if value and not isinstance(value, exp.Expr)
            ),
            *(name for name, value in node.args.items() if isinstance(value, exp.Expr)),
        )
        for node in tree.walk()
    ]


def _words(sql: str, dialect: str) -> list[tuple[TokenType, str]]:
    return [
        (token.token_type, " ".join(token.text.upper().split()) if _is_word(token) else token.text)
        for token in parser_tokens(sql, dialect)
    ]


def _is_word(token: Token) -> bool:
    return token.token_type not in (_T.STRING, _T.IDENTIFIER, _T.NUMBER) and all(
        word in _KEYWORDS for word in token.text.upper().split()
    )


class _Pass:
    """One walk over the words of a text."""

    def __init__(self, sql: str, tokens: Sequence[Token], rules: LayoutRules) -> None:
        self.sql, self.tokens, self.rules = sql, tokens, rules
        self.closing = dict(_pairs(tokens))
        self.out = _Writer()
        self.changes: list[LayoutChange] = []
        self.frames = [_Frame(True, 0)]

    def run(self) -> tuple[str, tuple[LayoutChange, ...]]:
        end = 0
        for at, token in enumerate(self.tokens):
            if token.token_type == _T.R_PAREN and len(self.frames) > 1:
                self.frames.pop()
            gap = self.sql[end : token.start]
            end = token.end + 1
            self.out.add(self._gap(at, gap))
            frame = self.frames[-1]
            if at == 0 or self.tokens[at - 1].token_type == _T.L_PAREN:
                frame.base = self.out.column if frame.is_query else frame.base
            self.out.add(self._text(at, self.sql[token.start : end]))
            self._enter(at)
        self.out.add(self.sql[end:])
        return "".join(self.out.parts), tuple(self.changes)

    def _enter(self, at: int) -> None:
        token, frame = self.tokens[at], self.frames[-1]
        if token.token_type == _T.L_PAREN:
            inside = self.tokens[at + 1].token_type if at + 1 < len(self.tokens) else None
            closing = self.closing.get(at)
            whole = self.sql[token.start : self.tokens[closing].end] if closing else ""
            is_query = inside in _QUERY_STARTS
            inline = is_query and "\n" not in whole and len(whole) <= INLINE
            self.frames.append(_Frame(is_query, frame.base, inline))
        elif frame.is_query and token.token_type in _CLAUSES:
            frame.clause = token.token_type
            frame.items = self.out.column + 1

    def _note(self, rule: LayoutRule, at: int, message: str) -> None:
        self.changes.append(LayoutChange(rule, place_at(self.sql, self.tokens[at].start), message))

    def _text(self, at: int, text: str) -> str:
        wanted = self.rules.keyword_case
        token = self.tokens[at]
        if wanted is None or not _is_word(token) or self._is_name(at):
            return text
        cased = text.upper() if wanted == "upper" else text.lower()
        if cased != text:
            self._note("keyword_case", at, f"{text} could be {cased}")
        return cased

    def _is_name(self, at: int) -> bool:
        """Whether a word that is a keyword elsewhere is a name here, or a function's."""
        before = self.tokens[at - 1].token_type if at else None
        after = self.tokens[at + 1].token_type if at + 1 < len(self.tokens) else None
        if before == _T.DOT or after == _T.DOT or before == _T.ALIAS:
            # What follows AS in WITH … AS (…) is no word but a parenthesis.
            return True
        return self.tokens[at].text.upper() in _ALSO_FUNCTIONS and after == _T.L_PAREN

    def _gap(self, at: int, gap: str) -> str:
        if gap.strip():
            return gap  # a comment
        if at == 0:
            return gap
        begins_clause, begins_item = self._begins_clause(at), self._begins_item(at)
        if "\n" in gap:
            return self._indented(at, gap, begins_clause, begins_item)
        frame = self.frames[-1]
        word = self._shown(at)
        if begins_clause and self.rules.clause_lines and not frame.inline:
            self._note("clause_lines", at, f"{word} could begin a new line")
            return "\n" + " " * frame.base
        if begins_item and self.rules.column_lines and not frame.inline:
            self._note("column_lines", at, f"{word} could begin a new line")
            return "\n" + " " * frame.items
        return self._spaced(at, gap) if self.rules.spacing else gap

    def _shown(self, at: int) -> str:
        return " ".join(self.sql[self.tokens[at].start : self.tokens[at].end + 1].split())

    def _begins_clause(self, at: int) -> bool:
        frame, kind = self.frames[-1], self.tokens[at].token_type
        before = self.tokens[at - 1].token_type
        if not frame.is_query or before == _T.L_PAREN:
            return False
        if kind in _JOIN_WORDS:
            is_function = at + 1 < len(self.tokens) and self.tokens[at + 1].token_type == _T.L_PAREN
            return before not in _JOIN_WORDS and not (is_function and kind != _T.JOIN)
        if kind == _T.FROM:
            return before != _T.DISTINCT  # IS DISTINCT FROM
        return kind in _CLAUSES

    def _begins_item(self, at: int) -> bool:
        frame = self.frames[-1]
        before = self.tokens[at - 1].token_type
        if not (frame.is_query and frame.clause == _T.SELECT and before == _T.COMMA):
            return False
        # Whoever puts the comma at the beginning of the line has a line for each column, too.
        return "\n" not in self.sql[self.tokens[at - 2].end + 1 : self.tokens[at - 1].start]

    def _indented(self, at: int, gap: str, begins_clause: bool, begins_item: bool) -> str:
        if not self.rules.indentation or self.tokens[at].token_type in (_T.R_PAREN, _T.SEMICOLON):
            return gap
        frame = self.frames[-1]
        if self.tokens[at - 1].token_type == _T.L_PAREN:
            return gap
        lines, column = gap[: gap.rfind("\n") + 1], len(gap) - gap.rfind("\n") - 1
        word = self._shown(at)
        if begins_clause and column != frame.base:
            self._note("indentation", at, f"{word} could stand below the clauses before it")
            return lines + " " * frame.base
        if not begins_clause and column <= frame.base and self.tokens[at].token_type != _T.WITH:
            self._note("indentation", at, f"{word} could stand further in")
            return lines + " " * (frame.items if begins_item else frame.base + _INDENT)
        return gap

    def _spaced(self, at: int, gap: str) -> str:
        kind, before = self.tokens[at].token_type, self.tokens[at - 1].token_type
        if kind == _T.COMMA and gap:
            self._note("spacing", at, "no space before a comma")
            return ""
        if before == _T.COMMA and not gap:
            self._note("spacing", at, f"a space between the comma and {self._shown(at)}")
            return " "
        if not gap and (self._is_operator(at) or self._is_operator(at - 1)):
            operator = self._shown(at if self._is_operator(at) else at - 1)
            self._note("spacing", at, f"spaces around {operator}")
            return " "
        return gap

    def _is_operator(self, at: int) -> bool:
        """Whether a word stands between two operands; a sign or a wildcard does not."""
        if self.tokens[at].token_type not in _OPERATORS or at == 0 or at + 1 == len(self.tokens):
            return False
        before, after = self.tokens[at - 1], self.tokens[at + 1].token_type
        is_operand = before.text.upper() in ("NULL", "END") or not _is_word(before)
        return (
            is_operand
            and before.token_type not in _NO_OPERAND
            and after not in (_T.R_PAREN, _T.COMMA, _T.FROM)
        )


def _pairs(tokens: Sequence[Token]) -> Iterator[tuple[int, int]]:
    """Where each parenthesis opens and closes."""
    opened: list[int] = []
    for at, token in enumerate(tokens):
        if token.token_type == _T.L_PAREN:
            opened.append(at)
        elif token.token_type == _T.R_PAREN and opened:
            yield opened.pop(), at
