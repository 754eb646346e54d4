"""Putting a condition into a query where it may have one already."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change


def condition_added(
    draft: Draft,
    select: exp.Select,
    clause: Literal["where", "having"],
    said: str,
    word: str,
    likelihood: float,
    *,
    borrows: bool = False,
    is_chain: bool = False,
) -> Iterator[Change]:
    """A condition added to WHERE or HAVING by AND or OR; the clause itself where there is none.

    ``is_chain`` tells that the condition must stand in parentheses there.
    """
    holder = select.args.get(clause)
    if holder is None:
        if word == "OR":
            return
        at = (
            draft.end_before(select)
            if clause == "where"
            else draft.end_before(select, "where", "group")
        )
        if draft.end_of_sources(select) is not None:
            yield from draft.inserted(at, f" {clause.upper()} {said}", likelihood, borrows=borrows)
        return
    root = holder.this
    if not draft.known(root):
        return
    begin, end = draft.span(root)
    said = f"({said})" if is_chain else said
    if word == "AND" and isinstance(root, exp.Or):
        new = f"({draft.sql[begin:end]}) AND {said}"
        yield from draft.changed((begin, end), new, likelihood, borrows=borrows)
    else:
        yield from draft.inserted(end, f" {word} {said}", likelihood, borrows=borrows)
