"""Misspelt keywords: the nearest one by single edits of its letters."""

from __future__ import annotations

from typing import Final

KEYWORDS: Final = tuple(
    """
    SELECT DISTINCT FROM WHERE GROUP ORDER BY HAVING LIMIT OFFSET UNION INTERSECT EXCEPT ALL JOIN INNER LEFT
    RIGHT FULL OUTER CROSS NATURAL ON USING AS AND OR NOT IN IS NULL LIKE BETWEEN EXISTS CASE WHEN THEN ELSE
    END ASC DESC WITH RECURSIVE VALUES OVER PARTITION COLLATE CAST INSERT INTO UPDATE SET DELETE CREATE TABLE
    """.split()  # noqa: SIM905
)
"""The words that queries, and scripts on a private copy, are built of."""


def nearest_keyword(word: str) -> str | None:
    """The keyword that a word most likely is; None where it is one, or like none of them.

    One edit for short words, two for those of six letters and more; an edit is a letter more, less
    or another, or two that changed places (the distance of Damerau and Levenshtein).
    """
    upper = word.upper()
    if upper in KEYWORDS or len(upper) < 3:
        return None
    allowed = 2 if len(upper) >= 6 else 1
    found = [(_distance(upper, one, allowed), one) for one in KEYWORDS if len(one) > 2]
    distance, best = min(found, key=lambda one: (one[0], one[1][0] != upper[0]))
    return best if distance <= allowed else None


def _distance(one: str, other: str, most: int) -> int:
    """How many edits apart two words are; more than ``most`` is all that is known beyond it."""
    if abs(len(one) - len(other)) > most:
        return most + 1
    before: list[int] = []
    row = list(range(len(other) + 1))
    for i, letter in enumerate(one, 1):
        before, above, row = row, before, [i]
        for j, its in enumerate(other, 1):
            cost = min(before[j] + 1, row[j - 1] + 1, before[j - 1] + (letter != its))
            if i > 1 and j > 1 and letter == other[j - 2] and one[i - 2] == its:
                cost = min(cost, above[j - 2] + 1)
            row.append(cost)
    return row[-1]
