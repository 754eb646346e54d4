"""Numbers as texts by a format: TO_CHAR of Oracle, FORMAT and STR of T-SQL.

A format is read here, and a function of the stand-in's, ``jentrow_number``, makes the text of it
(see :mod:`jentrow.core.engines.dialects.number_texts`). Sources: *Format Models* in Oracle's SQL
language reference 19c; *Standard* and *Custom numeric format strings* of .NET, which FORMAT follows.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import called

NO_NUMBER_FORMAT: Final = "This format of a number has no counterpart."


@dataclass(frozen=True, slots=True)
class NumberFormat:
    """How a number is written.

    ``places`` behind the point, of which ``least`` stay where they are zeros; ``zeros`` digits
    before it at least, ``most`` at most (0: any); a comma between thousands if ``grouped``; ``sign``
    is what a number that is not below zero begins with, ``unit`` what stands before its digits. It
    is filled with blanks up to ``width`` letters; a number that has too many digits is that many
    of the letter ``overflow``.
    """

    places: int = 0
    least: int = 0
    zeros: int = 0
    most: int = 0
    grouped: bool = False
    sign: str = ""
    unit: str = ""
    width: int = 0
    overflow: str = "#"

    def text_of(self, number: exp.Expr) -> exp.Expr:
        """The call that makes a number's text."""
        pattern = f"{{:{',' if self.grouped else ''}.{self.places}f}}"
        return called(
            "JENTROW_NUMBER", number, pattern, self.places, self.least, self.zeros, self.most,
            self.sign, self.unit, self.width, self.overflow,
        )  # fmt: skip


_ORACLE: Final = re.compile(
    r"(?P<fill>FM)?(?P<unit>\$)?(?P<whole>[90][90,G]*)(?:(?P<point>[.D])(?P<places>[90]*))?",
    re.IGNORECASE,
)


def oracle_number_format(said: str) -> NumberFormat | None:
    """A format of TO_CHAR for numbers; None where a part of it has no counterpart."""
    found = _ORACLE.fullmatch(said)
    if found is None:
        return None
    whole, places = found["whole"].upper().replace("G", ","), found["places"] or ""
    digits = whole.replace(",", "")
    zeros = len(digits) - digits.index("0") if "0" in digits else 0
    if "," in whole and (not _by_thousands(whole) or zeros > 1):
        return None
    is_filled = found["fill"] is None
    if found["point"] and not places:
        return None
    return NumberFormat(
        places=len(places),
        least=len(places) if is_filled else places.rfind("0") + 1,
        zeros=zeros,
        most=len(digits),
        grouped="," in whole,
        sign=" " if is_filled else "",
        unit=found["unit"] or "",
        # Of the sign, and of every letter of the format.
        width=1 + len(said) - (0 if is_filled else 2),
    )


def _by_thousands(whole: str) -> bool:
    first, *others = whole.split(",")
    return bool(first) and all(len(one) == 3 for one in others)


_STANDARD: Final = re.compile(r"([NF])(\d?)", re.IGNORECASE)
_CUSTOM: Final = re.compile(r"(?P<grouped>#,##)?(?P<zeros>0+)(?:\.(?P<places>0*)(?P<more>#*))?")


def dotnet_number_format(said: str) -> NumberFormat | None:
    """A format of FORMAT for numbers, in English; None where a part of it has no counterpart."""
    standard = _STANDARD.fullmatch(said)
    if standard is not None:
        places = int(standard[2] or 2)
        return NumberFormat(places, places, zeros=1, grouped=standard[1].upper() == "N")
    custom = _CUSTOM.fullmatch(said)
    if custom is None or (custom["grouped"] and len(custom["zeros"]) > 1) or custom["more"]:
        return None
    places = len(custom["places"] or "")
    return NumberFormat(places, places, zeros=len(custom["zeros"]), grouped=bool(custom["grouped"]))


def formatted_numbers(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """FORMAT of a number (T-SQL), by the commonest of the formats; STR."""
    for call in list(tree.find_all(exp.NumberToStr))[::-1]:
        said = call.args["format"]
        format = dotnet_number_format(said.name) if isinstance(said, exp.Literal) else None
        if format is None or call.args.get("culture") is not None:
            notes.append(NO_NUMBER_FORMAT)
        else:
            call.replace(format.text_of(call.this))
    for other in list(tree.find_all(exp.Anonymous))[::-1]:
        if other.name.upper() == "STR" and 1 <= len(other.expressions) <= 3:
            number, *sizes = other.expressions
            if not all(isinstance(one, exp.Literal) and one.is_int for one in sizes):
                notes.append("STR is kept where its sizes are written as numbers.")
                continue
            width, places = [*(int(one.name) for one in sizes), *(10, 0)[len(sizes) :]]
            format = NumberFormat(places, places, 1, width=width, most=width, overflow="*")
            other.replace(format.text_of(number))
    return tree
