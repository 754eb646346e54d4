"""The types that a script declares, in the words that a sample's own declarations use."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Final

import sqlglot
from sqlglot import exp

from jentrow.core.samples.schema.enumerations import ENUMERATION, condition_of
from jentrow.core.sql.parser_failures import PARSER_FAILURES

_TYPES: Final[dict[str, str]] = {
    name: declared
    for declared, names in {
        "INTEGER": (
            "INT BIGINT SMALLINT TINYINT MEDIUMINT SERIAL BIGSERIAL SMALLSERIAL UINT USMALLINT "
            "UTINYINT UMEDIUMINT YEAR"
        ),
        "DECIMAL": "DECIMAL BIGDECIMAL UDECIMAL DECFLOAT",
        "DECIMAL(19,4)": "MONEY",
        "DECIMAL(10,4)": "SMALLMONEY",
        "DOUBLE PRECISION": "DOUBLE FLOAT UDOUBLE",
        "VARCHAR": "VARCHAR NVARCHAR",
        "CHAR": "CHAR NCHAR BPCHAR",
        "TEXT": "TEXT MEDIUMTEXT LONGTEXT TINYTEXT NAME XML",
        "DATE": "DATE DATE32",
        "TIME": "TIME",
        "TIMESTAMP": (
            "TIMESTAMP TIMESTAMPNTZ DATETIME DATETIME2 SMALLDATETIME TIMESTAMP_S TIMESTAMP_MS "
            "TIMESTAMP_NS"
        ),
        "TIMESTAMP WITH TIME ZONE": "TIMESTAMPTZ TIMESTAMPLTZ",
        "INTERVAL": "INTERVAL",
        "BOOLEAN": "BOOLEAN",
        "BLOB": "BINARY VARBINARY BLOB LONGBLOB MEDIUMBLOB TINYBLOB RAW",
        "UUID": "UUID",
        "JSON": "JSON JSONB",
    }.items()
    for name in names.split()
}
"""Declarations by the parser's names of types."""

_WIDE: Final = frozenset({"UBIGINT", "INT128", "UINT128", "INT256", "UINT256"})
"""Whole numbers larger than a sample's file can hold; there they become approximate."""

_SIZED: Final = frozenset({"DECIMAL", "VARCHAR", "CHAR"})
_ENUM: Final = re.compile(
    r"CREATE\s+TYPE\s+(?P<name>[\w.\"]+)\s+AS\s+ENUM\s*\((?P<values>.*)\)\Z",
    re.IGNORECASE | re.DOTALL,
)
_DOMAIN: Final = re.compile(
    r"CREATE\s+(?:DOMAIN\s+(?P<name>[\w.\"]+)\s+(?:AS\s+)?|TYPE\s+(?P<alias>[\w.\"\[\]]+)\s+FROM\s+)"
    r"(?P<rest>.+)",
    re.IGNORECASE | re.DOTALL,
)
"""A type that is another one under a name of its own; T-SQL makes it FROM that."""


_FIELD: Final = r"(?:YEAR|MONTH|DAY|HOUR|MINUTE|SECOND)(?:\s*\(\s*\d+\s*\))?"
_UNREAD: Final = (
    (re.compile(rf"\bINTERVAL\s+{_FIELD}(?:\s+TO\s+{_FIELD})?", re.IGNORECASE), "INTERVAL"),
    (re.compile(r"\)\s*(?:VIRTUAL|PERSISTENT)\b", re.IGNORECASE), ")"),
    (re.compile(r"\bBIT\s+VARYING\b(?:\s*\(\s*\d+\s*\))?", re.IGNORECASE), "TEXT"),
    (re.compile(r"\b(?:VAR)?CHAR\w*\s*\(\s*\d+\s*\)\s+FOR\s+BIT\s+DATA\b", re.IGNORECASE), "BLOB"),
    (re.compile(r"\b((?:CLOB|BLOB|DBCLOB))\s*\(\s*\d+\s*[KMG]\s*\)", re.IGNORECASE), r"\1"),
    (re.compile(r"\b(?:VAR)?GRAPHIC\s*\(\s*(\d+)\s*\)", re.IGNORECASE), r"VARCHAR(\1)"),
)
"""Types and computed columns that the parser cannot read, and what it can read instead."""


def simpler_types(statement: str) -> str:
    """A statement that the parser could not read, with types that it knows."""
    for pattern, simpler in _UNREAD:
        statement = pattern.sub(simpler, statement)
    return statement


@dataclass(frozen=True, slots=True)
class Declared:
    """A column's declaration, and what else a type of the script's own says of its values.

    ``checks`` are conditions with the column's name; ``default`` is an expression. ``known`` is
    false where the type is read as another for want of the like.
    """

    type: str
    checks: tuple[str, ...] = ()
    not_null: bool = False
    default: str | None = None
    known: bool = True


@dataclass
class ScriptTypes:
    """The types of a script in a dialect: the engine's, and those that the script makes."""

    dialect: str
    _enums: dict[str, tuple[str, ...]] = field(default_factory=dict)
    _domains: dict[str, exp.ColumnDef] = field(default_factory=dict)

    def add(self, text: str) -> bool:
        """Takes over a type that a statement makes; false where it makes none."""
        text = text.strip().rstrip(";").rstrip()
        if found := _ENUM.match(text):
            # PostgreSQL's way of making one, whichever engine has taken it over.
            made = self._read(f"CREATE TABLE t (value ENUM({found['values']}))", "mysql")
            kind = made.find(exp.DataType) if made else None
            if kind is not None:
                self._enums[_last_name(found["name"])] = _literals(kind)
                return True
            return False
        found = _DOMAIN.match(text)
        if found is None:
            return False
        made = self._read(f"CREATE TABLE t (value {found['rest']})", self.dialect)
        column = made.find(exp.ColumnDef) if made else None
        if column is None:
            return False
        self._domains[_last_name(found["name"] or found["alias"])] = column
        return True

    def _read(self, sql: str, dialect: str) -> exp.Expr | None:
        try:
            return sqlglot.parse_one(sql, read=dialect)
        except PARSER_FAILURES:
            return None

    def declared(self, kind: object, column: str) -> Declared:
        """What the type of a column comes to; ``column`` is its name."""
        if not isinstance(kind, exp.DataType):
            return Declared("")
        name = _name_of(kind)
        sizes = [one.this.sql() for one in kind.expressions if isinstance(one, exp.DataTypeParam)]
        if name == "ARRAY":
            items = self.declared(kind.expressions[0] if kind.expressions else None, column)
            return Declared(f"{items.type or 'TEXT'}[]", known=items.known)
        if name == "TINYINT" and sizes == ["1"]:
            return Declared("BOOLEAN")
        if name.startswith("ENUM"):
            return Declared(ENUMERATION, (condition_of(column, _literals(kind)),))
        if name == "BIT":
            return Declared(self._of_bits(sizes))
        if name in ("STRUCT", "MAP", "OBJECT", "UNION"):
            return Declared("JSON", known=False)
        if name == "USERDEFINED":
            return self._made_by_script(_last_name(kind.sql().partition("(")[0]), column)
        declared = _TYPES.get(name)
        if name in _WIDE:
            return Declared("INTEGER", known=False)
        if name == "TIMESTAMPTZ" and self.dialect == "mysql":
            declared = "TIMESTAMP"  # its zone is the session's: it is stored and shown without one
        if declared is None:
            return Declared("TEXT", known=False)
        # DECFLOAT(16) has so many digits, wherever its point is.
        sized = (
            declared in _SIZED
            and name != "DECFLOAT"
            and sizes
            and all(one.isdigit() for one in sizes)
        )
        return Declared(declared + (f"({','.join(sizes)})" if sized else ""))

    def _of_bits(self, sizes: list[str]) -> str:
        """Bits are truths where there is one, numbers in MySQL, and texts of 0 and 1 elsewhere."""
        if self.dialect == "tsql" or (sizes in ([], ["1"]) and self.dialect == "mysql"):
            return "BOOLEAN"
        return "INTEGER" if self.dialect == "mysql" else "TEXT"

    def _made_by_script(self, name: str, column: str) -> Declared:
        if name in self._enums:
            return Declared(ENUMERATION, (condition_of(column, self._enums[name]),))
        if name.upper() in _TYPES:
            return Declared(_TYPES[name.upper()])
        domain = self._domains.get(name)
        if domain is None:
            return Declared("TEXT", known=False)
        base = self.declared(domain.args.get("kind"), column)
        checks, not_null, default = list(base.checks), base.not_null, base.default
        for constraint in domain.args.get("constraints") or ():
            match constraint.kind:
                case exp.NotNullColumnConstraint():
                    not_null = not constraint.kind.args.get("allow_null")
                case exp.DefaultColumnConstraint():
                    default = constraint.kind.this.sql(dialect="sqlite")
                case exp.CheckColumnConstraint():
                    checks.append(_about(constraint.kind.this.copy(), column))
        return Declared(base.type, tuple(checks), not_null, default, base.known)


def _about(condition: exp.Expr, column: str) -> str:
    """A domain's condition on VALUE as one on a column."""
    for node in list(condition.find_all(exp.Column, exp.Var)):
        if node.name.upper() == "VALUE":
            named = exp.column(column, quoted=True)
            if node is condition:
                condition = named
            else:
                node.replace(named)
    return condition.sql(dialect="sqlite")


def _literals(kind: exp.DataType) -> tuple[str, ...]:
    """The values of an ENUM, as SQL writes them."""
    return tuple(one.sql(dialect="sqlite") for one in kind.expressions)


def _name_of(kind: exp.DataType) -> str:
    if isinstance(kind.this, exp.Interval):
        return "INTERVAL"
    return str(kind.this.name if hasattr(kind.this, "name") else kind.this)


def _last_name(written: str) -> str:
    """The name of a type without its schema, in small letters."""
    return written.rpartition(".")[2].strip('"[]').lower()
