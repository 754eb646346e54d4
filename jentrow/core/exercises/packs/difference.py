"""What taking a pack in would do: what is new, what changed, and where both sides were changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

from jentrow.core.exercises.files.content import digest_of

State: TypeAlias = Literal["new", "same", "changed", "conflict"]
"""``new``: nothing here has the name. ``same``: nothing to do. ``changed``: the pack's is another
than the one taken in before, and ours was left as it was. ``conflict``: both differ from what was
taken in before, or ours never came from a pack."""


@dataclass(frozen=True, slots=True)
class PackChange:
    """One thing of a pack against what is here; ``differing`` names the parts that differ."""

    id: str
    state: State
    differing: tuple[str, ...] = ()


def compare_contents(
    incoming: Mapping[str, Mapping[str, Any]],
    present: Mapping[str, Mapping[str, Any]],
    origins: Mapping[str, str],
) -> list[PackChange]:
    """Compares the contents of a pack with those here, by id.

    ``origins`` are the digests of the contents as they were last taken in from a pack.
    """
    return [
        _change(id, theirs, present.get(id), origins.get(id)) for id, theirs in incoming.items()
    ]


def _change(
    id: str, theirs: Mapping[str, Any], ours: Mapping[str, Any] | None, origin: str | None
) -> PackChange:
    if ours is None:
        return PackChange(id, "new")
    if digest_of(theirs) == digest_of(ours):
        return PackChange(id, "same")
    names = list(dict.fromkeys([*ours, *theirs]))
    differing = tuple(name for name in names if ours.get(name) != theirs.get(name))
    state: State = "changed" if origin == digest_of(ours) else "conflict"
    return PackChange(id, state, differing)
