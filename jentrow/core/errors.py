"""The exceptions of the core.

    JentrowError
    ├── UnusableInput            something that the caller handed in cannot be used
    │   ├── UnreadableFile       a file that is missing, not UTF-8, or holds a NUL
    │   ├── InvalidRules         comparison rules with an unknown name or value
    │   ├── InvalidSample        a schema or dataset that the engine does not take
    │   ├── InvalidExercise      an exercise whose parts do not fit; holds every problem
    │   ├── InvalidPack          a pack whose files do not fit together
    │   ├── InvalidSheet         an exercise sheet that cannot be used as it is
    │   ├── InvalidSubmissions   a file of submissions that cannot be read as such
    │   ├── InvalidRoster        a roster that cannot be read as such
    │   ├── ReferenceFails       a reference answer or accepted alternative that does not run
    │   └── UnusableFolder       a data folder that cannot be made or opened
    ├── EngineUnavailable        an engine that is not known or cannot be reached
    └── EngineInterrupted        an engine's process that was ended before it answered

What a learner's query does wrong is never an exception: the engines report it as a value
(:class:`jentrow.core.engines.protocol.QueryFailure`).
"""

from __future__ import annotations

from collections.abc import Sequence


class JentrowError(Exception):
    """The base of all errors that Jentrow raises on purpose; its text is meant for people."""


class UnusableInput(JentrowError):
    """Raised when input cannot be used at all; says what, where, and what to do."""


class UnreadableFile(UnusableInput):
    """Raised when a file is missing, is not UTF-8 text, or holds a NUL character."""


class InvalidRules(UnusableInput):
    """Raised when comparison rules name something unknown; lists every problem at once."""


class InvalidSample(UnusableInput):
    """Raised when a schema script or a dataset does not load into the engine."""


class InvalidExercise(UnusableInput):
    """Raised when an exercise cannot be used as it is; lists every problem at once."""

    def __init__(self, id: str, problems: Sequence[str]) -> None:
        super().__init__(f"{id}: " + "; ".join(problems) + ".")
        self.problems = tuple(problems)


class InvalidPack(UnusableInput):
    """Raised when a pack lacks a file, or a file of it does not say what it must."""


class InvalidSheet(UnusableInput):
    """Raised when an exercise sheet names what there is not, or its times do not fit."""


class InvalidSubmissions(UnusableInput):
    """Raised when a file of submissions lacks its header or names an unknown exercise."""


class InvalidRoster(UnusableInput):
    """Raised when a roster lacks its header, or a file of it is missing."""


class ReferenceFails(UnusableInput):
    """Raised when a reference answer or an alternative fails to run, or cannot be used as one."""


class UnusableFolder(UnusableInput):
    """Raised when a data folder cannot be made, or what lies in it is not Jentrow's."""


class EngineUnavailable(JentrowError):
    """Raised when an engine is unknown to this installation or cannot be started."""


class EngineInterrupted(JentrowError):
    """Raised when an engine's process was ended from outside, or by closing: nothing is known."""
