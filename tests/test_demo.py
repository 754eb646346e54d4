"""What the demo says of itself is so: every number in a prompt, and every answer's verdict."""

from __future__ import annotations

import csv
import re
from typing import Final

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.packs.reading import Pack, opened_pack
from jentrow.core.results import ResultSet
from tests.demo_course import DEMO

_WORDS: Final = {
    word: number
    for number, word in enumerate(
        ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"]
    )
    if number > 1
}
_NUMBER: Final = re.compile(rf"\b(?:\d[\d,]*(?:\.\d+)?|{'|'.join(_WORDS)})\b", re.IGNORECASE)

# What a prompt says of the rows themselves: a query for it, on the open dataset.
CLAIMS: Final = {
    ("17-rising-water", 8): (
        "SELECT COUNT(*) FROM readings WHERE sensor_id = 1 AND taken_at LIKE '2026-03-01 %'"
    ),
}
# Numbers that a reference says in another way: 39 is the last below 40, a day is a text.
SAID_OTHERWISE: Final = {
    ("04-hut-sizes", 39): "beds < 40",
    ("17-rising-water", 2026): "'2026-03-01'",
}


@pytest.fixture(scope="module")
def pack() -> Pack:
    with opened_pack(DEMO) as pack:
        return pack


def numbers_in(text: str) -> list[float]:
    found = [one.group().lower().replace(",", "") for one in _NUMBER.finditer(text)]
    return [_WORDS[one] if one in _WORDS else float(one) for one in found]


def test_every_number_in_a_prompt_is_so(pack: Pack, engine: SQLiteEngine) -> None:
    looked_at = set()
    for exercise in pack.exercises:
        dataset = engine.load(pack.samples[exercise.sample].open)
        for number in numbers_in(exercise.prompt):
            key = (exercise.id, int(number))
            if key in CLAIMS:
                outcome = engine.run(dataset, CLAIMS[key], Limits())
                assert isinstance(outcome, ResultSet)
                assert outcome.rows[0][0] == number, (exercise.id, number)
            elif key in SAID_OTHERWISE:
                assert SAID_OTHERWISE[key] in exercise.reference
            else:
                assert number in numbers_in(exercise.reference), (exercise.id, number)
            looked_at.add(key)
    assert looked_at >= {*CLAIMS, *SAID_OTHERWISE}
    assert len(looked_at) > 10


def test_every_answer_of_the_demo_has_the_verdict_that_it_ought_to_get(
    pack: Pack, engine: SQLiteEngine
) -> None:
    with (DEMO / "answers.csv").open(encoding="utf-8", newline="") as file:
        answers = list(csv.DictReader(file))
    for exercise in pack.exercises:
        grader = Grader(engine, exercise, pack.samples[exercise.sample])
        ours = [one for one in answers if one["exercise"] == exercise.id]
        for at, outcome in grader.grade_many([one["sql"] for one in ours]):
            assert outcome.standing == ours[at]["verdict"], (exercise.id, ours[at]["sql"])
