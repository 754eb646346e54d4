"""The exceptions of the core.

    JentrowError
    ├── UnusableInput            something that the caller handed in cannot be used
    │   ├── UnreadableFile       a file that is missing, not UTF-8, or holds a NUL
    │   ├── InvalidRules         comparison rules with an unknown name or value
    │   ├── InvalidSample        a schema or dataset that the engine does not take
    │   ├── InvalidPack          a pack whose files do not fit together
    │   ├── InvalidSubmissions   a file of submissions that cannot be read as such
    │   ├── ReferenceFails       a reference answer or accepted alternative that does not run
    │   └── UnusableFolder       a data folder that cannot be made or opened
    └── EngineUnavailable        an engine that is not known or cannot be reached

What a learner's query does wrong is never an exception: the engines report it as a value
(:class:`jentrow.core.engines.protocol.QueryFailure`).
"""


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


class InvalidPack(UnusableInput):
    """Raised when a pack lacks a file, or a file of it does not say what it must."""


class InvalidSubmissions(UnusableInput):
    """Raised when a file of submissions lacks its header or names an unknown exercise."""


class ReferenceFails(UnusableInput):
    """Raised when a reference answer or an alternative fails to run, or cannot be used as one."""


class UnusableFolder(UnusableInput):
    """Raised when a data folder cannot be made, or what lies in it is not Jentrow's."""


class EngineUnavailable(JentrowError):
    """Raised when an engine is unknown to this installation or cannot be started."""
