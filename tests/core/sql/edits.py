"""Tables for trying edits: a cooperative of huts."""

from jentrow.core.sql.edits.facts import ColumnFacts, KeyFacts, TableFacts, tables_by_name

_HUTS = TableFacts(
    "huts",
    (
        ColumnFacts("hut_id", "number", nullable=False),
        ColumnFacts("name", "text", nullable=False),
        ColumnFacts("region", "text", nullable=False, values=("'North'", "'South'")),
        ColumnFacts("altitude_m", "number", nullable=False),
        ColumnFacts("beds", "number", nullable=False),
    ),
    ("hut_id",),
)
_STAYS = TableFacts(
    "stays",
    (
        ColumnFacts("stay_id", "number", nullable=False),
        ColumnFacts("hut_id", "number", nullable=False),
        ColumnFacts("guest", "text", nullable=False),
        ColumnFacts("arrival", "date", nullable=False),
        ColumnFacts("nights", "number", nullable=False),
        ColumnFacts("meal_plan", "text", nullable=True),
        ColumnFacts("paid_on", "date", nullable=True),
    ),
    ("stay_id",),
    (KeyFacts(("hut_id",), "huts", ("hut_id",)),),
)
_WARDENS = TableFacts(
    "wardens",
    (
        ColumnFacts("warden_id", "number", nullable=False),
        ColumnFacts("full_name", "text", nullable=False),
        ColumnFacts("hut_id", "number", nullable=True),
        ColumnFacts("mentor_id", "number", nullable=True),
    ),
    ("warden_id",),
    (KeyFacts(("hut_id",), "huts", ("hut_id",)),),
)
TABLES = tables_by_name([_HUTS, _STAYS, _WARDENS])
