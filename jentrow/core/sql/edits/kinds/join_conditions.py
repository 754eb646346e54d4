"""What joins two tables: the wrong columns, a condition left out, or none at all."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft, Source
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.insertion import condition_added

KIND: Final = EditKind(
    "join condition",
    "the condition of a join",
    "Two tables are joined by the wrong columns, or by no condition at all: then every row meets every other.",
)
CASES: Final = (
    (
        "SELECT h.name FROM huts h JOIN stays s ON s.hut_id = h.hut_id",
        "SELECT h.name FROM huts h JOIN stays s ON 1 = 1",
    ),
    (
        "SELECT h.name FROM huts h JOIN stays s ON s.stay_id = h.hut_id",
        "SELECT h.name FROM huts h JOIN stays s ON h.hut_id = s.hut_id",
    ),
    (
        "SELECT h.name FROM huts h, stays s",
        "SELECT h.name FROM huts h, stays s WHERE h.hut_id = s.hut_id",
    ),
    (
        "SELECT name FROM huts NATURAL JOIN stays",
        "SELECT name FROM huts JOIN stays ON huts.hut_id = stays.hut_id",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """ON made always true, or what a foreign key says; a missing condition put in."""
    for select in draft.selects:
        sources = draft.sources(select)
        for join in select.args.get("joins") or ():
            own = next((one for one in sources if one.node is join.this), None)
            if own is None or not draft.known(join, join.this):
                continue
            before = sources[: sources.index(own)]
            on, using = join.args.get("on"), join.args.get("using")
            if draft.known(on):
                yield from draft.changed(on, "1 = 1", 0.5)
            for said in _conditions(draft, before, own):
                if on is not None:
                    yield from draft.changed(on, said, 0.6)
                    for part in draft.chain(on):
                        if part is not on and isinstance(part, exp.EQ):
                            yield from draft.changed(part, said, 0.5)
                elif using:
                    end = draft.span(join)[1]
                    yield from draft.changed((draft.span(join.this)[1], end), f" ON {said}", 0.5)
                else:
                    yield from _none_yet(draft, select, join, said)


def _none_yet(draft: Draft, select: exp.Select, join: exp.Join, said: str) -> Iterator[Change]:
    begin, end = draft.span(join)
    first = draft.after(begin)
    if first is not None and first.word == ",":
        yield from condition_added(draft, select, "where", said, "AND", 0.8)
    elif join.kind == "CROSS" or join.method == "NATURAL":
        table = draft.text(join.this)
        yield from draft.changed((begin, end), f"JOIN {table} ON {said}", 0.7)
    else:
        yield from draft.inserted(end, f" ON {said}", 0.8)


def _conditions(draft: Draft, before: list[Source], own: Source) -> Iterator[str]:
    for other in before:
        for left, right in draft.links(other, own):
            yield " AND ".join(
                f"{draft.name(other.called)}.{draft.name(one)} = {draft.name(own.called)}.{draft.name(to)}"
                for one, to in zip(left, right, strict=True)
            )
