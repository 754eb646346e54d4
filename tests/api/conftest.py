from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from jentrow.api.app import create_app
from jentrow.services.demo import load_demo
from jentrow.services.desk import Desk
from tests.conftest import DEMO


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with the demo pack, loaded and graded; not to be changed."""
    folder = tmp_path_factory.mktemp("api") / "data"
    load_demo(folder, DEMO)
    return folder


@pytest.fixture(scope="session")
def client(demo_folder: Path) -> Iterator[TestClient]:
    with TestClient(create_app(lambda: Desk(demo_folder))) as running:
        yield running


@pytest.fixture
def fresh(tmp_path: Path, demo_folder: Path) -> Iterator[TestClient]:
    """A client on demo data of its own, to be changed at will."""
    shutil.copytree(demo_folder, tmp_path / "data")
    with TestClient(create_app(lambda: Desk(tmp_path / "data"))) as running:
        yield running
