"""Steps that the browser tests share."""

from __future__ import annotations

import json
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException
from selenium.webdriver import Chrome
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from tests.demo_course import PASSWORD, ROOT

AXE = ROOT / "frontend" / "node_modules" / "axe-core" / "axe.min.js"

PATIENCE = 60
"""Seconds after which what is waited for will not come, however busy the machine is."""


_SHOWN_TEXT = """
    const shown = arguments[0].checkVisibility({opacityProperty: true, visibilityProperty: true});
    const lines = shown ? arguments[0].innerText.replace(/[\\t\\xa0]/g, " ").split("\\n") : [];
    return lines.map((line) => line.trim()).filter(Boolean).join("\\n");
"""


class Element(WebElement):
    """An element whose text the browser itself tells: the driver asks each node for its style.

    On a page with a long table that takes half a second, twenty times a second while a test waits.
    """

    @property
    def text(self) -> str:
        """The text that is seen, without blanks around its lines."""
        return str(self.parent.execute_script(_SHOWN_TEXT, self))


FIRST_PAUSE, LONGEST_PAUSE = 0.03, 0.3
"""Seconds between two looks at a page: each look takes a hundredth of a second of a processor,
and what takes long is looked at less and less often."""


def until(browser: Chrome, condition: Callable[[Chrome], Any]) -> Any:
    # What is looked at may be drawn anew in between.
    ignored = [NoSuchElementException, StaleElementReferenceException]
    wait = WebDriverWait(browser, PATIENCE, FIRST_PAUSE, ignored)

    def looked(page: Chrome) -> Any:
        wait._poll = min(wait._poll * 1.3, LONGEST_PAUSE)
        return condition(page)

    return wait.until(looked)


_SETTLED = """
    const app = document.querySelector("#app")?.__vue_app__;
    return Boolean(app && document.querySelector("main"))
        && app._context.provides.VUE_QUERY_CLIENT.isFetching() === 0;
"""


def settled(browser: Chrome) -> None:
    """Waits until a page is there and all its questions to the server are answered."""
    until(browser, lambda page: page.execute_script(_SETTLED))
    drawn(browser)


def drawn(browser: Chrome) -> None:
    """Waits for the next frame."""
    browser.execute_async_script(
        "const done = arguments[0];"
        "requestAnimationFrame(() => requestAnimationFrame(() => done()));"
    )


def find(browser: Chrome, selector: str) -> WebElement:
    return until(browser, lambda page: page.find_element(By.CSS_SELECTOR, selector))


def all_of(browser: Chrome, selector: str) -> list[WebElement]:
    find(browser, selector)
    return browser.find_elements(By.CSS_SELECTOR, selector)


def text_of(browser: Chrome, selector: str) -> str:
    return find(browser, selector).text


def choose(browser: Chrome, select: WebElement, words: str) -> None:
    """Chooses an entry of a select, which may be named by the field that is in it."""
    frame = frame_of(select)

    def opened(page: Chrome) -> WebElement | None:
        # On a busy machine the page may still move under a click.
        if (
            frame.find_element(By.CSS_SELECTOR, "[aria-expanded]").get_attribute("aria-expanded")
            != "true"
        ):
            frame.click()
        return entry(page, words)

    until(browser, opened).click()


def confirm(browser: Chrome) -> None:
    """Says yes to what is asked before it is done."""

    def asked(page: Chrome) -> WebElement | None:
        found = page.find_elements(By.CSS_SELECTOR, ".el-popconfirm .el-button--danger")
        return next((one for one in found if one.is_displayed()), None)

    until(browser, asked).click()


def retype(field: WebElement, *typed: str) -> None:
    """Types in the place of what stands in a field."""
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(Keys.NULL, *typed)


def frame_of(field: WebElement) -> WebElement:
    """The whole select that a field is in."""
    return field.find_element(
        By.XPATH, "ancestor-or-self::div[contains(@class, 'el-select ') or @class='el-select'][1]"
    )


def entry(page: Chrome, words: str) -> WebElement | None:
    """The first entry that begins with these words, in the list that is open."""
    for one in page.find_elements(By.CSS_SELECTOR, ".el-select-dropdown__item"):
        if one.is_displayed() and one.text.startswith(words):
            return one
    return None


def press(browser: Chrome, key: str) -> None:
    ActionChains(browser).send_keys(key).perform()


def leave_editor(browser: Chrome) -> None:
    """By Escape, which closes the list of completions first, where it has opened by now."""
    press(browser, Keys.ESCAPE)
    if "cm-content" in (browser.switch_to.active_element.get_attribute("class") or ""):
        press(browser, Keys.ESCAPE)


def open_by_link(browser: Chrome, words: str) -> None:
    until(browser, lambda page: page.find_element(By.PARTIAL_LINK_TEXT, words)).click()


def severe(browser: Chrome) -> list[Any]:
    return [entry for entry in browser.get_log("browser") if entry["level"] == "SEVERE"]


def leave(browser: Chrome) -> None:
    """Leaves a page on which nothing went wrong: nobody asks any more for what is deleted then."""
    complaints = severe(browser)
    assert complaints == [], complaints
    browser.get("about:blank")


_HEADERS: dict[str, dict[str, str]] = {}


def site_of(address: str) -> str:
    return address.partition("/courses/")[0]


def sign_in(browser: Chrome, address: str, login: str) -> None:
    """By the page itself, as a person does."""
    site = site_of(address)
    browser.get(f"{site}/sign-in")
    find(browser, "input[name=username]").send_keys(login)
    find(browser, "input[name=password]").send_keys(PASSWORD + Keys.ENTER)
    until(browser, lambda page: page.current_url.rstrip("/") == site)


def come_signed_in(browser: Chrome, address: str, login: str) -> None:
    """As a browser comes back in which somebody signed in before: it has the cookie."""
    site = site_of(address)
    name, _, value = _session(site, login)[0].partition("=")
    cookie = {"name": name, "value": value, "url": site, "httpOnly": True, "sameSite": "Lax"}
    browser.execute_cdp_cmd("Network.setCookie", cookie)


def _session(site: str, login: str) -> tuple[str, str]:
    """A new session of somebody: its cookie, as a request carries it, and its guard."""
    body = json.dumps({"login": login, "password": PASSWORD}).encode()
    asked = urllib.request.Request(
        f"{site}/api/sign-in", body, {"Content-Type": "application/json"}
    )
    with urllib.request.urlopen(asked) as answer:
        cookie = answer.headers["Set-Cookie"].partition(";")[0]
        return cookie, json.loads(answer.read())["me"]["guard"]


def headers_of(address: str) -> dict[str, str]:
    """What an instructor's request to the server carries."""
    site = site_of(address)
    if site not in _HEADERS:
        cookie, guard = _session(site, "instructor")
        _HEADERS[site] = {"Cookie": cookie, "X-Jentrow-Guard": guard}
    return _HEADERS[site]


def open_url(address: str, path: str, method: str = "GET", body: Any = None) -> bytes:
    """What the server answers to an instructor; the path is inside the course.

    A body of bytes is sent as it is, as a file is; any other one as JSON.
    """
    site, _, course = address.partition("/courses/")
    request = urllib.request.Request(
        f"{site}/api/courses/{course}{path}",
        body if body is None or isinstance(body, bytes) else json.dumps(body).encode(),
        {"Content-Type": "application/json"} | headers_of(address),
        method=method,
    )
    with urllib.request.urlopen(request) as answer:
        return bytes(answer.read())


def call(address: str, path: str, method: str = "GET", body: Any = None) -> Any:
    data = open_url(address, path, method, body)
    return json.loads(data) if data else None


def take_in(address: str, answers: str) -> None:
    """Imports a file of answers: CSV with the columns learner, exercise, sql."""
    id = call(address, "/imports", "POST")["id"]
    open_url(address, f"/imports/{id}/files/answers.csv", "PUT", answers.encode())
    call(address, f"/answers/{id}/look", "POST", {})
    call(address, f"/answers/{id}/take", "POST", {"leave_out": False})


_INSTEAD = """
    const fetched = window.fetch;
    window.fetch = async (what, ...more) => {
        const path = new URL(what.url ?? what, location.href).pathname;
        if (!/%s/.test(path)) return fetched(what, ...more);
        const ask = () => fetched(what, ...more);
        return %s;
    };
"""


@contextmanager
def answered(browser: Chrome, paths: str, instead: str) -> Iterator[None]:
    """Has pages get something else where they ask the server for paths that match a pattern.

    ``instead`` is JavaScript, in which ``ask()`` asks the server itself.
    """
    script = browser.execute_cdp_cmd(
        "Page.addScriptToEvaluateOnNewDocument", {"source": _INSTEAD % (paths, instead)}
    )
    try:
        yield
    finally:
        browser.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", script)


ALL_RULES = {"rules": {"target-size": {"enabled": True}}}
OF_COLOURS = {"runOnly": ["color-contrast", "link-in-text-block"]}
"""The rules that another theme may break: nothing but colours hangs on it."""


def violations(browser: Chrome, which: dict[str, Any] = ALL_RULES) -> list[tuple[str, list[str]]]:
    """The accessibility rules that a page breaks when all its data is there, each with where."""
    settled(browser)
    return broken_rules(browser, which)


def broken_rules(browser: Chrome, which: dict[str, Any]) -> list[tuple[str, list[str]]]:
    """The accessibility rules that a page breaks as it is now, each with where."""
    if not browser.execute_script("return Boolean(window.axe)"):
        browser.execute_script(AXE.read_text(encoding="utf-8"))
    found = browser.execute_async_script(
        "const [asked, done] = arguments;"
        "axe.run(document, {...asked, resultTypes: ['violations']})"
        ".then((said) => done(said.violations));",
        which,
    )
    return [(one["id"], [node["html"][:120] for node in one["nodes"]][:3]) for one in found]


SIZES = ((1024, 768), (853, 533), (1280, 800))

WIDER_THAN_THE_WINDOW = """
    const parts = [document.documentElement, ...document.querySelectorAll(".task > *")];
    return parts.filter((one) => one.scrollWidth > one.clientWidth + 1)
        .map((one) => one.className || one.tagName);
"""


@contextmanager
def sized(browser: Chrome, width: int, height: int, *, mobile: bool = False) -> Iterator[None]:
    """Another size of the window, for the time of the context."""
    given = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": mobile}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", given)
    try:
        yield
    finally:
        browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


@contextmanager
def in_the_dark(browser: Chrome) -> Iterator[None]:
    """The dark theme, for the time of the context."""
    dark = [{"name": "prefers-color-scheme", "value": "dark"}]
    browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": dark})
    try:
        yield
    finally:
        browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})
