"""Where the grading of a course stands, as its pages are told."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class QueueState:
    """Where the grading of a course stands.

    ``done`` of ``total`` since nothing was left to do. ``blocked`` submissions wait for their
    exercise to be mended, or to be looked at. ``graded`` counts all gradings since the server
    started, and ``news`` what people did to marks (``news_of_learners``: and told them), so that a
    page knows when to look again. ``paused`` says that the course's grading is stopped, ``stopped``
    that an administrator has stopped everybody's.
    """

    waiting: int = 0
    blocked: int = 0
    done: int = 0
    total: int = 0
    graded: int = 0
    news: int = 0
    news_of_learners: int = 0
    paused: bool = False
    stopped: bool = False
    exercise: str = ""

    @property
    def ready(self) -> int:
        """How many wait and can be graded."""
        return self.waiting - self.blocked
