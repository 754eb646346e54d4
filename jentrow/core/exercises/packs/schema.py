"""The JSON Schemas of a pack's files, made of the very declarations that reading them uses."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, Final

from jentrow.core.exercises.files import exercisefile, sheetfile
from jentrow.core.exercises.packs import reading

DIALECT: Final = "https://json-schema.org/draft/2020-12/schema"


def schemas() -> dict[str, dict[str, Any]]:
    """The schema of each file of a pack, by the name of the file that holds the schema."""
    declared = {"pack": reading.HEAD, "exercise": exercisefile.HEAD, "sheet": sheetfile.SHEET}
    return {
        f"{name}.schema.json": {"$schema": DIALECT, "title": f"{name}.yaml of a pack"} | one.schema
        for name, one in declared.items()
    }


def write_schemas(folder: Path) -> None:
    """Writes the schemas as files."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, schema in schemas().items():
        text = json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
        (folder / name).write_text(text, encoding="utf-8")


if __name__ == "__main__":
    write_schemas(Path(__file__).resolve().parents[4] / "docs" / "formats")
