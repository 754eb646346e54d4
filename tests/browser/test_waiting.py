"""What a page is before its data is there, and where the server cannot say it.

The pages are gone through without loading each: what the course says is held back, or refused.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from urllib.parse import urlsplit

import pytest
from selenium.webdriver import Chrome

from tests.browser.steps import answered, broken_rules, come_signed_in, drawn, find, until

pytestmark = pytest.mark.browser

TAUGHT = (
    "", "/samples", "/samples/huts", "/make-a-sample", "/exercises", "/exercises/08-busy-huts",
    "/blind-spots", "/take-a-pack-in", "/sheets", "/answers", "/marking/01-high-huts",
    "/take-answers-in", "/answers/21", "/marks", "/feedback/1-choosing-rows", "/present", "/people",
)  # fmt: skip
OF_THE_FRAME = {
    "runOnly": [
        "page-has-heading-one", "landmark-one-main", "landmark-unique", "region", "heading-order",
        "link-name", "button-name", "label",
    ]
}  # fmt: skip
"""The rules that hang on what stands on a page, not on its colours and places."""
OWN = ("/own", "/own/1-choosing-rows/01-high-huts", "/own/marks-of/1-choosing-rows")

WITH_NOTHING_ELSE = (
    "/samples/huts", "/exercises/08-busy-huts", "/sheets", "/marking/01-high-huts", "/answers/21",
    "/marks", "/people", "/blind-spots", "/make-a-sample",
)  # fmt: skip
"""Pages on which nothing stands without their data, and two others."""

ANSWERS = {
    "held": "await new Promise(() => {})",
    "refused": """new Response(JSON.stringify({message: "Not now."}), {
        status: 503, headers: {"Content-Type": "application/json"},
    })""",
}
NOTHING_WAITS = "return !document.querySelector('.notice [role=status]');"

OF_A_COURSE = r"\/api\/courses\/[^/]+\/."

GO_TO = """
    const [to, done] = arguments;
    const router = document.querySelector("#app").__vue_app__.config.globalProperties.$router;
    router.push(to).then(() => done());
"""

HEADINGS = "return [...document.querySelectorAll('h1')].map((one) => one.textContent.trim());"
NAMELESS = """
    return [...document.querySelectorAll("a[href]")]
        .filter((one) => !/[a-z]/i.test(one.textContent)).map((one) => one.outerHTML.slice(0, 90));
"""


def broken_pages(browser: Chrome, address: str, paths: Sequence[str], kind: str) -> dict[str, Any]:
    """What is wrong with each of these pages while the course's data is held back, or refused."""
    broken = {}
    with answered(browser, OF_A_COURSE, ANSWERS[kind]):
        browser.get(f"{address}/nowhere")
        find(browser, "h1")
        for path in paths:
            browser.execute_async_script(GO_TO, urlsplit(address).path + path)
            drawn(browser)
            if kind == "refused":
                until(browser, lambda page: page.execute_script(NOTHING_WAITS))
            wrong = [*broken_rules(browser, OF_THE_FRAME), *browser.execute_script(NAMELESS)]
            heads = browser.execute_script(HEADINGS)
            # The page, its course, the product.
            if wrong or len(heads) != 1 or not all(heads) or browser.title.count(" · ") != 2:
                broken[path] = (wrong, heads, browser.title)
    return broken


@pytest.mark.parametrize(
    ("kind", "paths"), [("held", TAUGHT), ("refused", WITH_NOTHING_ELSE)], ids=ANSWERS
)
def test_a_page_without_its_data_has_its_heading_and_names_its_links(
    browser: Chrome, address: str, kind: str, paths: Sequence[str]
) -> None:
    assert broken_pages(browser, address, paths, kind) == {}


@pytest.mark.parametrize("kind", ANSWERS)
def test_so_have_the_pages_of_a_learner(visitor: Chrome, address: str, kind: str) -> None:
    come_signed_in(visitor, address, "ada.nkemelu@example.org")
    assert broken_pages(visitor, address, OWN, kind) == {}
