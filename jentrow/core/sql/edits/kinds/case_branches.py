"""CASE: its branches, their sequence, and ELSE."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.borrowing import borrowable, borrowed_text
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "case",
    "CASE",
    "A CASE lacks a branch or its ELSE, has one too many, or asks in the wrong sequence: the first branch that is true decides.",
)
CASES: Final = (
    (
        "SELECT CASE WHEN beds < 20 THEN 'a' WHEN beds < 40 THEN 'b' ELSE 'c' END FROM huts",
        "SELECT CASE WHEN beds < 40 THEN 'b' WHEN beds < 20 THEN 'a' ELSE 'c' END FROM huts",
    ),
    (
        "SELECT CASE WHEN beds < 20 THEN 'a' ELSE 'c' END FROM huts",
        "SELECT CASE WHEN beds < 20 THEN 'a' END FROM huts",
    ),
    (
        "SELECT CASE WHEN beds < 20 THEN 'a' WHEN beds < 40 THEN 'b' END FROM huts",
        "SELECT CASE WHEN beds < 20 THEN 'a' END FROM huts",
    ),
    (
        "SELECT CASE WHEN beds < 20 THEN 'a' END FROM huts",
        "SELECT CASE WHEN beds < 20 THEN 'a' ELSE 'c' END FROM huts",
        "SELECT CASE WHEN beds < 30 THEN 'b' ELSE 'c' END FROM huts",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """ELSE dropped and added; branches exchanged, dropped, borrowed; two results exchanged."""
    for case in draft.tree.find_all(exp.Case):
        branches = case.args.get("ifs") or []
        otherwise = case.args.get("default")
        if not branches or not draft.known(case, *branches):
            continue
        begins = [_begin_of(draft, one) for one in branches]
        ends = [draft.span(one)[1] for one in branches]
        if draft.known(otherwise) and otherwise is not None:
            yield from draft.dropped(ends[-1], draft.span(otherwise)[1], 0.6)
        else:
            yield from _else_added(draft, case, ends[-1])
        for at, (begin, end) in enumerate(zip(begins, ends, strict=True)):
            if len(branches) > 1:
                yield from draft.dropped(begin, end, 0.5)
            if at + 1 < len(branches):
                new = (
                    draft.sql[begins[at + 1] : ends[at + 1]]
                    + draft.sql[end : begins[at + 1]]
                    + draft.sql[begin:end]
                )
                yield from draft.changed((begin, ends[at + 1]), new, 0.7)
        yield from _results_exchanged(
            draft, [*(one.args.get("true") for one in branches), otherwise]
        )
        yield from _branches_borrowed(draft, case, ends[-1])


def _begin_of(draft: Draft, branch: exp.Expr) -> int:
    """Where a branch begins, with its WHEN."""
    begin = draft.span(branch)[0]
    word = draft.before(begin)
    return word.start if word is not None and word.word == "WHEN" else begin


def _else_added(draft: Draft, case: exp.Expr, at: int) -> Iterator[Change]:
    for default in ("0", "''"):
        yield from draft.inserted(at, f" ELSE {default}", 0.3)
    for other, node in borrowable(draft, exp.Case):
        default_there = node.args.get("default")
        if other.known(default_there):
            said = other.text(default_there)
            yield from draft.inserted(at, f" ELSE {said}", 0.5, borrows=True)


def _results_exchanged(draft: Draft, results: list[exp.Expr | None]) -> Iterator[Change]:
    for first, second in pairwise(results):
        if first is None or second is None or not draft.known(first, second):
            continue
        (begin, middle), (later, end) = draft.span(first), draft.span(second)
        new = draft.text(second) + draft.sql[middle:later] + draft.text(first)
        yield from draft.changed((begin, end), new, 0.4)


def _branches_borrowed(draft: Draft, case: exp.Expr, at: int) -> Iterator[Change]:
    select = draft.select_of(case)
    for other, branch in borrowable(draft, exp.If):
        if select is None or not isinstance(branch.parent, exp.Case):
            continue
        said = borrowed_text(other, branch, draft, select)
        if said is not None:
            word = "" if said.upper().startswith("WHEN") else "WHEN "
            yield from draft.inserted(at, f" {word}{said}", 0.4, borrows=True)
            first = (case.args.get("ifs") or [None])[0]
            if first is not None:
                yield from draft.inserted(
                    _begin_of(draft, first), f"{word}{said} ", 0.4, borrows=True
                )
