"""Whether a query's result rests on values that its engine picked: found out by running variants."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import islice
from typing import Final

from jentrow.core.comparison.findings import Finding
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryOutcome
from jentrow.core.exercises.grading.digests import result_digest
from jentrow.core.results import ResultSet
from jentrow.core.sql.freedom.arbitrary import Choice, choices_in
from jentrow.core.sql.freedom.moments import hangs_on_the_moment

MOST_CHOICES: Final = 3
"""Choices of a text that are looked into: what is found in the first ones says enough."""
_VARIANT_SECONDS: Final = 0.1


def variant_limits(limits: Limits) -> Limits:
    """The bounds of a variant: explaining an answer must not use up the time that judges it."""
    return replace(limits, seconds=min(limits.seconds, _VARIANT_SECONDS))


def chosen_by_engine(
    run: Callable[[str], QueryOutcome], sql: str, ran: QueryOutcome, dialect: str
) -> tuple[Finding, ...]:
    """The findings ``cells.arbitrary`` of a query that ran; none where nobody can tell.

    ``run`` runs a query on the dataset that gave ``ran``, within :func:`variant_limits`. Only texts
    that may leave something to their engine are run again.
    """
    if not isinstance(ran, ResultSet) or hangs_on_the_moment(sql, dialect):
        return ()
    return tuple(
        Finding(
            "cells.arbitrary",
            f"{choice.words}.",
            evidence={
                "line": choice.place.line,
                "column": choice.place.column,
                "near": choice.near,
            },
        )
        for choice in islice(choices_in(sql, dialect), MOST_CHOICES)
        if _is_open(run, choice)
    )


def _is_open(run: Callable[[str], QueryOutcome], choice: Choice) -> bool:
    least, greatest = run(choice.least), run(choice.greatest)
    if not isinstance(least, ResultSet) or not isinstance(greatest, ResultSet):
        return False
    one, other = (
        result_digest(result, in_order=False, with_names=False) for result in (least, greatest)
    )
    return one != other
