"""The routes about signing in: who is here, links that work once, joining by code, courses."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Request, Response

from jentrow import __version__
from jentrow.api import people_schemas as schemas
from jentrow.api.access import MaybeWho, SignedIn, WholeDesk, drop_cookie, set_cookie
from jentrow.api.routes import NOT_FOUND_OR_UNUSABLE
from jentrow.services import courses, links, signin
from jentrow.services.desk import Desk
from jentrow.services.errors import NotAllowed
from jentrow.services.signin import Who

public = APIRouter(prefix="/api", responses=NOT_FOUND_OR_UNUSABLE)
"""What anybody may ask."""

router = APIRouter(prefix="/api", responses=NOT_FOUND_OR_UNUSABLE)
"""What anybody may ask who is signed in."""

Token = Annotated[str, Path(max_length=100)]


def _me(desk: Desk, one: Who) -> schemas.Me:
    return schemas.Me(
        name=one.name,
        login=one.login,
        teaches=one.teaches,
        guard=one.guard,
        courses=[schemas.CourseLine.model_validate(line) for line in courses.courses_of(desk, one)],
    )


def _browser(request: Request) -> str:
    return request.headers.get("User-Agent", "")


def _entered(
    request: Request, response: Response, desk: Desk, one: Who, course: str = ""
) -> schemas.Entered:
    set_cookie(request, response, one)
    return schemas.Entered(me=_me(desk, one), course=course)


@public.get("/me")
def me(desk: WholeDesk, one: MaybeWho) -> schemas.WhoIsHere:
    """Who is signed in, if anybody."""
    return schemas.WhoIsHere(me=_me(desk, one) if one else None, version=__version__)


@public.post("/sign-in")
def sign_in(
    given: schemas.SignInForm, request: Request, response: Response, desk: WholeDesk
) -> schemas.Entered:
    """Signs somebody in: the browser keeps a cookie that scripts cannot read."""
    address = request.client.host if request.client else ""
    one = signin.sign_in(
        desk, given.login, given.password, address=address, browser=_browser(request)
    )
    return _entered(request, response, desk, one)


@public.get("/links/{token}")
def link(token: Token, desk: WholeDesk) -> schemas.LinkView:
    """What a link that works once is for."""
    return schemas.LinkView.model_validate(links.look_at_link(desk, token))


@public.post("/links/{token}")
def open_link(
    token: Token,
    given: schemas.NewAccount,
    request: Request,
    response: Response,
    desk: WholeDesk,
) -> schemas.Entered:
    """Opens a link with a password that is chosen now, and signs in."""
    joined = links.open_link(
        desk, token,
        name=given.name, login=given.login, password=given.password, browser=_browser(request),
    )  # fmt: skip
    return _entered(request, response, desk, joined.who, joined.course)


@public.get("/joining/{code}")
def course_to_join(code: Token, desk: WholeDesk) -> schemas.ToJoin:
    """The course that a join code is for."""
    return schemas.ToJoin(course=courses.course_to_join(desk, code))


@public.post("/joining/{code}")
def join_anew(
    code: Token, given: schemas.NewAccount, request: Request, response: Response, desk: WholeDesk
) -> schemas.Entered:
    """Joins a course as somebody new, and signs in."""
    joined = courses.join_anew(
        desk, code,
        name=given.name, login=given.login, password=given.password, browser=_browser(request),
    )  # fmt: skip
    return _entered(request, response, desk, joined.who, joined.course)


@router.post("/links/{token}/as-me")
def open_link_as_me(token: Token, desk: WholeDesk, one: SignedIn) -> schemas.Entered:
    """Opens a link for whoever is signed in."""
    course = links.open_link_as(desk, token, one)
    return schemas.Entered(me=_me(desk, one), course=course)


@router.post("/joining/{code}/as-me")
def join_as_me(code: Token, desk: WholeDesk, one: SignedIn) -> schemas.Entered:
    """Joins a course as whoever is signed in."""
    course = courses.join(desk, code, one)
    return schemas.Entered(me=_me(desk, one), course=course)


@router.post("/sign-out", status_code=204)
def sign_out(response: Response, desk: WholeDesk, one: SignedIn) -> None:
    """Signs this browser out."""
    signin.sign_out(desk, one)
    drop_cookie(response)


@router.post("/sign-out-everywhere", status_code=204)
def sign_out_everywhere(response: Response, desk: WholeDesk, one: SignedIn) -> None:
    """Signs every browser out that somebody is signed in with."""
    signin.sign_out_everywhere(desk, one)
    drop_cookie(response)


@router.get("/browsers")
def browsers(desk: WholeDesk, one: SignedIn) -> list[schemas.BrowserLine]:
    """The browsers that somebody is signed in with."""
    return [schemas.BrowserLine.model_validate(line) for line in signin.browsers(desk, one)]


@router.put("/password", status_code=204)
def change_password(given: schemas.PasswordChange, desk: WholeDesk, one: SignedIn) -> None:
    """Changes the password; every other browser is signed out."""
    signin.change_password(desk, one, given.before, given.after)


@router.post("/courses", status_code=201)
def new_course(given: schemas.CourseForm, desk: WholeDesk, one: SignedIn) -> schemas.Entered:
    """Begins a course."""
    if not one.teaches:
        raise NotAllowed("Only instructors begin courses.")
    course = courses.new_course(desk, one, given.title, given.zone)
    return schemas.Entered(me=_me(desk, one), course=course)
