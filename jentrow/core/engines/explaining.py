"""What an engine's rejection means, in a learner's words, with the place in the text."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache, partial
from importlib import import_module
from typing import Final

from jentrow.core.engines.labels import DIALECTS, STAND_INS
from jentrow.core.engines.rejections.rejected import Explanation
from jentrow.core.sql.invisible import invisible_character
from jentrow.core.sql.script_words import script_words
from jentrow.core.sql.sources import Catalogue
from jentrow.core.sql.text import Place, place_at, place_of_text

_Explained = Callable[[str, str, int | None, str, Catalogue], Explanation]

_STOOD_ON: Final = "duckdb"
"""What stands in for another engine says what it rejects in this one's words."""


@cache
def _explained(engine: str) -> _Explained:
    """What reads an engine's words: its own message, a detail, where it points, the text.

    Loaded when an engine first rejects something.
    """
    own = _STOOD_ON if engine in STAND_INS else engine
    found: Callable[..., Explanation] = import_module(f"jentrow.core.engines.{own}.words").explained
    return partial(found, engine=engine) if engine in STAND_INS else found


def explain(
    engine: str, words: str, index: int, sql: str, catalogue: Catalogue, detail: str = ""
) -> tuple[Explanation, Place | None]:
    """What an engine's words mean, and where in the text they point.

    ``index`` is where in the text the engine points, or −1 where it gives none; ``detail`` is what
    it says beside its words, such as a code.
    """
    at = index if index >= 0 else None
    explanation = _explained(engine)(words, detail, at, sql, catalogue)
    hidden = invisible_character(sql, DIALECTS[engine])
    if hidden is not None and explanation.code != "sql.runtime":
        # No word that anybody means holds such a character: it was pasted, and the rest follows.
        return Explanation(explanation.code, hidden.message, sql[hidden.index]), hidden.place
    around = script_words(sql, DIALECTS[engine]) if explanation.code == "sql.syntax" else None
    if around is not None:
        return Explanation(explanation.code, around.message, around.near), around.place
    at = at if explanation.index is None else explanation.index
    if at is not None:
        return explanation, place_at(sql, at)
    return explanation, place_of_text(sql, explanation.near) if explanation.near else None
