"""When answers to a sheet are taken: its times in the course's zone, late rule and extensions."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from fractions import Fraction
from functools import cache
from typing import Final, Literal, TypeAlias
from zoneinfo import ZoneInfo, available_timezones

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.sheets import Late

Standing: TypeAlias = Literal["not_yet", "open", "late", "closed"]
"""Whether answers are taken: not yet, in time, late by the sheet's rule, or no longer."""

_DAY: Final = timedelta(days=1)


@cache
def zone_named(name: str) -> ZoneInfo:
    """The time zone with this name of the IANA database. Raises :class:`UnusableInput`."""
    if name not in available_timezones():
        raise UnusableInput(
            f"There is no time zone {name!r}; name one such as Europe/Zurich or UTC."
        )
    return ZoneInfo(name)


def instant(local: datetime, zone: ZoneInfo, *, last: bool = False) -> datetime:
    """The instant, in UTC, of a time without a zone.

    Where clocks were set back a time comes twice: the first one counts, with ``last`` the second.
    A time that was skipped where clocks were set forward is as long after the last one that was.
    """
    return local.replace(tzinfo=zone, fold=int(last)).astimezone(UTC)


@dataclass(frozen=True, slots=True)
class Window:
    """When answers are taken, as instants in UTC; None for no bound.

    From ``opens`` to ``closes`` they are in time, up to ``ends`` they are late.
    """

    opens: datetime | None
    closes: datetime | None
    ends: datetime | None
    late: Late

    def standing(self, at: datetime) -> Standing:
        """Whether an answer that comes at an instant is taken. The very last instant still counts."""
        if self.opens is not None and at < self.opens:
            return "not_yet"
        if self.closes is None or at <= self.closes:
            return "open"
        return "late" if self.ends is None or at <= self.ends else "closed"

    def share(self, at: datetime) -> Fraction:
        """The share of its mark that an answer of an instant keeps; 0 for one no longer taken."""
        if self.closes is None:
            return Fraction(1)
        share = self.late.share(at - self.closes)
        return Fraction(0) if share is None else share

    def is_over(self, at: datetime) -> bool:
        """Whether nobody to whom this window applies can hand in any more."""
        return self.ends is not None and at > self.ends


def window(
    opens: datetime | None,
    closes: datetime | None,
    late: Late,
    zone: ZoneInfo,
    extended: datetime | None = None,
) -> Window:
    """The window of a sheet for one learner; ``extended`` is another closing time of theirs.

    Times have no zone: they are the course's. An extension never closes a sheet sooner.
    """
    last = closes
    if extended is not None and closes is not None:
        last = max(closes, extended)
    closing = None if last is None else instant(last, zone, last=True)
    ends = closing
    if closing is not None and late.rule != "refuse":
        ends = None if late.days is None else closing + late.days * _DAY
    return Window(None if opens is None else instant(opens, zone), closing, ends, late)


def mark_on_sheet(mark: float, points: float, worth: float | None, share: Fraction) -> float:
    """What a mark of ``points`` comes to on a sheet where the exercise is worth ``worth``.

    ``share`` is what lateness leaves of it. Rounded to hundredths, half of one away from zero.
    """
    scaled = Fraction(str(mark)) * share
    if worth is not None and points:
        scaled *= Fraction(str(worth)) / Fraction(str(points))
    hundredths = scaled * 100
    whole = int(abs(hundredths) + Fraction(1, 2))
    return (whole if hundredths >= 0 else -whole) / 100
