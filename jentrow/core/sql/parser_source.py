"""The parser's classes as their source says them, for whoever needs to follow their steps.

The package comes compiled, which makes it three to four times as fast, and a compiled class cannot
be told to note what it reads: nobody can inherit from it. Its source comes with it. Here the modules
of the parser, and they alone, are loaded from there a second time, under names of their own; the
trees that they make are the same as everybody's.
"""

from __future__ import annotations

import builtins
from collections.abc import Sequence
from functools import lru_cache
from importlib.machinery import SourceFileLoader
from pathlib import Path
from types import ModuleType
from typing import Any, Final

import sqlglot

_FOLDER: Final = Path(sqlglot.__file__).parent


def interpreted(parser: type[Any]) -> type[Any]:
    """The class of the same name, from its source: what inherits from it may see each step."""
    found: type[Any] = getattr(_from_source(parser.__module__), parser.__name__)
    return found


@lru_cache(maxsize=64)
def _from_source(name: str) -> ModuleType:
    own = f"{__name__}.{name}"
    path = _FOLDER.joinpath(*name.split(".")[1:]).with_suffix(".py")
    module = ModuleType(own)
    module.__file__ = str(path)
    vars(module)["__builtins__"] = vars(builtins) | {"__import__": _importing}
    # Through the loader, so that Python keeps the compiled bytes of a source of 11,000 lines.
    code = SourceFileLoader(own, str(path)).get_code(own)
    assert code is not None, "the package comes with its source"
    exec(code, vars(module))  # noqa: S102
    return module


def _importing(
    name: str, scope: Any = None, local: Any = None, names: Sequence[str] = (), level: int = 0
) -> Any:
    """What these modules import: each other from the source, and all else as everybody does."""
    if name.startswith("sqlglot.parser"):
        return _from_source(name)
    package = builtins.__import__(name, scope, local, names, level)
    if name != "sqlglot" or "parser" not in names:
        return package
    with_source = ModuleType(name)
    vars(with_source).update(vars(package), parser=_from_source("sqlglot.parser"))
    return with_source
