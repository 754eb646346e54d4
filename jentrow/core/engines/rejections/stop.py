"""Where an engine stopped reading a text."""

from __future__ import annotations

from dataclasses import dataclass

from jentrow.core.engines.rejections.rejected import Rejected
from jentrow.core.sql.skeleton import Skeleton


@dataclass(frozen=True, slots=True)
class Stop:
    """Where the engine stopped: the token in the text."""

    one: Rejected
    skeleton: Skeleton
    at: int

    @property
    def near(self) -> str:
        """The token as it is written."""
        return self.skeleton.written(self.at)


def stop_in(one: Rejected, near: str) -> Stop:
    """The stop of a rejected text; ``near`` is what the engine read there, if it says so."""
    skeleton = one.skeleton
    return Stop(one, skeleton, _stopped_at(skeleton, near, one.index))


def _stopped_at(skeleton: Skeleton, near: str, index: int | None) -> int:
    held = skeleton.token_holding(index)
    if held is not None:
        return held
    places = [at for at in range(len(skeleton.tokens)) if skeleton.written(at) == near]
    return places[0] if len(places) == 1 else len(skeleton.tokens)
