"""What the use cases raise beside the errors of the core.

JentrowError
├── NotFound        something was asked for that the records do not hold
├── FolderInUse     a data folder that should be new is not empty
├── NotSignedIn     nobody is signed in, or the name and password do not fit
├── NotAllowed      somebody is signed in who may not do this
├── TooOften        something was tried too often, or while it still runs
└── NotTaken        what was asked for is not possible now: a sheet is closed, a course archived
"""

from jentrow.core.errors import JentrowError


class NotFound(JentrowError):
    """Raised when the records hold nothing under the name or number that was asked for."""


class FolderInUse(JentrowError):
    """Raised when demo data should go into a folder that already holds something."""


class NotSignedIn(JentrowError):
    """Raised when nobody is signed in, or a name and a password do not belong together."""


class NotAllowed(JentrowError):
    """Raised when who is signed in may not do or see this."""


class TooOften(JentrowError):
    """Raised when something is tried too often; ``wait`` says for how many seconds to wait."""

    def __init__(self, message: str, wait: float = 1.0) -> None:
        super().__init__(message)
        self.wait = wait


class NotTaken(JentrowError):
    """Raised when things are not so that this can be done now; the message says why."""
