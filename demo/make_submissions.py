"""Makes learners.csv and submissions.csv of the demo: 36 learners who do not exist.

Their answers are drawn, with a fixed seed, from answers written by hand: the references, accepted
alternatives and trials of the exercises, and what lies in answers.csv. Whoever answers wrongly
usually tries again.

    python demo/make_submissions.py
"""

from __future__ import annotations

import csv
import random
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import yaml

HERE = Path(__file__).resolve().parent
SEED = 2026
NOW = datetime(2026, 11, 23, 9)
"""Nothing was handed in after this."""

NAMES = [
    "Ada Nkemelu", "Amir Sadek", "Bela Kovar", "Birgit Aune", "Chiara Donati", "Daan Verbeek",
    "Edda Lindqvist", "Emre Tosun", "Enzo Caruana", "Farid Haidari", "Greta Pohl", "Hanne Dahl",
    "Ilse Marten", "Ines Okon", "Jonas Feld", "Kaja Zupan", "Leo Amsler", "Lotte Brink",
    "Malik Benali", "Milo Ferrante", "Mirja Saari", "Nela Horak", "Noor Idrissi", "Oskar Lenz",
    "Petra Holub", "Quirin Egger", "Rosa Figueira", "Ruben Tal", "Samir Aziz", "Silja Norden",
    "Tomas Wieland", "Una Byrne", "Viktor Stam", "Wanda Rusin", "Yuki Arai", "Zoe Marchetti",
]  # fmt: skip


def bank(exercise: str) -> tuple[list[str], list[str]]:
    """Right and wrong answers to an exercise."""
    folder = HERE / "exercises" / exercise
    said = yaml.safe_load((folder / "exercise.yaml").read_text())
    right = [(folder / "reference.sql").read_text()]
    right += [path.read_text() for path in sorted((folder / "alternatives").glob("*.sql"))]
    wrong = []
    for name, expected in said["trials"].items():
        verdict = expected["verdict"] if isinstance(expected, dict) else expected
        text = (folder / "trials" / f"{name}.sql").read_text()
        (right if verdict == "correct" else wrong).append(text)
    with (HERE / "answers.csv").open(newline="") as file:
        for row in csv.DictReader(file):
            if row["exercise"] == exercise:
                (right if row["verdict"] == "correct" else wrong).append(row["sql"])
    return right, wrong


def learners() -> list[dict[str, str]]:
    """The roster."""
    found = []
    for at, name in enumerate(NAMES):
        given, family = name.lower().split()
        code = f"alp-{101 + 7 * at}"
        found.append({"learner id": code, "name": name, "e-mail": f"{given}.{family}@example.org"})
    return found


def submissions() -> list[dict[str, Any]]:
    """What everybody handed in, in the order of time."""
    chance = random.Random(SEED)
    sheets = [yaml.safe_load(path.read_text()) for path in sorted((HERE / "sheets").glob("*.yaml"))]
    out = []
    for learner in learners():
        skill = chance.uniform(0.25, 0.9)
        for sheet in sheets:
            opens, closes = (datetime.fromisoformat(str(sheet[end])) for end in ("opens", "closes"))
            if opens >= NOW:
                continue
            # Some are always late; on a sheet that is still open not everybody has come far.
            begun = opens + chance.betavariate(3, 2) * (min(closes, NOW) - opens)
            late = chance.random() < 0.08 and closes < NOW
            at = closes + timedelta(hours=chance.uniform(1, 60)) if late else begun
            ready = 1.0 if closes < NOW else chance.uniform(0.3, 1.1)
            for place, exercise in enumerate(sheet["exercises"]):
                if place >= ready * len(sheet["exercises"]) or chance.random() < 0.05:
                    continue
                right, wrong = bank(exercise)
                for attempt in range(min(sheet.get("attempts", 5), 4)):
                    at += timedelta(minutes=chance.uniform(2, 25))
                    if at >= NOW:
                        break
                    good = chance.random() < skill + 0.12 * attempt
                    sql = chance.choice(right if good else wrong)
                    out.append(
                        {
                            "learner": learner["learner id"], "exercise": exercise, "sql": sql,
                            "submitted_at": at.isoformat(timespec="seconds"),
                        }
                    )  # fmt: skip
                    if good or chance.random() < 0.25:
                        break
    return sorted(out, key=lambda one: (one["submitted_at"], one["learner"]))


def write(name: str, rows: list[dict[str, Any]]) -> None:
    with (HERE / name).open("w", newline="") as file:
        writer = csv.DictWriter(file, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)


if __name__ == "__main__":
    write("learners.csv", learners())
    write("submissions.csv", submissions())
