"""The pages say what docs/words.md says."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
PAGES = sorted((ROOT / "frontend" / "src").rglob("*.vue"))


def refused() -> list[str]:
    rows = re.findall(
        r"^\| .* \| (?!the word).* \| (.*) \|$", (ROOT / "docs" / "words.md").read_text(), re.M
    )
    return [word.strip() for row in rows for word in row.split(",") if word != "not"]


def words_of(page: str) -> str:
    """What a page says: the text between its tags, and its keys' words."""
    template = page.partition("<template>")[2].rpartition("</template>")[0]
    said = re.findall(r">([^<]+)<", template) + re.findall(r"says: \"([^\"]+)\"", page)
    said += re.findall(r" (?:label|title|placeholder|words)=\"([^\"]+)\"", template)
    return " ".join(" ".join(said).split())


def test_the_list_is_read() -> None:
    assert {"Keep", "take answers in", "put away", "Leave it"} <= set(refused())


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_a_page_says_the_common_words(page: Path) -> None:
    said = words_of(page.read_text(encoding="utf-8"))
    found = [word for word in refused() if re.search(rf"\b{re.escape(word)}\b", said)]
    assert not found, said
