"""YAML that people wrote: plain values only, so that a small file stays small when it is read."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Final

import yaml
from yaml.composer import ComposerError
from yaml.events import AliasEvent

from jentrow.core.textfiles import read_text

LONGEST: Final = 500_000
"""Characters of a file that is read."""

DEEPEST: Final = 30
"""Mappings and lists inside one another."""


class NotYAML(Exception):
    """Raised where a text is no YAML, or more than plain values; says why, on one line."""


class _PlainLoader(yaml.SafeLoader):
    """Reads no aliases: a few lines of them stand for more than any memory holds."""

    depth = 0

    def compose_node(self, parent: Any, index: Any) -> Any:
        event = self.peek_event()  # type: ignore[no-untyped-call]
        if isinstance(event, AliasEvent):
            raise ComposerError(f"an alias (*{event.anchor}); write the value out")
        if self.depth >= DEEPEST:
            raise ComposerError("too many things inside one another")
        self.depth += 1
        try:
            return super().compose_node(parent, index)
        finally:
            self.depth -= 1


def read_yaml(path: Path) -> Any:
    """The plain values that a file holds.

    Raises :class:`NotYAML`, or :class:`UnreadableFile` where there is no text.
    """
    text = read_text(path)
    if len(text) > LONGEST:
        raise NotYAML(f"{len(text):,} characters; at most {LONGEST:,} are read")
    try:
        return yaml.load(text, _PlainLoader)  # noqa: S506 (a safe loader)
    except (yaml.YAMLError, ValueError, OverflowError) as problem:  # also a date that there is not
        raise NotYAML(" ".join(str(problem).split())) from problem
