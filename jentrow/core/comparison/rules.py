"""The comparison rules: what counts as the same result, as the instructor chose it."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Annotated, Any, Literal, TypeAlias

from annotated_types import Ge

ColumnOrder: TypeAlias = Literal["as_given", "any"]
ColumnNames: TypeAlias = Literal["ignore", "caseless", "exact"]
ExtraColumns: TypeAlias = Literal["refuse", "allow"]
NullEquals: TypeAlias = Literal["nothing", "empty_text", "zero"]
ValueTypes: TypeAlias = Literal["family", "strict", "printed"]
TextCase: TypeAlias = Literal["exact", "ignore"]
TextSpace: TypeAlias = Literal["exact", "trim", "collapse"]
Duplicates: TypeAlias = Literal["count", "ignore"]
RowOrder: TypeAlias = Literal["auto", "ignore", "required", "as_listed"]
OrderCase: TypeAlias = Literal["exact", "ignore"]
LikeCase: TypeAlias = Literal["engine", "exact"]


@dataclass(frozen=True, slots=True)
class NumberTolerance:
    """How far two numbers may lie apart; either bound suffices.

    ``relative`` is measured against the larger magnitude of the two.
    """

    absolute: Annotated[float, Ge(0)] = 0.0
    relative: Annotated[float, Ge(0)] = 0.0


@dataclass(frozen=True, slots=True)
class ComparisonRules:
    """One value for each rule; the defaults are those of a plain exercise."""

    extra_columns: ExtraColumns = "refuse"
    column_order: ColumnOrder = "as_given"
    column_names: ColumnNames = "ignore"
    null_equals: NullEquals = "nothing"
    number_tolerance: NumberTolerance | None = None
    text_case: TextCase = "exact"
    text_space: TextSpace = "exact"
    value_types: ValueTypes = "family"
    duplicates: Duplicates = "count"
    row_order: RowOrder = "auto"
    order_case: OrderCase = "exact"
    like_case: LikeCase = "engine"

    def to_mapping(self) -> dict[str, Any]:
        """The rules that differ from the defaults, as they stand in a pack."""
        out: dict[str, Any] = {}
        for rule in fields(self):
            value = getattr(self, rule.name)
            if value == rule.default:
                continue
            out[rule.name] = (
                {"absolute": value.absolute, "relative": value.relative}
                if isinstance(value, NumberTolerance)
                else value
            )
        return out
