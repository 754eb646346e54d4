"""Who asks: the cookie, the guard that comes with changes, and the scope that is theirs."""

from __future__ import annotations

from datetime import timedelta
from typing import Annotated, Final

from annotated_types import Interval
from fastapi import Depends, Path, Request, Response

from jentrow.services.accounts.access import as_instructor, as_learner
from jentrow.services.accounts.sessions import SESSION_LIFETIME, Who, who
from jentrow.services.errors import NotAllowed, NotSignedIn
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.scope import CourseScope, LearnerScope

COOKIE: Final = "jentrow"
KNOWN_COOKIE: Final = "jentrow-known"
GUARD: Final = "X-Jentrow-Guard"
"""The header that a change comes with: a page of another site cannot know what it holds."""

READING: Final = ("GET", "HEAD", "OPTIONS")


async def server(request: Request) -> Runtime:
    """The running server, for what belongs to no course."""
    runtime: Runtime = request.app.state.runtime
    return runtime


Server = Annotated[Runtime, Depends(server)]


def maybe_who(request: Request, runtime: Server) -> Who | None:
    """Who is signed in, if anybody."""
    return who(runtime, request.cookies.get(COOKIE))


MaybeWho = Annotated[Who | None, Depends(maybe_who)]


def signed_in(request: Request, runtime: Server) -> Who:
    """Who is signed in. Raises :class:`NotSignedIn`, and :class:`NotAllowed` without the guard."""
    one = maybe_who(request, runtime)
    if one is None:
        raise NotSignedIn("You are not signed in.")
    if request.method not in READING and request.headers.get(GUARD) != one.guard:
        raise NotAllowed("This page is not up to date: load it again, then repeat what you did.")
    return one


SignedIn = Annotated[Who, Depends(signed_in)]
Slug = Annotated[str, Path(max_length=200)]
SampleName = Annotated[str, Path(max_length=128)]
Number = Annotated[int, Interval(ge=0, le=2**53)]
"""A number that the records can hold."""


def _changes(request: Request) -> bool:
    """Whether a request changes something of the course: some only ask at length."""
    route = request.scope["route"]
    return request.method not in READING and "asks" not in route.tags


# Who asks is found in the same turn of a thread as what they may see: on a busy server each turn
# is waited for.


def teaching(request: Request, course: Slug, runtime: Server) -> CourseScope:
    """The scope of a course, for an instructor of it."""
    return as_instructor(runtime, signed_in(request, runtime), course, changes=_changes(request))


def learning(request: Request, course: Slug, runtime: Server) -> LearnerScope:
    """The scope of a learner of a course."""
    return as_learner(runtime, signed_in(request, runtime), course, changes=_changes(request))


Teaching = Annotated[CourseScope, Depends(teaching)]
Learning = Annotated[LearnerScope, Depends(learning)]


def set_cookie(request: Request, response: Response, one: Who) -> None:
    """Lets the browser keep the token where scripts cannot read it."""
    response.set_cookie(
        COOKIE,
        one.token,
        max_age=int(SESSION_LIFETIME.total_seconds()),
        httponly=True,
        samesite="lax",
        secure=request.url.scheme == "https",
        path="/",
    )


def set_known(request: Request, response: Response, known: str) -> None:
    """Lets the browser keep who has signed in with it: nobody else's wrong passwords hold it up."""
    response.set_cookie(
        KNOWN_COOKIE,
        known,
        max_age=int(timedelta(days=400).total_seconds()),
        httponly=True,
        samesite="lax",
        secure=request.url.scheme == "https",
        path="/api/sign-in",
    )


def drop_cookie(response: Response) -> None:
    """Takes the token away from the browser."""
    response.delete_cookie(COOKIE, httponly=True, samesite="lax", path="/")
