"""Prints the OpenAPI document, from which the front end's types are generated."""

from __future__ import annotations

import json
from pathlib import Path

from jentrow.api.app import create_app
from jentrow.services.runtime.runtime import Runtime


def document() -> str:
    """The OpenAPI document as text."""
    app = create_app(lambda: Runtime(Path("unused")))
    return json.dumps(app.openapi(), indent=2, sort_keys=True) + "\n"


if __name__ == "__main__":
    print(document(), end="")
