"""What is asked and answered about people, courses and signing in."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from jentrow.api.schemas import CourseTime, View
from jentrow.services.courses.roster import RosterChange

Part = Literal["instructor", "learner"]
LONGEST_PASSWORD = 1_000


class SignInForm(BaseModel):
    """A sign-in name and a password."""

    login: str = Field(max_length=200)
    password: str = Field(max_length=LONGEST_PASSWORD)


class NewAccount(SignInForm):
    """Who somebody is and wants to sign in as."""

    name: str = Field(default="", max_length=400)


class PasswordChange(BaseModel):
    """The present password and the one to come."""

    before: str = Field(max_length=LONGEST_PASSWORD)
    after: str = Field(max_length=LONGEST_PASSWORD)


class CourseLine(View):
    """A course of somebody's, and what they are in it."""

    slug: str
    title: str
    part: Part
    archived: bool


class Me(BaseModel):
    """Who is signed in, and their courses; ``guard`` goes into the header of every change."""

    name: str
    login: str
    teaches: bool
    guard: str
    courses: list[CourseLine]


class WhoIsHere(BaseModel):
    """Who is signed in; None for nobody."""

    me: Me | None
    version: str


class Entered(BaseModel):
    """Who is signed in now, and the course to go to (empty for none)."""

    me: Me
    course: str = ""


class ToJoin(BaseModel):
    """The course that a join code is for."""

    course: str


class CourseForm(BaseModel):
    """A course's title and time zone."""

    title: str = Field(max_length=400)
    zone: str = Field(default="UTC", max_length=100)


class Wanted(BaseModel):
    """Whether something is wanted."""

    wanted: bool


class Token(BaseModel):
    """The token of a link that works once."""

    token: str


class ExtensionLine(View):
    """Another closing time of a sheet, in the course's own time."""

    sheet: str
    closes: CourseTime


class LearnerLine(View):
    """A learner of a course."""

    id: int
    code: str
    name: str
    email: str
    signed_up: bool
    link_ends: datetime | None
    submissions: int
    extensions: list[ExtensionLine]


class LearnerForm(View):
    """A learner's id, name and e-mail."""

    code: str = Field(max_length=400)
    name: str = Field(max_length=400)
    email: str = Field(default="", max_length=400)


class RosterClassLook(View):
    """What taking in a class of a roster would do."""

    id: str
    title: str
    new: list[LearnerForm]
    changed: list[RosterChange]
    same: int
    absent: list[str]


class RosterLook(View):
    """What a file of a roster holds."""

    classes: list[RosterClassLook]
    problems: list[str]


class TakeRoster(BaseModel):
    """The class to take in, and whether lines that cannot be used are left out."""

    class_id: str = ""
    leave_out: bool = False


class LearnerIds(BaseModel):
    """Learners; all of them where none is named."""

    ids: list[int] = Field(default=[], max_length=10_000)


class ExtensionForm(BaseModel):
    """Another closing time in the course's own time; None takes it back."""

    closes: CourseTime | None
