"""What a route may answer in place of what it is for: HTTP's name for each kind of error."""

from __future__ import annotations

from typing import Any, Final

from jentrow.core.errors import EngineInterrupted, EngineUnavailable, JentrowError, UnusableInput
from jentrow.records.errors import RecordsConflict, RecordsUnavailable
from jentrow.services.errors import (
    FolderInUse,
    NotAllowed,
    NotFound,
    NotSignedIn,
    NotTaken,
    TooOften,
)

STATUS_OF: Final[dict[type[JentrowError], int]] = {
    NotFound: 404,
    UnusableInput: 422,
    FolderInUse: 409,
    NotSignedIn: 401,
    NotAllowed: 403,
    NotTaken: 409,
    TooOften: 429,
    RecordsConflict: 409,
    RecordsUnavailable: 503,
    EngineUnavailable: 503,
    EngineInterrupted: 503,
}
"""HTTP's name for each kind of error; a kind that is not here takes its base's."""

_PROBLEM: Final = {"application/json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
"""How the OpenAPI document writes ``schemas.Problem``, a model of its own."""

REFUSALS: Final[dict[int | str, dict[str, Any]]] = {
    status: {"content": _PROBLEM} for status in sorted({*STATUS_OF.values(), 400, 408, 413} - {500})
}
"""What any route may answer in place of what it is for; the same in all of the document.

Named as a model, it would be worked out anew for each refusal of each route whenever the server starts:
ten times as often as there are routes.
"""


def status_of(problem: JentrowError) -> int:
    """The HTTP status of an error, by the nearest of its bases that has one."""
    for kind in type(problem).__mro__:
        if kind in STATUS_OF:
            return STATUS_OF[kind]
    return 500
