"""The routes about a course itself, its instructors and learners; for its instructors."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path

from jentrow.api import people_schemas as schemas
from jentrow.api.access import Server, SignedIn, Slug, Teaching
from jentrow.api.import_routes import ImportId
from jentrow.api.routers import teaching_router
from jentrow.api.schemas import Taken
from jentrow.core.rosters import RosterEntry
from jentrow.services.accounts.access import as_instructor
from jentrow.services.courses import lifecycle, roster
from jentrow.services.courses.lifecycle import CourseView
from jentrow.services.courses.roster import PersonalLink

router = teaching_router()

LearnerId = Annotated[int, Path(ge=1, le=2**53)]


@router.get("/course")
def course(scope: Teaching, one: SignedIn) -> CourseView:
    """The course itself."""
    return lifecycle.course_view(scope, one)


@router.put("/course")
def change_course(given: schemas.CourseForm, scope: Teaching, one: SignedIn) -> CourseView:
    """Changes a course's title and time zone."""
    return lifecycle.change_course(scope, one, given.title, given.zone)


@router.post("/course/archived", tags=["asks"])
def archive(course: Slug, given: schemas.Wanted, whole: Server, one: SignedIn) -> CourseView:
    """Puts a course away, or brings it back."""
    scope = as_instructor(whole, one, course, changes=False)
    return lifecycle.archive(scope, one, away=given.wanted)


@router.post("/course/join-code")
def set_join_code(given: schemas.Wanted, scope: Teaching, one: SignedIn) -> CourseView:
    """Makes a new join code, or takes it away."""
    return lifecycle.set_join_code(scope, one, wanted=given.wanted)


@router.post("/course/instructors", status_code=201)
def invite_instructor(scope: Teaching) -> schemas.Token:
    """A link that makes whoever opens it an instructor of the course."""
    return schemas.Token(token=lifecycle.invite_instructor(scope))


@router.delete("/course/instructors/{person_id}")
def remove_instructor(person_id: LearnerId, scope: Teaching, one: SignedIn) -> CourseView:
    """Takes somebody out of those who teach."""
    return lifecycle.remove_instructor(scope, one, person_id)


@router.get("/learners")
def learners(scope: Teaching) -> list[schemas.LearnerLine]:
    """The learners of the course, by name."""
    return [schemas.LearnerLine.model_validate(one) for one in roster.learners(scope)]


@router.post("/learners/links")
def personal_links(given: schemas.LearnerIds, scope: Teaching) -> list[PersonalLink]:
    """New personal links for learners who have not signed up."""
    return roster.personal_links(scope, given.ids)


@router.post("/learners/{learner_id}/link")
def password_link(learner_id: LearnerId, scope: Teaching) -> PersonalLink:
    """A link by which a learner signs up, or chooses another password."""
    return roster.new_password_link(scope, learner_id)


@router.put("/learners/{learner_id}", status_code=204)
def change_learner(learner_id: LearnerId, given: schemas.LearnerForm, scope: Teaching) -> None:
    """Changes a learner's id, name and e-mail."""
    roster.change_learner(scope, learner_id, RosterEntry(given.code, given.name, given.email))


@router.delete("/learners/{learner_id}", status_code=204)
def remove_learner(learner_id: LearnerId, scope: Teaching, with_answers: bool = False) -> None:
    """Removes a learner, and their answers only where that is asked for."""
    roster.remove_learner(scope, learner_id, with_answers=with_answers)


@router.put("/learners/{learner_id}/extensions/{sheet}", status_code=204)
def set_extension(
    learner_id: LearnerId, sheet: Slug, given: schemas.ExtensionForm, scope: Teaching
) -> None:
    """Gives a learner another closing time of a sheet."""
    roster.set_extension(scope, learner_id, sheet, given.closes)


@router.post("/rosters/{import_id}/look", tags=["asks"])
def look_at_roster(import_id: ImportId, scope: Teaching) -> schemas.RosterLook:
    """What taking in a roster that was handed in would do."""
    return schemas.RosterLook.model_validate(
        roster.look_at_roster(scope, scope.runtime.import_jobs.get(import_id, scope.owner))
    )


@router.post("/rosters/{import_id}/take")
def take_roster(import_id: ImportId, given: schemas.TakeRoster, scope: Teaching) -> Taken:
    """Takes the learners of a roster in."""
    one = scope.runtime.import_jobs.get(import_id, scope.owner)
    return Taken(count=roster.take_roster(scope, one, given.class_id, leave_out=given.leave_out))
