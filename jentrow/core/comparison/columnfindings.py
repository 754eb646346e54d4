"""Findings about columns: their number, their order, their names."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from jentrow.core.comparison.findings import Finding
from jentrow.core.results import Column
from jentrow.core.words import counted, is_or_are, listed

_ORDINALS: Final = (
    "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth",
)  # fmt: skip


def column_words(columns: Sequence[Column]) -> list[str]:
    """What due columns are called: by their name, and by their place where the engine named them.

    An engine takes the text of an expression for its name, and that text is the reference's own.
    """
    return [
        column.name if column.named else f"the {_ordinal(at)} column"
        for at, column in enumerate(columns)
    ]


def _ordinal(at: int) -> str:
    return _ORDINALS[at] if at < len(_ORDINALS) else f"{at + 1}th"


def column_findings(
    due: Sequence[str], given: Sequence[str], paired: Sequence[int | None], *, sure: bool = True
) -> list[Finding]:
    """Findings about a number of columns that is not the one due.

    ``due`` are the due columns in words. Unless ``sure`` it is not said which ones they are.
    """
    missing = [name for name, at in zip(due, paired, strict=True) if at is None]
    extra = [name for at, name in enumerate(given) if at not in paired]
    wanted = f"{counted(len(given), 'column')} given, {len(due)} due"
    findings = []
    if missing:
        which = f"{listed(missing)} {is_or_are(missing)} missing" if sure else _too(missing, "few")
        evidence = {"columns": missing} if sure else {}
        findings.append(
            Finding("columns.missing", f"{wanted}: {which}.", len(missing), evidence=evidence)
        )
    if extra:
        which = f"{listed(extra)} {is_or_are(extra)} not asked for" if sure else _too(extra, "many")
        evidence = {"columns": extra} if sure else {}
        findings.append(
            Finding("columns.extra", f"{wanted}: {which}.", len(extra), evidence=evidence)
        )
    return findings


def _too(columns: Sequence[str], word: str) -> str:
    return f"{len(columns)} too {word}"


def swapped_columns(names: Sequence[str], permutation: Sequence[int]) -> Finding:
    """The finding for right columns in the wrong order."""
    moved = [name for at, name in enumerate(names) if permutation[at] != at]
    return Finding(
        "columns.order",
        f"The columns are right, but in another order: {listed(moved)} "
        f"{'change places' if len(moved) == 2 else 'stand elsewhere'}.",
        len(moved),
        evidence={"columns": moved, "cause": "columns_swapped"},
    )


def name_finding(wrong: Sequence[tuple[str, str]]) -> Finding:
    """The finding for column names that differ; pairs of (due, given)."""
    pairs = "; ".join(f"{due!r} is due, {given!r} is given" for due, given in wrong)
    return Finding(
        "columns.name",
        f"{counted(len(wrong), 'column name')} {'differs' if len(wrong) == 1 else 'differ'}: {pairs}.",
        len(wrong),
        evidence={"columns": [due for due, _ in wrong]},
    )
