"""Steps that the browser tests share."""

from __future__ import annotations

import json
import urllib.request
from collections.abc import Callable
from typing import Any

from selenium.webdriver import Chrome
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait


def until(browser: Chrome, condition: Callable[[Chrome], Any]) -> Any:
    return WebDriverWait(browser, 20, poll_frequency=0.05).until(condition)


def find(browser: Chrome, selector: str) -> WebElement:
    return until(browser, lambda page: page.find_element(By.CSS_SELECTOR, selector))


def all_of(browser: Chrome, selector: str) -> list[WebElement]:
    find(browser, selector)
    return browser.find_elements(By.CSS_SELECTOR, selector)


def text_of(browser: Chrome, selector: str) -> str:
    return find(browser, selector).text


def press(browser: Chrome, key: str) -> None:
    ActionChains(browser).send_keys(key).perform()


def open_by_link(browser: Chrome, words: str) -> None:
    until(browser, lambda page: page.find_element(By.PARTIAL_LINK_TEXT, words)).click()


def severe(browser: Chrome) -> list[Any]:
    return [entry for entry in browser.get_log("browser") if entry["level"] == "SEVERE"]


def call(address: str, path: str, method: str = "GET", body: Any = None) -> Any:
    request = urllib.request.Request(
        address + path,
        None if body is None else json.dumps(body).encode(),
        {"Content-Type": "application/json"},
        method=method,
    )
    with urllib.request.urlopen(request) as answer:
        data = answer.read()
        return json.loads(data) if data else None
