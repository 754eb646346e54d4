"""The routers that routes are put on, by who may ask them.

A route says there whom it is for, once and for all: a router that is included in another has each of
its routes worked out a second time, with the first request, which takes as long as importing them all.
"""

from __future__ import annotations

from typing import Any, Final

from fastapi import APIRouter, Depends

from jentrow.api.access import learning, signed_in, teaching
from jentrow.api.refusals import REFUSALS
from jentrow.api.turns import OneTurn

COURSE: Final = "/api/courses/{course}"
DATASET: Final = "/{sample}/datasets/{dataset}"
"""A dataset of a sample, below the samples of a course."""


def open_router() -> APIRouter:
    """A router of what anybody may ask."""
    return _router("/api")


def signed_in_router() -> APIRouter:
    """A router of what anybody may ask who is signed in."""
    return _router("/api", signed_in)


def teaching_router(prefix: str = "") -> APIRouter:
    """A router of what instructors may ask of a course of theirs.

    Asked for here, a route that forgets to ask is not open either.
    """
    return _router(COURSE + prefix, teaching)


def learning_router(prefix: str) -> APIRouter:
    """A router of what learners may ask of a course of theirs."""
    return _router(COURSE + prefix, learning)


def _router(prefix: str, *asked: Any) -> APIRouter:
    return APIRouter(
        prefix=prefix,
        dependencies=[Depends(one) for one in asked],
        route_class=OneTurn,
        responses=REFUSALS,
    )
