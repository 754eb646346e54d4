from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from jentrow.api.app import create_app
from jentrow.services.demo import load_demo
from jentrow.services.desk import Desk
from tests.conftest import DEMO


@pytest.fixture(scope="session")
def demo_data(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo") / "data"
    load_demo(folder, DEMO, lambda done, total: None)
    return folder


@pytest.fixture(scope="session")
def client(demo_data: Path) -> Iterator[TestClient]:
    with TestClient(create_app(lambda: Desk(demo_data))) as running:
        yield running
