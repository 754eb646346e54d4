"""Values of list columns: one JSON array as text in a sample's file, and each engine's own form of it."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any, Final

_WORD: Final = re.compile(r'[^,{}\[\]"\\]+')
_QUOTED: Final = re.compile(r'"((?:[^"\\]|\\.)*)"', re.DOTALL)
_NUMBER: Final = re.compile(r"-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?\Z", re.ASCII)
_DEEPEST: Final = 6
"""Lists inside one another: as many dimensions as PostgreSQL's arrays have."""


def read_list(text: str) -> str | None:
    """A list as a JSON array; None where the text is none.

    Lists are written in brackets or, as PostgreSQL does it, in braces; texts in double quotes where
    a sign of the list's own stands in them.
    """
    try:
        found = _loaded(text)
    except (ValueError, RecursionError):
        found = None
    if not isinstance(found, list):
        found = _Reading(text).whole()
    return list_text(found) if isinstance(found, list) and _depth(found) <= _DEEPEST else None


def list_text(items: list[Any]) -> str:
    """A list of texts, numbers, booleans, NULLs and lists as the JSON array that stands for it."""
    return f"[{', '.join(map(json_text, items))}]"


def json_text(value: Any) -> str:
    """A value in JSON, its numbers as they are written."""
    match value:
        case NumberText():
            return str(value)
        case list():
            return list_text(value)
        case dict():
            return f"{{{', '.join(f'{json.dumps(key)}: {json_text(one)}' for key, one in value.items())}}}"
    return json.dumps(value, ensure_ascii=False)


class NumberText(str):
    """A number of a list, in the letters that it was written in."""

    __slots__ = ()


def _depth(items: list[Any]) -> int:
    return 1 + max((_depth(one) for one in items if isinstance(one, list)), default=0)


class _Reading:
    """The reading of a list that is not written as JSON."""

    def __init__(self, text: str) -> None:
        self._text, self._at = text.strip(), 0

    def whole(self) -> list[Any] | None:
        try:
            found = self._list(0)
        except (IndexError, ValueError):
            return None
        return found if self._at == len(self._text) else None

    def _list(self, depth: int) -> list[Any]:
        if depth > _DEEPEST:
            raise ValueError("nested too deeply")
        closing = {"{": "}", "[": "]"}[self._text[self._at]] if self._opens() else ""
        if not closing:
            raise ValueError("no list")
        self._at += 1
        items: list[Any] = []
        while True:
            self._blanks()
            if self._text[self._at] == closing and not items:
                break
            items.append(self._list(depth + 1) if self._opens() else self._item())
            self._blanks()
            if self._text[self._at] == closing:
                break
            if self._text[self._at] != ",":
                raise ValueError("a comma is missing")
            self._at += 1
        self._at += 1
        return items

    def _opens(self) -> bool:
        return self._text[self._at] in "{["

    def _blanks(self) -> None:
        while self._text[self._at].isspace():
            self._at += 1

    def _item(self) -> Any:
        if quoted := _QUOTED.match(self._text, self._at):
            self._at = quoted.end()
            return re.sub(r"\\(.)", r"\1", quoted[1], flags=re.DOTALL)
        word = _WORD.match(self._text, self._at)
        if word is None:
            raise ValueError("an item is missing")
        self._at = word.end()
        said = word[0].strip()
        if said.upper() == "NULL":
            return None
        if said.lower() in ("true", "false"):
            return said.lower() == "true"
        return NumberText(said) if _NUMBER.match(said) else said


def in_braces(array: str) -> str:
    """A JSON array as PostgreSQL reads it into an array."""
    return _marked(_loaded(array), "{}")


def in_brackets(array: str) -> str:
    """A JSON array as DuckDB reads it into a list."""
    return _marked(_loaded(array), "[]")


def _loaded(text: str) -> Any:
    return json.loads(text, parse_float=NumberText, parse_int=NumberText)


def _marked(items: list[Any], marks: str) -> str:
    return marks[0] + ",".join(_items(items, marks)) + marks[1]


def _items(items: list[Any], marks: str) -> Iterator[str]:
    for item in items:
        if item is None:
            yield "NULL"
        elif isinstance(item, list):
            yield _marked(item, marks)
        elif isinstance(item, bool):
            yield "true" if item else "false"
        elif isinstance(item, NumberText):
            yield str(item)
        else:
            escaped = item.replace("\\", "\\\\").replace('"', '\\"')
            yield f'"{escaped}"'
