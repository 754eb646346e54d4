"""What the routes about packs take and answer with."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from jentrow.api.making_schemas import Import
from jentrow.api.schemas import Given, View
from jentrow.services.exercises.version_history import FileDifference

Choice = Literal["theirs", "ours", "both"]


class PackItem(View):
    """A thing of a pack against what is here."""

    id: str
    title: str
    state: Literal["new", "same", "changed", "conflict"]
    differing: list[str]
    differences: list[FileDifference]
    usual: Choice


class PackPreview(View):
    """What taking a pack in would do."""

    title: str
    licence: str
    samples: list[PackItem]
    exercises: list[PackItem]
    sheets: list[PackItem]


class PackImport(View):
    """An import of a pack: where it stands, and what it would do."""

    state: Import
    preview: PackPreview | None


class PackChoices(Given):
    """What is chosen for each thing of a pack; what is not named goes its usual way."""

    samples: dict[str, Choice] = Field(default_factory=dict)
    exercises: dict[str, Choice] = Field(default_factory=dict)
    sheets: dict[str, Choice] = Field(default_factory=dict)
