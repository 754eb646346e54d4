"""FOR XML PATH('') with one value that has no name: T-SQL's old way to join the texts of several rows.

Source: the reference of Transact-SQL, FOR XML, PATH mode.
"""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import called

_WITHOUT_NAME: Final = "TEXT()"
"""What a column is called whose values get no tags around them."""

_WHOLE: Final = frozenset({".", "text()[1]", "(./text())[1]", "(text())[1]", "./text()[1]"})
"""The paths of value() that mean all of the text."""

_ESCAPED: Final = (("&", "&amp;"), ("<", "&lt;"), (">", "&gt;"))

_PARTS: Final = frozenset({"expressions", "from_", "joins", "laterals", "where", "order", "for_"})
"""The parts of a query whose rows are joined one after the other."""

_NO_METHOD: Final = "Methods of XML are kept only where value() reads the text of FOR XML PATH('')."


def is_kept(select: exp.Select) -> bool:
    """Whether all that FOR XML says of a query is that its texts are joined."""
    how = select.args["for_"]
    said = [one.this for one in how.expressions]
    paths = [one for one in said if isinstance(one, exp.XMLKeyValueOption)]
    others = {one.name.upper() for one in said if not isinstance(one, exp.XMLKeyValueOption)}
    if str(how.args.get("kind")).upper() != "XML":
        return False
    if len(paths) != 1 or paths[0].name.upper() != "PATH" or not _is_empty(paths[0].expression):
        return False
    if others != ({"TYPE"} if _reader(select) is not None else set()):
        return False
    parts = {part for part, held in select.args.items() if held}
    if not parts <= _PARTS or len(select.selects) != 1:
        return False
    (value,) = select.selects
    if isinstance(value, exp.Alias):
        return value.alias.upper() == _WITHOUT_NAME
    return not isinstance(value, exp.Column | exp.Star | exp.Dot)


def _is_empty(text: exp.Expr | None) -> bool:
    return isinstance(text, exp.Literal) and text.is_string and not text.name


def _reader(select: exp.Select) -> exp.Dot | None:
    """The call of value() that reads a query's XML as a text of any length; None where there is none."""
    query = select.parent
    dot = query.parent if isinstance(query, exp.Subquery) else None
    if not isinstance(dot, exp.Dot) or not isinstance(dot.expression, exp.Anonymous):
        return None
    call = dot.expression
    path, type = [one.name for one in call.expressions] if len(call.expressions) == 2 else ("", "")
    is_text = type.upper().replace(" ", "") in ("VARCHAR(MAX)", "NVARCHAR(MAX)")
    return dot if call.name.upper() == "VALUE" and path in _WHOLE and is_text else None


def texts_joined_by_xml(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Makes one text of the rows, as STRING_AGG does; letters with a meaning in XML are written out."""
    for select in list(tree.find_all(exp.Select)):
        if select.args.get("for_") is None or not is_kept(select):
            continue
        reader = _reader(select)
        for dot in list(select.find_all(exp.Dot)) if reader is not None else ():
            if isinstance(dot.this, exp.Identifier) and isinstance(dot.expression, exp.Identifier):
                dot.replace(exp.Column(this=dot.expression.copy(), table=dot.this.copy()))
        text = select.selects[0].unalias()
        for letter, written in () if reader is not None else _ESCAPED:
            text = called("REPLACE", text, letter, written)
        order = select.args.get("order")
        rows = exp.Order(this=text, expressions=order.expressions) if order is not None else text
        joined = exp.GroupConcat(this=rows, separator=exp.Literal.string(""))
        select.set("expressions", [joined])
        select.set("order", None)
        select.set("for_", None)
        if reader is not None:
            reader.replace(reader.this)
    if any(map(_is_method, tree.find_all(exp.Dot))):
        notes.append(_NO_METHOD)
    return tree


def _is_method(dot: exp.Dot) -> bool:
    """Whether a function of a value is called, and not one of a schema's: ``dbo.f(x)``."""
    call = dot.expression
    is_of_a_schema = isinstance(dot.this, exp.Identifier) and call.name.upper() != "VALUE"
    return isinstance(call, exp.Func) and not is_of_a_schema
