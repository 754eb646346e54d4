from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from jentrow.api.app import create_app
from jentrow.services.runtime.runtime import Runtime
from tests.api.classroom import Class, Clock
from tests.api.server import running, served


@pytest.fixture(scope="session")
def client(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """An instructor's browser, on data that is not to be changed."""
    folder = shutil.copytree(demo_folder, tmp_path_factory.mktemp("api") / "data")
    with served(folder) as instructor:
        yield instructor


@pytest.fixture
def fresh(tmp_path: Path, demo_folder: Path) -> Iterator[TestClient]:
    """An instructor's browser, on demo data of its own, to be changed at will."""
    shutil.copytree(demo_folder, tmp_path / "data")
    with served(tmp_path / "data") as instructor:
        yield instructor


@pytest.fixture
def here(tmp_path: Path, demo_folder: Path) -> Iterator[Class]:
    """A course of its own, whose clock is set by hand."""
    shutil.copytree(demo_folder, tmp_path / "data")
    clock = Clock()
    app = create_app(lambda: Runtime(tmp_path / "data", clock))
    with running(app):
        yield Class(app, clock)
