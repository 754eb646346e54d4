"""Names that stand in addresses and in files."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Collection


def plain_name(title: str, taken: Collection[str], otherwise: str) -> str:
    """A title in plain letters, digits and hyphens, with a number where it is taken already."""
    plain = unicodedata.normalize("NFKD", title).encode("ascii", "ignore").decode()
    wanted = "-".join(re.findall(r"[a-z0-9]+", plain.lower()))[:60].strip("-") or otherwise
    slug, number = wanted, 1
    while slug in taken:
        number += 1
        slug = f"{wanted}-{number}"
    return slug
