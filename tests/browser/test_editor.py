"""Writing queries as people do: what the editors offer, what they run, what tables give them."""

from __future__ import annotations

import pytest
from selenium.webdriver import Chrome, Keys
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.steps import come_signed_in, find, leave_editor, press, until
from tests.browser.test_people import BUSY, ada, press_button, says  # noqa: F401

pytestmark = pytest.mark.browser


def held(browser: Chrome, key: str) -> None:
    ActionChains(browser).key_down(Keys.CONTROL).send_keys(key).key_up(Keys.CONTROL).perform()


def typed_afresh(browser: Chrome, text: str) -> None:
    held(browser, "a")
    ActionChains(browser).send_keys(Keys.DELETE).send_keys(text).perform()


def offered(browser: Chrome) -> list[str]:
    find(browser, ".cm-tooltip-autocomplete li")
    return [
        one.text
        for one in browser.find_elements(By.CSS_SELECTOR, ".cm-completionLabel")
        if one.text
    ]


def written(browser: Chrome) -> str:
    return "\n".join(one.text for one in browser.find_elements(By.CSS_SELECTOR, ".cm-line"))


@pytest.fixture
def editing(ada: Chrome, address: str) -> Chrome:  # noqa: F811
    """A learner's browser, the cursor in the editor."""
    ada.get(f"{address}{BUSY}")
    says(ada, ".asked h1", "Busy huts")
    find(ada, ".own-tables tbody tr")
    find(ada, ".cm-content").click()
    return ada


@pytest.mark.parametrize(
    ("text", "first", "never"),
    [
        ("SELECT * FROM st", "stays", "COUNT"),
        ("SELECT h.r FROM huts AS h WHERE h.r", "region", "RANK"),
        ("SELECT guest FROM stays WHERE ni", "nights", "name"),
        ("SELECT s.guest FROM stays s WHERE s.ar", "arrival", "altitude_m"),
        ("SELECT coa", "COALESCE", "COUNT"),
        ("SELECT guest FROM stays ORD", "ORDER BY", "OR"),
    ],
)
def test_what_is_in_scope_is_offered_first(
    editing: Chrome, text: str, first: str, never: str
) -> None:
    typed_afresh(editing, text)
    until(editing, lambda page: offered(page)[:1] == [first])
    letters = text.split()[-1].rpartition(".")[2].lower()
    assert all(one.lower().startswith(letters) for one in offered(editing))
    assert never not in offered(editing)


def test_a_case_comes_as_its_whole_frame(editing: Chrome) -> None:
    typed_afresh(editing, "SELECT CAS")
    until(editing, lambda page: offered(page)[:1] == ["CASE"])
    press(editing, Keys.TAB)
    until(
        editing,
        lambda page: written(page) == "SELECT CASE WHEN condition THEN value ELSE other END",
    )
    # The first place is chosen: what is typed stands in it; Tab goes on to the next.
    ActionChains(editing).send_keys("nights > 3").perform()
    until(editing, lambda page: "WHEN nights > 3 THEN value" in written(page))


def test_brackets_and_quotes_close_and_are_typed_over(editing: Chrome) -> None:
    typed_afresh(editing, "SELECT COUNT(*) FROM huts WHERE region = 'North'")
    until(
        editing,
        lambda page: written(page) == "SELECT COUNT(*) FROM huts WHERE region = 'North'",
    )


def test_the_statement_at_the_cursor_runs_and_what_is_selected(editing: Chrome) -> None:
    typed_afresh(editing, "SELECT 'a;b' AS one -- ;\n;\nSELECT 2 AS two, 3 AS three")
    held(editing, Keys.HOME)
    held(editing, Keys.ENTER)
    says(editing, ".result th", "one")
    says(editing, ".result", "of the part that was run")
    held(editing, Keys.END)
    held(editing, Keys.ENTER)
    says(editing, ".result th", "two")
    keys = ActionChains(editing).key_down(Keys.SHIFT)
    for _ in range(len(", 3 AS three")):
        keys.send_keys(Keys.ARROW_LEFT)
    keys.key_up(Keys.SHIFT).send_keys(Keys.DELETE).perform()
    typed_afresh(editing, "SELECT nmae\nFROM huts; SELECT 1")
    held(editing, Keys.HOME)
    held(editing, Keys.ENTER)
    says(editing, ".result", "Did you mean name?")
    assert find(editing, ".wrong-here").text == "nmae"


def test_a_cell_gives_its_value(editing: Chrome) -> None:
    typed_afresh(editing, "SELECT * FROM huts WHERE region = ")
    cell = editing.find_element(
        By.XPATH, "//*[contains(@class,'own-tables')]//td[normalize-space()='North'][1]"
    )
    cell.click()
    until(editing, lambda page: written(page).endswith("region = 'North'"))
    held(editing, Keys.ENTER)
    says(editing, ".result", "3 rows")
    # With the keys: into the rows, to a cell, and its value into the text.
    typed_afresh(editing, "SELECT * FROM huts WHERE beds = ")
    body = find(editing, ".own-tables tbody")
    editing.execute_script("arguments[0].focus()", body)
    press(editing, Keys.ARROW_DOWN)
    for _ in range(4):
        press(editing, Keys.ARROW_RIGHT)
    press(editing, Keys.ENTER)
    until(editing, lambda page: written(page).endswith("beds = 28"))


def test_a_cell_of_a_step_gives_its_value(editing: Chrome) -> None:
    typed_afresh(editing, "SELECT hut_id FROM huts WHERE beds > 20 AND region = 'East'")
    leave_editor(editing)
    press(editing, "s")
    says(editing, ".trace", "WHERE")
    press(editing, Keys.ARROW_DOWN)
    steps = ".trace tbody.gives"
    # FROM has this row too: what WHERE makes of it tells its own rows from those before.
    find(editing, f"{steps} td.told")
    says(editing, steps, "Silberhorn")
    editing.find_element(By.XPATH, "//*[contains(@class,'trace')]//td[.='Silberhorn']").click()
    until(editing, lambda page: written(page).endswith("'Silberhorn'"))
    # What the condition makes of a row is no value of it.
    before = written(editing)
    editing.find_element(By.CSS_SELECTOR, f"{steps} td.told").click()
    editing.execute_script("arguments[0].focus()", find(editing, steps))
    press(editing, Keys.ARROW_RIGHT)
    press(editing, Keys.ENTER)
    until(editing, lambda page: written(page) != before)
    assert written(editing) == before + " 'North'"


def test_a_script_on_the_own_copy_says_which_statement_failed(editing: Chrome) -> None:
    press(editing, Keys.ESCAPE)
    editing.find_element(By.XPATH, "//label[contains(., 'my own copy')]").click()
    says(editing, ".act", "CREATE and ALTER work here")
    find(editing, ".cm-content").click()
    typed_afresh(editing, "UPDATE huts SET beds = 1;\nDELETE FROM stays WHERE nihgts = 1")
    held(editing, Keys.ENTER)
    says(editing, ".result", "Statement 2: There is no column nihgts. Did you mean nights?")
    says(editing, ".result", "Nothing was changed")
    assert find(editing, ".wrong-here").text == "nihgts"
    typed_afresh(editing, "UPDATE huts SET beds = 1")
    held(editing, Keys.ENTER)
    says(editing, ".result", "12 rows changed")
    says(editing, ".result .remark", "It has no WHERE: every row of the table is changed.")


def test_an_earlier_run_is_found_named_and_taken_up(editing: Chrome) -> None:
    for text, said in {"SELECT 7 AS seven": "1 row", "SELECT name FROM huts": "12 rows"}.items():
        typed_afresh(editing, text)
        held(editing, Keys.ENTER)
        says(editing, ".result", said)
    leave_editor(editing)
    press(editing, "r")
    says(editing, ".history li", "SELECT name FROM huts")
    find(editing, ".history input").send_keys("seven")
    until(editing, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".history li")) == 1)
    find(editing, ".history li .el-button.is-link").click()
    find(editing, ".history form input").send_keys("lucky" + Keys.ENTER)
    says(editing, ".history b", "lucky")
    find(editing, ".history li .el-button").click()
    until(editing, lambda page: written(page) == "SELECT 7 AS seven")
    assert not editing.find_elements(By.CSS_SELECTOR, ".history")


def test_one_s_own_query_step_by_step(editing: Chrome) -> None:
    typed_afresh(editing, "SELECT guest FROM stays WHERE meal_plan <> 'half'\n")
    leave_editor(editing)
    press(editing, "s")
    says(editing, ".trace", "14 rows kept")
    press(editing, Keys.ARROW_DOWN)
    says(editing, ".trace .parts", "7 unknown")
    held(editing, Keys.ENTER)
    editing.find_element(By.XPATH, "//button[normalize-space()='Run']").click()
    says(editing, ".result", "14 rows")
    assert not editing.find_elements(By.CSS_SELECTOR, ".trace")


def test_enter_is_a_new_line_in_prose_too(visitor: Chrome, address: str) -> None:
    come_signed_in(visitor, address, "instructor")
    visitor.get(f"{address}/exercises/08-busy-huts")
    press_button(visitor, "write")
    find(visitor, ".prose-editor .cm-content").click()
    typed_afresh(visitor, "List every hut")
    until(visitor, lambda page: "huts" in offered(page))
    press(visitor, Keys.ENTER)
    ActionChains(visitor).send_keys("and its regi").perform()
    until(visitor, lambda page: "region" in offered(page))
    press(visitor, Keys.TAB)
    until(visitor, lambda _: prose(visitor) == "List every hut\nand its region")


def prose(browser: Chrome) -> str:
    lines = browser.find_elements(By.CSS_SELECTOR, ".prose-editor .cm-line")
    return "\n".join(one.text for one in lines)


def keywords(browser: Chrome) -> set[str]:
    found = browser.find_elements(By.CSS_SELECTOR, ".cm-line .tok-keyword")
    return {one.text for one in found}


def test_the_words_of_the_exercises_engine_are_keywords(editing: Chrome, address: str) -> None:
    text = "SELECT name FROM rivers WHERE name ILIKE 'a' QUALIFY true RETURNING name"
    typed_afresh(editing, text)
    until(editing, lambda page: keywords(page) >= {"SELECT", "FROM", "WHERE", "RETURNING"})
    assert not keywords(editing) & {"QUALIFY", "ILIKE", "name"}
    editing.get(f"{address}{BUSY.replace('08-busy-huts', '09-long-rivers')}")  # on DuckDB
    says(editing, ".asked h1", "longest rivers")
    find(editing, ".cm-content").click()
    typed_afresh(editing, text)
    until(editing, lambda page: keywords(page) >= {"QUALIFY", "ILIKE", "RETURNING"})
    assert "name" not in keywords(editing)


def test_what_an_engine_gives_is_shown_as_people_write_it(editing: Chrome, address: str) -> None:
    editing.get(f"{address}{BUSY.replace('08-busy-huts', '09-long-rivers')}")  # on DuckDB
    says(editing, ".asked h1", "longest rivers")
    find(editing, ".cm-content").click()
    typed_afresh(
        editing,
        "SELECT [1, NULL] AS pair, {'a': 1.5, 'b': ['x']} AS part, [DATE '2026-11-01'] AS days, "
        "INTERVAL 36 HOURS AS span, CAST(2.5 AS NUMERIC(6, 1)) AS wide",
    )
    held(editing, Keys.ENTER)
    rows = ".result tbody td"
    says(editing, rows, "[1, NULL]")
    shown = [one.text for one in editing.find_elements(By.CSS_SELECTOR, rows)]
    assert shown == ["[1, NULL]", '{a: 1.5, b: ["x"]}', "[2026-11-01]", "36:00:00", "2.5"]
