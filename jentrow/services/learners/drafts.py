"""What a learner has typed and not handed in."""

from __future__ import annotations

from datetime import datetime

from jentrow.records.models import (
    AnswerDraft,
)
from jentrow.services.learners.places import checked_text, place_of
from jentrow.services.scope import LearnerScope


def keep_draft(own: LearnerScope, sheet: str, slug: str, sql: str) -> datetime:
    """Keeps what a learner has typed; nothing is kept of an empty text."""
    checked_text(sql)
    now = own.runtime.now()
    with own.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
    with own.records.writing() as session:
        draft = session.get(AnswerDraft, (own.learner_id, exercise.id))
        if not sql.strip():
            if draft is not None:
                session.delete(draft)
        elif draft is None:
            session.add(
                AnswerDraft(
                    learner_id=own.learner_id, exercise_id=exercise.id, sql=sql, saved_at=now
                )
            )
        else:
            draft.sql, draft.saved_at = sql, now
    return now
