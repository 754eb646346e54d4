"""What crosses from a worker process: values of our own frozen classes, and nothing that could act.

A worker meets untrusted SQL, so the server believes nothing that it sends. Pickles are read with a
reader that makes plain values and dataclasses of the core, and knows no function to call.
"""

from __future__ import annotations

import io
import pickle
from collections.abc import Callable
from dataclasses import fields, is_dataclass
from functools import lru_cache
from operator import attrgetter
from typing import Any, Final, TypeVar

_OURS: Final = "jentrow.core."
_VALUES: Final = frozenset(
    [
        ("datetime", "date"),
        ("datetime", "datetime"),
        ("datetime", "time"),
        ("datetime", "timedelta"),
        ("datetime", "timezone"),
        ("decimal", "Decimal"),
        *(
            ("jentrow.core.values", name)
            for name in ("Interval", "DateText", "TimestampText", "TimeText")
        ),
        ("uuid", "UUID"),
    ]
)
"""The kinds of values that are no plain ones: see :mod:`jentrow.core.values`."""


_LATELY: Final = 200
_LONGEST: Final = 16 << 10
"""How many values are known again, packed in how many bytes at most."""


_CLASSES: Final[dict[tuple[str, str], Any]] = {}
"""Those that were found: a handful, and each answer names them all."""

_Key = TypeVar("_Key")
_Held = TypeVar("_Held")


class Unreadable(Exception):
    """Raised when what a worker sent is not what a worker sends."""


class _Reader(pickle.Unpickler):
    def find_class(self, module: str, name: str) -> Any:
        """The dataclass of the core, or the kind of value, with this name; nothing else."""
        known = _CLASSES.get((module, name))
        if known is None:
            known = _CLASSES[module, name] = self._found(module, name)
        return known

    def _found(self, module: str, name: str) -> Any:
        if (module, name) in _VALUES:
            return super().find_class(module, name)
        if module.startswith(_OURS) and "." not in name:
            found = super().find_class(module, name)
            # A class itself, where it was defined: no name that some module happens to hold.
            if isinstance(found, type) and is_dataclass(found) and found.__module__ == module:
                return found
        raise Unreadable(f"a worker sent a {module}.{name}")


class _Writer(pickle.Pickler):
    def reducer_override(self, value: Any) -> Any:
        """A dataclass of ours is sent as what it is made of, which takes half as long as its state."""
        parts = _parts_of(value.__class__)
        return NotImplemented if parts is None else (value.__class__, parts(value))


@lru_cache(maxsize=256)
def _parts_of(kind: type[Any]) -> Callable[[Any], tuple[Any, ...]] | None:
    """What gives the arguments that make a dataclass of ours; None where that is not all it takes."""
    if not is_dataclass(kind) or not kind.__module__.startswith(_OURS):
        return None
    parts = fields(kind)
    if len(parts) < 2 or any(part.kw_only or not part.init for part in parts):
        return None
    return attrgetter(*(part.name for part in parts))


def packed(value: object) -> bytes:
    """A value as it crosses."""
    file = io.BytesIO()
    _Writer(file, protocol=pickle.HIGHEST_PROTOCOL).dump(value)
    return file.getvalue()


def unpacked(sent: bytes) -> Any:
    """The value that a worker sent. Raises :class:`Unreadable`."""
    try:
        return _Reader(io.BytesIO(sent)).load()
    except Unreadable:
        raise
    except Exception as problem:
        raise Unreadable(f"a worker sent what cannot be read ({problem})") from problem


class LatelyPacked:
    """Packs values, the very same one only once: many answers come to one outcome."""

    def __init__(self) -> None:
        # With the value itself, so that no other one can have its identity meanwhile.
        self._known: dict[int, tuple[object, bytes]] = {}

    def packed(self, value: object) -> bytes:
        """A value as it crosses."""
        known = self._known.get(id(value))
        if known is not None:
            return known[1]
        made = packed(value)
        if len(made) <= _LONGEST:
            _keep(self._known, id(value), (value, made))
        return made


class LatelyUnpacked:
    """Reads what a worker sent; what is the same to the byte becomes the very same value."""

    def __init__(self) -> None:
        self._known: dict[bytes, Any] = {}

    def unpacked(self, sent: bytes) -> Any:
        """The value that a worker sent. Raises :class:`Unreadable`."""
        known = self._known.get(sent)
        if known is not None:
            return known
        made = unpacked(sent)
        if len(sent) <= _LONGEST:
            _keep(self._known, sent, made)
        return made


def _keep(known: dict[_Key, _Held], key: _Key, value: _Held) -> None:
    """Keeps what was met lately. Each answer passes here: an order of use would cost more than it gives."""
    if len(known) >= _LATELY:
        known.clear()
    known[key] = value
