"""Engines in the browser: a query on every one of them, an exercise moved to another."""

from __future__ import annotations

from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By

from tests.browser.steps import all_of, answered, choose, find, text_of, until


def button(browser: Chrome, within: str, words: str) -> None:
    def wanted(page: Chrome) -> object:
        found = page.find_elements(By.CSS_SELECTOR, f"{within} button")
        return next((one for one in found if one.text.strip() == words), None)

    until(browser, wanted).click()


def test_a_query_is_shown_on_every_engine(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/samples/huts")
    find(browser, ".pin table")
    browser.find_element(By.TAG_NAME, "body").send_keys("q")
    editor = find(browser, ".dock .cm-content")
    editor.click()
    editor.send_keys("SELECT name, beds / 4 AS rooms FROM huts")
    button(browser, ".dock", "on every engine")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".engines section")) == 4)
    said = [one.text for one in all_of(browser, ".engines section")]
    assert "12 rows" in said[0]
    assert "not the same" in said[1]
    assert "DuckDB gives a fraction" in said[1]
    assert "the same rows" in said[2]
    button(browser, ".dock", "Run")
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".engines"))


def test_an_exercise_is_moved_after_a_look(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises/10-three-highest")
    choose(browser, find(browser, "[aria-label=engine]"), "DuckDB")
    until(browser, lambda page: "gives the same rows on both" in text_of(page, ".move"))
    assert "trial" in text_of(browser, ".move")
    button(browser, ".el-dialog", "Use these texts on DuckDB")
    until(browser, lambda page: "Save" in text_of(page, "main"))
    until(
        browser,
        lambda page: (
            "DuckDB" in find(page, ".task-panel").text
            or page.find_elements(By.CSS_SELECTOR, ".engine .el-select__selected-item")
        ),
    )
    until(browser, lambda page: page.find_elements(By.CSS_SELECTOR, "[aria-label=engine]"))
    shown = find(browser, ".engine").text
    assert shown.startswith("DuckDB")
    # Back on SQLite, so that nothing of it stays for other tests.
    choose(browser, find(browser, "[aria-label=engine]"), "SQLite")
    until(browser, lambda page: "gives the same rows on both" in text_of(page, ".move"))
    button(browser, ".el-dialog", "Use these texts on SQLite")
    until(browser, lambda page: find(page, ".engine").text.startswith("SQLite"))


STOOD_IN = """new Response(JSON.stringify({
    ...await (await ask()).json(), runs_as: "SELECT 1", doubts: ["Another engine may refuse it."],
}))"""


def test_what_a_stand_in_runs_is_said_once(browser: Chrome, address: str) -> None:
    with answered(browser, r"\/submissions\/21$", STOOD_IN):
        browser.get(f"{address}/answers/21")
        find(browser, ".woven tbody tr")
        said = [one.text for one in all_of(browser, ".answer summary, .answer .doubts")]
    assert said == ["Another engine may refuse it.", "What the stand-in runs"]
