"""The routes of the page of marks: the gradebook, publishing, plots, files, and what needs somebody."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import Response

from jentrow.api import marking_schemas as schemas
from jentrow.api.access import Number, Slug, Teaching
from jentrow.api.routers import teaching_router
from jentrow.services.marking import adjustments, exports, needs, plots, publishing
from jentrow.services.marking import feedback_pages as feedback
from jentrow.services.marking.feedback_pages import FeedbackPage
from jentrow.services.marking.gradebook import Gradebook, gradebook
from jentrow.services.marking.needs import Need
from jentrow.services.marking.plots import AnswerBehind, CoursePlots

router = teaching_router()


@router.get("/marks")
def marks(scope: Teaching) -> Gradebook:
    """The marks of all learners, with sums and totals."""
    return gradebook(scope)


@router.get("/marks/plots")
def course_plots(scope: Teaching) -> CoursePlots:
    """The numbers behind the plots of marks."""
    return plots.course_plots(scope)


@router.post("/marks/plots/answers", tags=["asks"])
def answers_behind(given: schemas.Ids, scope: Teaching) -> list[AnswerBehind]:
    """The answers behind a point of a plot."""
    return plots.answers_behind(scope, given.ids)


@router.get("/marks/export", response_class=Response)
def export(format: schemas.ExportKind, scope: Teaching) -> Response:
    """The marks as a file."""
    file = exports.export_marks(scope, format)
    disposition = f"attachment; filename*=UTF-8''{quote(file.name)}"
    return Response(file.content, media_type=file.media_type,
                    headers={"Content-Disposition": disposition})  # fmt: skip


@router.put("/marks/rounding", status_code=204)
def set_rounding(given: schemas.Rounding, scope: Teaching) -> None:
    """Says what totals are rounded to."""
    adjustments.set_step(scope, given.step)


@router.post("/marks/adjustments", status_code=201)
def adjust(given: schemas.ToAdjust, scope: Teaching) -> schemas.Asking:
    """Gives an extra mark, or excuses a learner from an exercise."""
    number = adjustments.adjust(
        scope, given.learner, given.sheet, points=given.points, excused=given.excused,
        reason=given.reason,
    )  # fmt: skip
    return schemas.Asking(id=number)


@router.delete("/marks/adjustments/{adjustment_id}", status_code=204)
def take_adjustment_back(adjustment_id: Number, scope: Teaching) -> None:
    """Takes an extra mark or an excuse back."""
    adjustments.take_back(scope, adjustment_id)


@router.post("/sheets/{slug}/publish", status_code=204)
def publish(slug: Slug, given: schemas.ToPublish, scope: Teaching) -> None:
    """Tells learners the marks and comments of a sheet from now on."""
    publishing.publish(scope, slug, anyway=given.anyway)


@router.post("/sheets/{slug}/unpublish", status_code=204)
def unpublish(slug: Slug, scope: Teaching) -> None:
    """Hides the marks and comments of a sheet again."""
    publishing.take_back(scope, slug)


@router.get("/sheets/{slug}/feedback")
def feedback_pages(
    slug: Slug, scope: Teaching, learner: Number | None = None
) -> list[FeedbackPage]:
    """What learners are told, or will be, about a sheet."""
    return feedback.feedback_pages(scope, slug, learner)


@router.get("/needs")
def what_waits(scope: Teaching) -> list[Need]:
    """What needs an instructor."""
    return needs.needs(scope)


@router.get("/needs/trials")
def failing_trials(scope: Teaching) -> list[Need]:
    """The exercises of which a trial does not hold."""
    return needs.failing_trials(scope)
