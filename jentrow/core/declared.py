"""Reading what people wrote (YAML, JSON) into what is declared for it, with every problem named.

What is declared is a type with its bounds, and serves twice: Pydantic checks what was written
against it, and describes it as JSON Schema. The sentences are ours, made of the bounds that a value
does not keep to.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence, Set
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, Final, Generic, Required, TypeVar, get_type_hints

from pydantic import AfterValidator, ConfigDict, TypeAdapter, ValidationError
from pydantic.annotated_handlers import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic.json_schema import GenerateJsonSchema, JsonSchemaValue
from pydantic_core import CoreSchema, ErrorDetails, PydanticCustomError, core_schema
from typing_extensions import TypedDict

from jentrow.core.mappings import listed, unknown_name

T = TypeVar("T")

CLOSED: Final = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
"""No unknown name, and no value that has to be changed to fit."""

LONGEST_SHOWN: Final = 60
"""Characters of a value that a sentence repeats."""

MOST_LISTED: Final = 12
"""How many words a sentence lists; of more, the nearest one is named."""


def mapping_of(
    declared: type,
    made: Callable[..., Any] | None = None,
    leaving_out: Sequence[str] = (),
    **other: Any,
) -> Any:
    """The type of a mapping that may name the fields of a dataclass, which is made of it.

    ``other`` are the types of names that are written otherwise than the dataclass holds them;
    ``made`` makes of the mapping what it stands for, where that is not the dataclass alone.
    """
    hints = get_type_hints(declared, include_extras=True) | other
    make = made or declared
    written = {name: hint for name, hint in hints.items() if name not in leaving_out}
    return Annotated[names(declared.__name__, written), AfterValidator(lambda read: make(**read))]


def names(title: str, written: Mapping[str, Any], *needed: str) -> Any:
    """The type of a mapping with these names and no others; what is ``needed`` must be there."""
    # A type checker reads only those that stand in the text.
    typed_dict: Any = TypedDict
    shape = typed_dict(
        title,
        {name: Required[hint] if name in needed else hint for name, hint in written.items()},
        total=False,
    )
    shape.__pydantic_config__ = CLOSED
    return shape


@dataclass(frozen=True)
class OrAlone:
    """A mapping that may be written as the value of its one important name, alone."""

    name: str

    def __get_pydantic_core_schema__(
        self, source: Any, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        return core_schema.no_info_before_validator_function(
            lambda value: value if isinstance(value, Mapping) else {self.name: value},
            handler(source),
        )

    def __get_pydantic_json_schema__(
        self, core: CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        whole = handler(core)
        alone = handler.resolve_ref_schema(whole)["properties"][self.name]
        return {"anyOf": [alone, whole]}


def list_of(item: Any) -> Any:
    """The type of a list of such items."""
    return list[item]


def by_name(item: Any) -> Any:
    """The type of a mapping of any names to such items."""
    return dict[str, item]


def wrong(words: str) -> PydanticCustomError:
    """A problem in words of its own, to be raised by whoever checks a value."""
    return PydanticCustomError("said", "{words}", {"words": words})


@dataclass(frozen=True)
class OrOne:
    """A list that may be written as its only item."""

    def __get_pydantic_core_schema__(
        self, source: Any, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        return core_schema.no_info_before_validator_function(
            lambda value: [value] if isinstance(value, str) else value, handler(source)
        )

    def __get_pydantic_json_schema__(
        self, core: CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        several = handler(core)
        return {"anyOf": [several["items"], several]}


class _PlainSchema(GenerateJsonSchema):
    """JSON Schemas without titles made of names, and with what stands in one place there."""

    def field_title_should_be_set(self, schema: Any) -> bool:
        return False

    def typed_dict_schema(self, schema: Any) -> JsonSchemaValue:
        made = super().typed_dict_schema(schema)
        made.pop("title", None)
        return made


class Declared(Generic[T]):
    """What may be written at a place; ``usual`` is what holds where nothing is."""

    def __init__(self, written: Any, usual: Callable[[], T]) -> None:
        self._written = written
        self._usual = usual

    @cached_property
    def _adapter(self) -> TypeAdapter[T]:
        return TypeAdapter(self._written)

    @cached_property
    def schema(self) -> dict[str, Any]:
        """The JSON Schema of it, in which every part stands at its place."""
        made = self._adapter.json_schema(schema_generator=_PlainSchema)
        shared = made.pop("$defs", {})
        placed: dict[str, Any] = _placed(made, shared)
        return placed

    def read(self, value: object, problems: list[str]) -> T:
        """Reads a value; what is wrong is added to ``problems``, and left out of what is read.

        A list or a mapping that is empty (``tags:``) is as good as left out.
        """
        if value is None:
            return self._usual()
        try:
            return self._adapter.validate_python(value)
        except ValidationError as error:
            found = error.errors(include_url=False)
        problems.extend(self._sentence(one, value) for one in found if not self._is_left_out(one))
        unfit = {one["loc"][0] for one in found if one["loc"]}
        if not isinstance(value, Mapping) or not unfit & value.keys():
            return self._usual()
        return self.read({name: part for name, part in value.items() if name not in unfit}, [])

    def _is_left_out(self, problem: ErrorDetails) -> bool:
        if problem["input"] is not None or len(problem["loc"]) != 1:
            return False
        return _at(self.schema, problem["loc"]).get("type") in ("array", "object")

    def _sentence(self, problem: ErrorDetails, whole: object) -> str:
        *above, last = problem["loc"] or ("",)
        place = _place(self.schema, problem["loc"], whole)
        if problem["type"] == "said":
            return f"{place}: {problem['ctx']['words']}" if place else problem["ctx"]["words"]
        if problem["type"] in ("extra_forbidden", "invalid_key"):
            home = _place(self.schema, above, whole)
            forms = _forms(_at(self.schema, above))
            known = [name for one in forms for name in one.get("properties", {})]
            unknown = unknown_name("name", last, known)
            return f"{home}: {unknown}" if home else unknown
        if problem["type"] == "missing":
            return f"{place} is missing"
        allowed, value = _at(self.schema, problem["loc"]), problem["input"]
        choices = _choices(allowed)
        if len(choices) > MOST_LISTED:
            thing = unknown_name(allowed.get("description", str(last)), value, choices)
            return f"{_place(self.schema, above, whole)}: {thing}"
        said = _words(allowed)
        if allowed.get("type") == "string" and not choices and not isinstance(value, str):
            said += " (in quotes)"
        if isinstance(value, Mapping | list):
            return f"{place or 'it'} must be {said}"
        shown = "empty" if value is None else repr(value)
        shown = shown if len(shown) <= LONGEST_SHOWN else shown[:LONGEST_SHOWN] + " …"
        return f"{place or 'it'} is {shown}, but must be {said}"


def unread_names(written: Mapping[str, Any], read: Mapping[str, Any]) -> Set[str]:
    """The names of a mapping whose values were left out, as unfit or as empty."""
    return written.keys() - read.keys()


def _placed(schema: Any, shared: Mapping[str, Any]) -> Any:
    if isinstance(schema, list):
        return [_placed(one, shared) for one in schema]
    if not isinstance(schema, dict):
        return schema
    if "$ref" in schema:
        more = {name: part for name, part in schema.items() if name != "$ref"}
        return _placed(shared[schema["$ref"].rpartition("/")[2]] | more, shared)
    return {name: _placed(part, shared) for name, part in schema.items()}


def _at(schema: Mapping[str, Any], place: Sequence[int | str]) -> Mapping[str, Any]:
    """The part of a schema that describes what stands at a place."""
    for step in place:
        for one in _forms(schema):
            if isinstance(step, int) and "items" in one:
                schema = one["items"]
            elif step in one.get("properties", {}):
                schema = one["properties"][step]
            elif isinstance(one.get("additionalProperties"), dict):
                schema = one["additionalProperties"]
            else:
                continue
            break
    return schema


def _forms(schema: Mapping[str, Any]) -> Sequence[Mapping[str, Any]]:
    """The forms in which something may be written."""
    forms: Sequence[Mapping[str, Any]] = schema.get("anyOf", [schema])
    return forms


def _place(schema: Mapping[str, Any], place: Sequence[int | str], whole: object) -> str:
    """A place in words: names with dots between them, things in lists by name or else by number."""
    said, at, dot = "", whole, "."
    for step in place:
        at, schema = _inside(at, step), _at(schema, [step])
        if isinstance(step, str):
            said, dot = f"{said}{dot}{step}" if said else step, "."
        elif isinstance(at, Mapping) and at.get("name") and "name" in schema.get("required", ()):
            said = f"{said}.{at['name']}"
        else:
            said, dot = f"{said}, number {step + 1}", ", "
    return said


def _inside(whole: object, step: int | str) -> object:
    try:
        return whole[step]  # type: ignore[index]
    except (LookupError, TypeError):
        return None


def _choices(schema: Mapping[str, Any]) -> list[str]:
    values = schema.get("enum") or ([schema["const"]] if "const" in schema else [])
    return [str(value) for value in values]


def _words(schema: Mapping[str, Any]) -> str:
    """What a schema allows, in words."""
    if "anyOf" in schema:
        parts = [one for one in schema["anyOf"] if one.get("type") != "null"]
        ending = ", or nothing (null)" if len(parts) < len(schema["anyOf"]) else ""
        return " or ".join(dict.fromkeys(map(_words, parts))) + ending
    if choices := _choices(schema):
        return choices[0] if len(choices) == 1 else f"one of {listed(choices)}"
    kind = schema.get("type")
    if kind in ("integer", "number"):
        decimals = ", with at most two decimals" if "multipleOf" in schema else ""
        return ("a whole number" if kind == "integer" else "a number") + _bounds(schema) + decimals
    if kind == "string":
        most = schema.get("maxLength")
        return f"text of at most {most:,} characters" if most else "text"
    if kind == "array":
        most = schema.get("maxItems")
        inside = "texts" if schema.get("items", {}).get("type") == "string" else "mappings"
        return f"a list of {inside}" + (f", at most {most:,}" if most else "")
    if kind == "object":
        names = list(schema.get("properties", {}))
        return f"a mapping with {listed(names)}" if names else "a mapping of names to values"
    return "true or false"


def _bounds(schema: Mapping[str, Any]) -> str:
    least, above = schema.get("minimum"), schema.get("exclusiveMinimum")
    most, below = schema.get("maximum"), schema.get("exclusiveMaximum")
    if least is not None and most is not None:
        return f" from {least:,} to {most:,}"
    parts = [
        f"{words} {bound:,}"
        for words, bound in (
            ("at least", least), ("above", above), ("at most", most), ("below", below),
        )
        if bound is not None
    ]  # fmt: skip
    return " " + ", ".join(parts) if parts else ""
