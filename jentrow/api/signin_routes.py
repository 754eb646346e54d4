"""The routes about signing in: who is here, links that work once, joining by code, courses."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Final, TypeVar

from anyio import CapacityLimiter, to_thread
from fastapi import Path, Request, Response
from fastapi.concurrency import run_in_threadpool

from jentrow import __version__
from jentrow.api import people_schemas as schemas
from jentrow.api.access import (
    KNOWN_COOKIE,
    MaybeWho,
    Server,
    SignedIn,
    drop_cookie,
    set_cookie,
    set_known,
)
from jentrow.api.routers import open_router, signed_in_router
from jentrow.services.accounts import links, sessions
from jentrow.services.accounts.links import LinkEventLine, LinkView
from jentrow.services.accounts.sessions import BrowserLine, Who
from jentrow.services.courses import joining, lifecycle
from jentrow.services.errors import NotAllowed
from jentrow.services.runtime.runtime import Runtime

public = open_router()
"""What anybody may ask."""

router = signed_in_router()
"""What anybody may ask who is signed in."""

Token = Annotated[str, Path(max_length=100)]


def _me(runtime: Runtime, one: Who) -> schemas.Me:
    return schemas.Me(
        name=one.name,
        login=one.login,
        teaches=one.teaches,
        guard=one.guard,
        courses=[
            schemas.CourseLine.model_validate(line) for line in lifecycle.courses_of(runtime, one)
        ],
    )


PASSWORDS_AT_ONCE: Final = 2
_PASSWORDS: Final = CapacityLimiter(PASSWORDS_AT_ONCE)

T = TypeVar("T")


async def _with_a_password(work: Callable[[], T]) -> T:
    """Does what takes a password's digest, in threads of its own: pages never wait for those."""
    return await to_thread.run_sync(work, limiter=_PASSWORDS)


def _browser(request: Request) -> str:
    return request.headers.get("User-Agent", "")


def _entered(
    request: Request, response: Response, runtime: Runtime, one: Who, course: str = ""
) -> schemas.Entered:
    set_cookie(request, response, one)
    set_known(request, response, sessions.known_browser(runtime, one.id))
    return schemas.Entered(me=_me(runtime, one), course=course)


@public.get("/me")
def me(runtime: Server, one: MaybeWho) -> schemas.WhoIsHere:
    """Who is signed in, if anybody."""
    return schemas.WhoIsHere(me=_me(runtime, one) if one else None, version=__version__)


@public.post("/sign-in")
async def sign_in(
    given: schemas.SignInForm, request: Request, response: Response, runtime: Server
) -> schemas.Entered:
    """Signs somebody in: the browser keeps a cookie that scripts cannot read."""
    address = request.client.host if request.client else ""
    known = request.cookies.get(KNOWN_COOKIE, "")
    one = await _with_a_password(
        lambda: sessions.sign_in(
            runtime, given.login, given.password,
            address=address, browser=_browser(request), known=known,
        )
    )  # fmt: skip
    return await run_in_threadpool(_entered, request, response, runtime, one)


@public.get("/links/{token}")
def link(token: Token, runtime: Server) -> LinkView:
    """What a link that works once is for."""
    return links.look_at_link(runtime, token)


@public.post("/links/{token}")
async def open_link(
    token: Token,
    given: schemas.NewAccount,
    request: Request,
    response: Response,
    runtime: Server,
) -> schemas.Entered:
    """Opens a link with a password that is chosen now, and signs in."""
    joined = await _with_a_password(
        lambda: links.open_link(
            runtime, token,
            name=given.name, login=given.login, password=given.password, browser=_browser(request),
        )
    )  # fmt: skip
    return await run_in_threadpool(_entered, request, response, runtime, joined.who, joined.course)


@public.get("/joining/{code}")
def course_to_join(code: Token, runtime: Server) -> schemas.ToJoin:
    """The course that a join code is for."""
    return schemas.ToJoin(course=joining.course_to_join(runtime, code))


@public.post("/joining/{code}")
async def join_anew(
    code: Token, given: schemas.NewAccount, request: Request, response: Response, runtime: Server
) -> schemas.Entered:
    """Joins a course as somebody new, and signs in."""
    joined = await _with_a_password(
        lambda: joining.join_anew(
            runtime, code,
            name=given.name, login=given.login, password=given.password, browser=_browser(request),
        )
    )  # fmt: skip
    return await run_in_threadpool(_entered, request, response, runtime, joined.who, joined.course)


@router.post("/links/{token}/as-me")
def open_link_as_me(token: Token, runtime: Server, one: SignedIn) -> schemas.Entered:
    """Opens a link for whoever is signed in."""
    course = links.open_link_as(runtime, token, one)
    return schemas.Entered(me=_me(runtime, one), course=course)


@router.post("/joining/{code}/as-me")
def join_as_me(code: Token, runtime: Server, one: SignedIn) -> schemas.Entered:
    """Joins a course as whoever is signed in."""
    course = joining.join(runtime, code, one)
    return schemas.Entered(me=_me(runtime, one), course=course)


@router.post("/sign-out", status_code=204)
def sign_out(response: Response, runtime: Server, one: SignedIn) -> None:
    """Signs this browser out."""
    sessions.sign_out(runtime, one)
    drop_cookie(response)


@router.post("/sign-out-everywhere", status_code=204)
def sign_out_everywhere(response: Response, runtime: Server, one: SignedIn) -> None:
    """Signs every browser out that somebody is signed in with."""
    sessions.sign_out_everywhere(runtime, one)
    drop_cookie(response)


@router.get("/browsers")
def browsers(runtime: Server, one: SignedIn) -> list[BrowserLine]:
    """The browsers that somebody is signed in with."""
    return sessions.browsers(runtime, one)


@router.get("/link-events")
def link_events(runtime: Server, one: SignedIn) -> list[LinkEventLine]:
    """What happened to links of one's own account: who made them, when they were used."""
    return links.link_events(runtime, one)


@router.put("/password", status_code=204)
async def change_password(given: schemas.PasswordChange, runtime: Server, one: SignedIn) -> None:
    """Changes the password; every other browser is signed out."""
    await _with_a_password(
        lambda: sessions.change_password(runtime, one, given.before, given.after)
    )


@router.post("/courses", status_code=201)
def new_course(given: schemas.CourseForm, runtime: Server, one: SignedIn) -> schemas.Entered:
    """Begins a course."""
    if not one.teaches:
        raise NotAllowed("Only instructors begin courses.")
    course = lifecycle.new_course(runtime, one, given.title, given.zone)
    return schemas.Entered(me=_me(runtime, one), course=course)
