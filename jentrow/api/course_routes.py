"""The routes about a course itself, its instructors and learners; for its instructors."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path

from jentrow.api import people_schemas as schemas
from jentrow.api.access import OpenDesk, SignedIn, Slug, WholeDesk
from jentrow.api.import_routes import ImportId
from jentrow.api.schemas import Taken
from jentrow.core.rosters import RosterEntry
from jentrow.services import courses, people
from jentrow.services.access import as_instructor

router = APIRouter()

LearnerId = Annotated[int, Path(ge=1, le=2**53)]


@router.get("/course")
def course(desk: OpenDesk, one: SignedIn) -> schemas.Course:
    """The course itself."""
    return schemas.Course.model_validate(courses.course_view(desk, one))


@router.put("/course")
def change_course(given: schemas.CourseForm, desk: OpenDesk, one: SignedIn) -> schemas.Course:
    """Changes a course's title and time zone."""
    return schemas.Course.model_validate(courses.change_course(desk, one, given.title, given.zone))


@router.post("/course/archived", tags=["asks"])
def archive(course: Slug, given: schemas.Wanted, whole: WholeDesk, one: SignedIn) -> schemas.Course:
    """Puts a course away, or brings it back."""
    desk = as_instructor(whole, one, course, changes=False)
    return schemas.Course.model_validate(courses.archive(desk, one, away=given.wanted))


@router.post("/course/join-code")
def set_join_code(given: schemas.Wanted, desk: OpenDesk, one: SignedIn) -> schemas.Course:
    """Makes a new join code, or takes it away."""
    return schemas.Course.model_validate(courses.set_join_code(desk, one, wanted=given.wanted))


@router.post("/course/instructors", status_code=201)
def invite_instructor(desk: OpenDesk) -> schemas.Token:
    """A link that makes whoever opens it an instructor of the course."""
    return schemas.Token(token=courses.invite_instructor(desk))


@router.delete("/course/instructors/{person_id}")
def remove_instructor(person_id: LearnerId, desk: OpenDesk, one: SignedIn) -> schemas.Course:
    """Takes somebody out of those who teach."""
    return schemas.Course.model_validate(courses.remove_instructor(desk, one, person_id))


@router.get("/learners")
def learners(desk: OpenDesk) -> list[schemas.LearnerLine]:
    """The learners of the course, by name."""
    return [schemas.LearnerLine.model_validate(one) for one in people.learners(desk)]


@router.post("/learners/links")
def personal_links(given: schemas.LearnerIds, desk: OpenDesk) -> list[schemas.PersonalLink]:
    """New personal links for learners who have not signed up."""
    found = people.personal_links(desk, given.ids)
    return [schemas.PersonalLink.model_validate(one) for one in found]


@router.post("/learners/{learner_id}/link")
def password_link(learner_id: LearnerId, desk: OpenDesk) -> schemas.PersonalLink:
    """A link by which a learner signs up, or chooses another password."""
    return schemas.PersonalLink.model_validate(people.new_password_link(desk, learner_id))


@router.put("/learners/{learner_id}", status_code=204)
def change_learner(learner_id: LearnerId, given: schemas.LearnerForm, desk: OpenDesk) -> None:
    """Changes a learner's id, name and e-mail."""
    people.change_learner(desk, learner_id, RosterEntry(given.code, given.name, given.email))


@router.delete("/learners/{learner_id}", status_code=204)
def remove_learner(learner_id: LearnerId, desk: OpenDesk, with_answers: bool = False) -> None:
    """Removes a learner, and their answers only where that is asked for."""
    people.remove_learner(desk, learner_id, with_answers=with_answers)


@router.put("/learners/{learner_id}/extensions/{sheet}", status_code=204)
def set_extension(
    learner_id: LearnerId, sheet: Slug, given: schemas.ExtensionForm, desk: OpenDesk
) -> None:
    """Gives a learner another closing time of a sheet."""
    people.set_extension(desk, learner_id, sheet, given.closes)


@router.post("/rosters/{import_id}/look", tags=["asks"])
def look_at_roster(import_id: ImportId, desk: OpenDesk) -> schemas.RosterLook:
    """What taking in a roster that was handed in would do."""
    return schemas.RosterLook.model_validate(
        people.look_at_roster(desk, desk.imports.get(import_id, desk.owner))
    )


@router.post("/rosters/{import_id}/take")
def take_roster(import_id: ImportId, given: schemas.TakeRoster, desk: OpenDesk) -> Taken:
    """Takes the learners of a roster in."""
    one = desk.imports.get(import_id, desk.owner)
    return Taken(count=people.take_roster(desk, one, given.class_id, leave_out=given.leave_out))
