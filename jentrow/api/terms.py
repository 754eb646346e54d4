"""Prints the closed sets that the pages show, with their words, as the front end's TypeScript."""

from __future__ import annotations

import json
from typing import Any, Final

from jentrow.core.comparison.findings import FINDING_WORDS
from jentrow.core.comparison.rulewords import RULE_WORDS
from jentrow.core.engines.limits import Limits
from jentrow.core.exercises.markscheme import PART_WORDS, USUAL_WEIGHTS
from jentrow.core.exercises.sheets import COUNTING_WORDS
from jentrow.core.marks.totals import STEPS
from jentrow.core.samples.making.csvguess import DELIMITERS, ENCODINGS
from jentrow.core.samples.schema.coltypes import DDL_NAMES, TYPE_WORDS
from jentrow.core.samples.schema.enumerations import ENUMERATION
from jentrow.core.sql.layout import LAYOUT_WORDS
from jentrow.services.marking.gradebook import SIGNS

_HEAD: Final = (
    "/** The closed sets of the core with their words: made by `make format`, not by hand. */\n"
)


def document() -> str:
    """The module as text."""
    usual = Limits()
    sets: dict[str, Any] = {
        "FINDING_WORDS": FINDING_WORDS,
        "RULES": [
            {
                "name": name,
                "title": rule.title,
                "choices": [{"value": value, "says": says} for value, says in rule.choices.items()],
            }
            for name, rule in RULE_WORDS.items()
        ],
        "LIMITS": {
            name: getattr(usual, name) for name in ("seconds", "rows", "memory_mb", "cell_kb")
        },
        "LAYOUT_RULES": [
            {"name": name, "says": says}
            for name, says in LAYOUT_WORDS.items()
            if name != "keyword_case"  # which is no switch: it says which case
        ],
        "PARTS": [
            {"name": name, "says": says, "usual": USUAL_WEIGHTS[name]}
            for name, says in PART_WORDS.items()
        ],
        "COUNTING": [{"value": value, "says": says} for value, says in COUNTING_WORDS.items()],
        "MARK_SIGNS": SIGNS,
        "MARK_STEPS": STEPS,
        "TYPES": {
            name: {"declared": DDL_NAMES[name], "says": says} for name, says in TYPE_WORDS.items()
        },
        "ENUMERATION": ENUMERATION,
        "DELIMITERS": [{"value": value, "says": says} for value, says in DELIMITERS.items()],
        "ENCODINGS": ENCODINGS,
    }
    lines = [
        f"export const {name} = {_typescript(value)} as const;" for name, value in sets.items()
    ]
    return _HEAD + "\n" + "\n\n".join(lines) + "\n"


def _typescript(value: Any) -> str:
    return json.dumps(value, indent=2, ensure_ascii=False)


if __name__ == "__main__":
    print(document(), end="")
