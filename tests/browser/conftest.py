from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from jentrow.api.app import create_app
from jentrow.services.runtime.runtime import Runtime
from tests.browser.steps import Element, sign_in, site_of
from tests.demo_course import COURSE
from tests.serving import listening

NOON = datetime(2026, 11, 23, 12, tzinfo=UTC)

# The build without windows takes a third less of the processors than the whole one without a screen.
CHROMIUM = Path(__file__).with_name("headless.sh")

SWITCHES = [
    "--no-sandbox", "--disable-gpu", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--disable-dev-shm-usage", "--window-size=1280,800",
    # A page that is kept for the way back keeps its process: each new one would begin another.
    "--disable-features=BackForwardCache",
    # A page lives too briefly for code that is compiled well to be worth it.
    "--js-flags=--no-maglev --no-turbofan --min-semi-space-size=32 --max-semi-space-size=64",
]  # fmt: skip


@pytest.fixture(scope="session")
def address(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    folder = shutil.copytree(demo_folder, tmp_path_factory.mktemp("browser") / "data")
    app = create_app(lambda: Runtime(folder, lambda: NOON))
    with listening(app, log_level="warning") as place:
        yield f"http://127.0.0.1:{place[1]}/courses/{COURSE}"


@contextmanager
def opened(profile: Path) -> Iterator[webdriver.Chrome]:
    options = webdriver.ChromeOptions()
    for switch in [*SWITCHES, f"--user-data-dir={profile}"]:
        options.add_argument(switch)
    options.binary_location = str(CHROMIUM)
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    driver._web_element_cls = Element
    yield driver
    driver.quit()


@pytest.fixture(scope="session")
def browser(tmp_path_factory: pytest.TempPathFactory, address: str) -> Iterator[webdriver.Chrome]:
    """An instructor's browser."""
    with opened(tmp_path_factory.mktemp("profile")) as driver:
        sign_in(driver, address, "instructor")
        yield driver


@pytest.fixture(scope="session")
def other_browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[webdriver.Chrome]:
    """A second one, for everybody else."""
    with opened(tmp_path_factory.mktemp("profile")) as driver:
        yield driver


@pytest.fixture
def visitor(other_browser: webdriver.Chrome, address: str) -> webdriver.Chrome:
    """The browser of somebody who is not signed in, and was not here before."""
    other_browser.get("about:blank")
    for command, given in (
        ("Network.clearBrowserCookies", {}),
        ("Storage.clearDataForOrigin", {"origin": site_of(address), "storageTypes": "all"}),
        ("Emulation.clearDeviceMetricsOverride", {}),
    ):
        other_browser.execute_cdp_cmd(command, given)
    other_browser.get_log("browser")
    return other_browser


@pytest.fixture(autouse=True)
def afresh(request: pytest.FixtureRequest) -> None:
    """No page, draft or complaint that an earlier test left behind reaches into this one."""
    if "browser" in request.fixturenames:
        driver: webdriver.Chrome = request.getfixturevalue("browser")
        driver.get("about:blank")
        driver.get_log("browser")
