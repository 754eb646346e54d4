"""The function of the stand-in's that writes a number by a format.

See :class:`jentrow.core.sql.stand_ins.number_formats.NumberFormat` for what its parts mean. A number of
which nobody can tell here how it is rounded or written has no text: it lies half-way as far as a
float can tell, has more digits than one, is zero with the sign of what it was rounded from, or
zero by a format that shows no digit of it.
"""

from __future__ import annotations

from typing import Final

from jentrow.core.sql.stand_ins.functions import UNKNOWN_TEXT, failing

_FAILS: Final = failing(UNKNOWN_TEXT, "VARCHAR").sql("duckdb")

_HALF_WAY: Final = (
    "typeof(x) = 'DOUBLE' AND abs(abs(x) * 10 ** places % 1 - 0.5) < 1e-6 AND abs(x) < 1e15"
)

# The digits of the rounded number, before its point and behind it.
_WHOLE: Final = "split_part(digits, '.', 1)"
_PLACES: Final = "split_part(digits, '.', 2)"

NUMBER_FUNCTIONS: Final = (
    "CREATE MACRO jentrow_whole_digits(digits, places, zeros) AS CASE "
    f"WHEN zeros > 1 THEN lpad({_WHOLE}, CAST(greatest(zeros, length({_WHOLE})) AS INTEGER), '0') "
    f"WHEN zeros = 0 AND places > 0 AND {_WHOLE} = '0' THEN '' ELSE {_WHOLE} END",
    "CREATE MACRO jentrow_places(digits, places, least) AS CASE WHEN places = 0 THEN '' ELSE "
    f"'.' || substr({_PLACES}, 1, least) || rtrim(substr({_PLACES}, least + 1), '0') END",
    "CREATE MACRO jentrow_number(x, pattern, places, least, zeros, most, sign, unit, width, overflow) AS "
    "list_transform([round(x, places)], lambda r: CASE WHEN r IS NULL THEN NULL "
    f"WHEN abs(r) >= 1e15 OR (r = 0 AND x < 0) OR ({_HALF_WAY}) THEN {_FAILS} "
    "ELSE list_transform([format(pattern, CAST(abs(r) AS DOUBLE))], lambda digits: "
    "list_transform([jentrow_whole_digits(digits, places, zeros)], lambda whole: CASE "
    "WHEN most > 0 AND length(replace(whole, ',', '')) > most THEN repeat(overflow, width) "
    f"WHEN r = 0 AND whole = '' AND least = 0 THEN {_FAILS} "
    "ELSE list_transform([(CASE WHEN r < 0 THEN '-' ELSE sign END) || unit || whole || "
    "jentrow_places(digits, places, least)], lambda made: CASE "
    # What is longer than its place is shortened by rules of its own.
    f"WHEN width > 0 AND overflow = '*' AND length(made) > width THEN {_FAILS} "
    "WHEN sign = ' ' OR overflow = '*' THEN lpad(made, CAST(greatest(width, length(made)) AS INTEGER), ' ') "
    "ELSE made END)[1] END)[1])[1] END)[1]",
)
