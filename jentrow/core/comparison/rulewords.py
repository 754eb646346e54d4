"""The comparison rules in plain words: what each is called, and what each of its values says."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class RuleWords:
    """A rule's title and the words of its values, the usual one first."""

    title: str
    choices: dict[str, str]


RULE_WORDS: Final[dict[str, RuleWords]] = {
    "row_order": RuleWords(
        "Row order",
        {
            "auto": "as the reference has it",
            "ignore": "does not count",
            "required": "counts, ties in any order",
            "as_listed": "this very sequence",
        },
    ),
    "order_case": RuleWords(
        "Case in order",
        {
            "exact": "as the engine sorts",
            "ignore": "may be ignored",
        },
    ),
    "like_case": RuleWords(
        "Case in LIKE",
        {
            "engine": "as the engine has it",
            "exact": "counts",
        },
    ),
    "duplicates": RuleWords(
        "Repeated rows",
        {
            "count": "each one counts",
            "ignore": "do not count",
        },
    ),
    "column_order": RuleWords(
        "Column order",
        {
            "as_given": "as in the reference",
            "any": "any",
        },
    ),
    "column_names": RuleWords(
        "Column names",
        {
            "ignore": "not compared",
            "caseless": "compared, in any case",
            "exact": "compared to the letter",
        },
    ),
    "extra_columns": RuleWords(
        "More columns",
        {
            "refuse": "not accepted",
            "allow": "accepted",
        },
    ),
    "null_equals": RuleWords(
        "NULL",
        {
            "nothing": "only equals NULL",
            "empty_text": "equals empty text too",
            "zero": "equals 0 too",
        },
    ),
    "text_case": RuleWords(
        "Letters",
        {
            "exact": "upper and lower differ",
            "ignore": "case does not count",
        },
    ),
    "text_space": RuleWords(
        "Blanks in text",
        {
            "exact": "count",
            "trim": "not at the ends",
            "collapse": "several are one",
        },
    ),
    "value_types": RuleWords(
        "Types",
        {
            "family": "5 = 5.0, 5 is not '5'",
            "strict": "integer and float differ",
            "printed": "compared as printed",
        },
    ),
}
