from __future__ import annotations

import socket
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
import uvicorn
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from jentrow.api.app import create_app
from jentrow.services.demo import load_demo
from jentrow.services.desk import Desk
from tests.conftest import DEMO

SWITCHES = [
    "--headless=new", "--no-sandbox", "--disable-gpu", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--disable-dev-shm-usage", "--window-size=1280,800",
]  # fmt: skip


class Server(uvicorn.Server):
    """uvicorn in a thread, with an event that tells when it listens."""

    def __init__(self, config: uvicorn.Config) -> None:
        super().__init__(config)
        self.listening = threading.Event()

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        self.listening.set()


@pytest.fixture(scope="session")
def address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    folder = tmp_path_factory.mktemp("browser") / "data"
    load_demo(folder, DEMO, lambda done, total: None)
    listener = socket.create_server(("127.0.0.1", 0))
    server = Server(
        uvicorn.Config(
            create_app(lambda: Desk(folder)), log_level="warning", timeout_graceful_shutdown=1
        )
    )
    thread = threading.Thread(target=server.run, args=([listener],))
    thread.start()
    assert server.listening.wait(30)
    yield f"http://127.0.0.1:{listener.getsockname()[1]}"
    server.should_exit = True
    thread.join(30)
    listener.close()


@pytest.fixture(scope="session")
def browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[webdriver.Chrome]:
    options = webdriver.ChromeOptions()
    profile: Path = tmp_path_factory.mktemp("profile")
    for switch in [*SWITCHES, f"--user-data-dir={profile}"]:
        options.add_argument(switch)
    options.binary_location = "/usr/bin/chromium"
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    yield driver
    driver.quit()
