"""What is kept of outcomes: a grading each, unless a submission's last one says the very same."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.orm import Session

from jentrow.core.exercises.grading.outcomes import Outcome
from jentrow.core.exercises.outcome_groups import codes_of, group_of
from jentrow.records.decisions import join_groups
from jentrow.records.submissions import keep_gradings, standing_gradings
from jentrow.services.runtime.graders import MadeWith


def keep_outcomes(
    session: Session,
    exercise_id: int,
    version: int,
    made_with: MadeWith,
    outcomes: Mapping[int, Outcome],
) -> list[int]:
    """Keeps outcomes by their submissions' numbers; gives the learners, once for each submission."""
    alive = standing_gradings(session, list(outcomes))
    now = datetime.now(UTC)
    # Equal texts have one outcome between them.
    told: dict[int, dict[str, Any]] = {}
    new: dict[Hashable, tuple[list[int], dict[str, Any]]] = {}
    for submission, (_, before) in alive.items():
        outcome = outcomes[submission]
        values = told.get(id(outcome))
        if values is None:
            values = told[id(outcome)] = grading_values(outcome, version, made_with)
        wording = ""
        if before is not None:
            if all(getattr(before, name) == values[name] for name in values):
                continue
            # What is not explained yet is read for it, with its wording.
            if outcome.explained and before.engine == values["engine"]:
                wording = before.wording
        same = new.get((id(outcome), wording))
        if same is None:
            graded = {"graded_at": now, "wording": wording, "explained": outcome.explained}
            same = new[id(outcome), wording] = ([], graded | values)
        same[0].append(submission)
    keep_gradings(session, new.values())
    join_groups(session, exercise_id, [id for ids, _ in new.values() for id in ids])
    return [learner for learner, _ in alive.values()]


def found_values(outcome: Outcome) -> dict[str, Any]:
    """What is kept of what was found."""
    return {
        "findings": [finding.to_json() for finding in outcome.findings],
        "codes": " ".join(codes_of(outcome)),
    }


def grading_values(outcome: Outcome, version: int, made_with: MadeWith) -> dict[str, Any]:
    """What is kept of an outcome."""
    return {
        "verdict": outcome.verdict,
        "mark": outcome.mark,
        "answer": outcome.answer,
        "ledger": [line.to_json() for line in outcome.ledger],
        "undecided": outcome.undecided,
        "engine": made_with.engine,
        "exercise_version": version,
        "dataset_versions": dict(made_with.datasets),
        "measure": made_with.measure,
        "outcome": group_of(outcome),
        **found_values(outcome),
        "datasets": [
            {
                "dataset": one.dataset,
                "is_open": one.is_open,
                "verdict": one.standing,
                "expected_rows": one.expected.row_count if one.given else None,
                "given_rows": one.given.row_count if one.given else None,
                "digest": one.digest,
            }
            for one in outcome.datasets
        ],
    }
