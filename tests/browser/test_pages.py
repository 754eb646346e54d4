"""The real pages in a real browser, as an instructor goes through them."""

from __future__ import annotations

import pytest
from selenium.webdriver import Chrome, Keys
from selenium.webdriver.common.by import By

from tests.browser.steps import (
    OF_COLOURS,
    SIZES,
    WIDER_THAN_THE_WINDOW,
    all_of,
    drawn,
    find,
    in_the_dark,
    open_by_link,
    press,
    severe,
    sized,
    text_of,
    until,
    violations,
)

pytestmark = pytest.mark.browser


def test_from_the_list_to_a_wrong_answer_and_its_woven_table(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises")
    rows = all_of(browser, "tbody tr")
    assert len(rows) == 18
    assert rows[13].find_element(By.TAG_NAME, "a").text == "Huts and their nights"
    assert "4 right" in rows[13].text
    assert "9 wrong" in rows[13].text
    assert "3 in error" in rows[13].text

    open_by_link(browser, "Huts and their nights")
    until(browser, lambda page: "COALESCE" in page.find_element(By.CSS_SELECTOR, ".editor").text)
    assert "without a stay" in text_of(browser, ".prose")
    until(browser, lambda page: "8 trials hold" in page.find_element(By.TAG_NAME, "aside").text)
    press(browser, "r")
    open_by_link(browser, "Enzo Caruana")

    find(browser, ".woven tbody tr")
    assert text_of(browser, ".sheet h2") == "10 rows given, 12 due"
    absent = all_of(browser, ".woven tr[data-kind=absent]")
    assert [row.find_element(By.TAG_NAME, "td").text for row in absent] == [
        "Hochwand",
        "Rotscharte",
    ]
    assert all("due, not given" in row.text for row in absent)
    assert len(all_of(browser, ".woven tr[data-kind=agrees]")) == 10
    assert "2 rows are missing." in text_of(browser, ".words")
    assert browser.title == "Answer · Huts and their nights · Alpine data course · Jentrow"
    assert severe(browser) == []


def test_the_keyboard_is_enough(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises")
    find(browser, "tr.chosen")
    for _ in range(13):
        press(browser, Keys.ARROW_DOWN)
    until(browser, lambda page: "Huts and" in page.find_element(By.CSS_SELECTOR, "tr.chosen").text)
    press(browser, Keys.ENTER)
    find(browser, ".ask")
    press(browser, "t")
    until(browser, lambda page: len(page.find_elements(By.TAG_NAME, "figure")) == 4)
    press(browser, "r")
    find(browser, "aside li .verdict")
    press(browser, "f")
    press(browser, "f")
    until(
        browser,
        lambda page: (
            {e.text for e in page.find_elements(By.CSS_SELECTOR, "aside li .verdict")} == {"wrong"}
        ),
    )
    press(browser, Keys.ENTER)
    find(browser, ".woven tbody tr")
    rows = len(all_of(browser, ".woven tbody tr"))
    press(browser, "w")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".woven tbody tr")) < rows)
    press(browser, "w")
    press(browser, "d")
    until(
        browser,
        lambda page: (
            "7 rows" not in page.find_element(By.CSS_SELECTOR, ".sheet h2").text
            and "8 due" in page.find_element(By.CSS_SELECTOR, ".sheet h2").text
        ),
    )
    where = browser.current_url
    press(browser, Keys.ARROW_DOWN)
    until(browser, lambda page: page.current_url != where)
    press(browser, Keys.ESCAPE)
    find(browser, ".ask")
    assert browser.title == "Huts and their nights · Alpine data course · Jentrow"
    press(browser, Keys.ESCAPE)
    find(browser, "tr.chosen")
    assert browser.title == "Exercises · Alpine data course · Jentrow"
    assert severe(browser) == []


def test_an_engine_s_rejection_points_into_the_text(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises/14-huts-and-nights")
    find(browser, ".editor .cm-line")
    press(browser, "r")
    open_by_link(browser, "Ada Nkemelu")
    assert text_of(browser, "mark") == "NVL"
    assert text_of(browser, ".sheet h2") == "The engine says no"
    assert "COALESCE(a, b)" in text_of(browser, ".words")


def test_null_and_empty_text_never_look_alike(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises/06-meal-plans")
    table = find(browser, "table.rows")
    assert table.find_element(By.CSS_SELECTOR, ".null").text == "NULL"
    assert table.find_element(By.CSS_SELECTOR, ".empty").text == "empty"
    press(browser, "t")
    until(browser, lambda page: page.find_elements(By.CSS_SELECTOR, ".blank"))


def test_an_address_that_leads_nowhere_says_so(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/nowhere/at/all")
    assert "no such page" in text_of(browser, "h1")
    browser.get(f"{address}/exercises/nowhere")
    assert "There is no exercise 'nowhere'" in text_of(browser, "[role=alert]")


PAGES = (
    "/exercises",
    "/exercises/06-meal-plans",
    "/exercises/14-huts-and-nights",
    "/exercises/18-down-the-river",
    "/exercises/18-down-the-river#steps",
    "/exercises/11-blankets#trial",
    "/exercises/11-blankets#counts",
    "/answers/21",
    "/answers/3",
    "/answers/4",
    "/answers/11",
    "/samples",
    "/samples/huts",
    "/samples/gauges",
    "/make-a-sample",
    "/sheets",
    "/take-a-pack-in",
    "/take-answers-in",
    "/people",
    "",
    "/marking/01-high-huts",
    "/marking/14-huts-and-nights?shown=parting",
    "/marks",
    "/marks?shown=plots",
    "/feedback/1-choosing-rows?learner=1",
)

IN_THE_DARK = (
    "/exercises", "/exercises/18-down-the-river", "/answers/3", "/samples/huts", "/sheets",
    "/make-a-sample", "/take-answers-in", "/people", "/marking/01-high-huts", "/marks",
    "/marks?shown=plots",
)  # fmt: skip

WITHOUT_SCROLLING = (
    "/exercises", "/exercises/14-huts-and-nights", "/answers/21", "/samples", "/samples/gauges",
    "/make-a-sample", "/sheets", "/take-a-pack-in", "/take-answers-in",
)  # fmt: skip

COLOURED_LATER = """
    const late = [...document.querySelectorAll("body *")].filter((one) => {
        const { transitionDuration, transitionProperty } = getComputedStyle(one);
        return parseFloat(transitionDuration) > 0 && /all|color/.test(transitionProperty);
    });
    return [...new Set(late.map((one) => one.getAttribute("class")))];
"""
"""Whose colours come a moment after what they tell: whoever moves on by keys sees where they were."""

AT_EVERY_SIZE = ("/exercises", "/sheets", "/people", "/answers/3", "/samples/huts")


@pytest.mark.parametrize("path", PAGES)
def test_a_page_is_accessible_and_whole(browser: Chrome, address: str, path: str) -> None:
    """In both themes, and at the sizes that there are; a page is loaded once for all of it."""
    browser.get(address + path)
    find(browser, "main .sheet, main.sheet")
    find(browser, "main li, main tbody tr, main dl, main .zone")
    if "#" in path:
        keys = {"steps": "p", "trial": Keys.ARROW_DOWN, "counts": "2"}
        press(browser, keys[path.split("#")[1]])
        find(browser, ".trace nav li, .ledger, #rule-row_order")
        drawn(browser)  # what is chosen
    assert violations(browser) == []
    assert browser.execute_script(COLOURED_LATER) == []
    if path in WITHOUT_SCROLLING:
        taller = "return document.documentElement.scrollHeight - window.innerHeight"
        assert browser.execute_script(taller) <= 0
    if path in IN_THE_DARK:
        with in_the_dark(browser):
            drawn(browser)
            assert violations(browser, OF_COLOURS) == []
    for width, height in SIZES if path in AT_EVERY_SIZE else ():
        with sized(browser, width, height):
            until(browser, lambda page: page.execute_script(WIDER_THAN_THE_WINDOW) == [])
            last = find(browser, ".all-keys").rect
            assert last["x"] + last["width"] <= width


@pytest.mark.parametrize("key", ["?", Keys.F1, "/"])
def test_what_opens_above_a_page_passes_them_too(browser: Chrome, address: str, key: str) -> None:
    browser.get(f"{address}/exercises")
    find(browser, "tr.chosen")
    press(browser, key)
    find(browser, ".el-overlay .el-dialog, .el-overlay .el-drawer")
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, "[class*=-enter-active]"))
    assert violations(browser) == []
    assert browser.execute_script(COLOURED_LATER) == []


def test_a_submission_is_taken_apart_on_the_dataset_in_view(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/answers/3")
    find(browser, ".woven tbody tr")
    press(browser, "p")
    find(browser, ".pairs")
    press(browser, "p")
    until(browser, lambda page: "8 rows kept" in page.find_element(By.CSS_SELECTOR, ".trace").text)
    press(browser, "d")
    until(browser, lambda page: "5 rows kept" in page.find_element(By.CSS_SELECTOR, ".trace").text)
    press(browser, Keys.ARROW_RIGHT)
    until(browser, lambda page: "WHERE" in page.find_element(By.CSS_SELECTOR, ".clause").text)
    press(browser, "p")
    until(browser, lambda page: "made-up datasets were tried" in text_of(page, ".explained"))
    press(browser, "p")
    find(browser, ".woven tbody tr")
