"""The lines of two texts woven: nothing lost of either, however much in them is alike."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.services.exercises import version_history
from jentrow.services.exercises.version_history import TextLine, woven_lines

LINES = st.lists(st.sampled_from(["SELECT name", "FROM huts", "WHERE beds > 2", ""]), max_size=12)


def side(lines: list[TextLine], kind: str, text: list[str]) -> list[str]:
    """One of the texts as it can be read off what is woven; what was left out comes from itself."""
    found: list[str] = []
    for line in lines:
        if line.kind == "left_out":
            found += text[len(found) : len(found) + int(line.text.split()[0])]
        elif line.kind in ("both", kind):
            found.append(line.text)
    return found


@pytest.mark.parametrize("most_pairs", [version_history.MOST_PAIRS, 0])
@given(before=LINES, after=LINES)
def test_both_texts_can_be_read_off(most_pairs: int, before: list[str], after: list[str]) -> None:
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(version_history, "MOST_PAIRS", most_pairs)
        lines = woven_lines("\n".join(before), "\n".join(after))
    ours, theirs = "\n".join(before).splitlines(), "\n".join(after).splitlines()
    assert side(lines, "before", ours) == ours
    assert side(lines, "after", theirs) == theirs


def test_ten_thousand_equal_lines_are_no_work() -> None:
    lines = woven_lines("a\n" * 10_000, "a\nb\n" * 5_000)
    assert {line.kind for line in lines} == {"both", "before", "after"}
    assert sum(line.kind != "after" for line in lines) == 10_000
