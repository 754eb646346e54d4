"""What the use cases raise beside the errors of the core.

JentrowError
├── NotFound        something was asked for that the records do not hold
└── FolderInUse     a data folder that should be new is not empty
"""

from jentrow.core.errors import JentrowError


class NotFound(JentrowError):
    """Raised when the records hold nothing under the name or number that was asked for."""


class FolderInUse(JentrowError):
    """Raised when demo data should go into a folder that already holds something."""
