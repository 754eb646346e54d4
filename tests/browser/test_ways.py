"""Finding one's way: the guide, the search, what stands in the address, other sizes."""

from __future__ import annotations

import pytest
from selenium.webdriver import Chrome, Keys
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.steps import all_of, call, choose, entry, find, press, sized, text_of, until
from tests.browser.test_people import BUSY, ada, says, write  # noqa: F401

pytestmark = pytest.mark.browser


def names(browser: Chrome) -> list[str]:
    return [one.text for one in all_of(browser, "tbody tr td:nth-child(2) a")]


def test_the_guide_opens_where_one_is_and_is_searched(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/sheets")
    find(browser, ".sheets li.chosen")
    press(browser, Keys.F1)
    heading = find(browser, "#guide-sheets")
    until(browser, lambda page: 0 < heading.location["y"] < 700)
    # What is typed goes into its search, and keys of the page beside it do nothing.
    ActionChains(browser).send_keys("tie limit").perform()
    found = until(browser, lambda page: page.find_elements(By.CSS_SELECTOR, ".found li a"))
    assert len(found) > 1
    found[0].click()
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".found"))
    press(browser, Keys.ESCAPE)
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".guide"))
    assert text_of(browser, ".sheets li.chosen b") == "Choosing rows"


def test_things_are_found_by_name(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises")
    find(browser, "tr.chosen")
    for words, ending in {
        "warden": "/samples/huts?table=wardens",
        "busy": "/exercises/08-busy-huts",
        "joins": "/sheets?sheet=3-joins-and-beyond",
        "nkemelu": "/people?learner=alp-101",
        "import answ": "/take-answers-in",
    }.items():
        press(browser, "/")
        field = find(browser, ".search input")
        until(browser, lambda page, field=field: page.switch_to.active_element == field)
        field.send_keys(words)
        until(
            browser,
            lambda page: page.find_elements(By.CSS_SELECTOR, ".found-places li.highlighted"),
        )
        press(browser, Keys.ENTER)
        until(browser, lambda page, ending=ending: ending in page.current_url)
        until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".search"))


def test_the_list_is_narrowed_and_sorted_and_comes_back(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises")
    assert len(names(browser)) == 18
    choose(browser, find(browser, "[aria-label='Of the sample']"), "gauges")
    until(browser, lambda page: len(names(page)) == 8)
    choose(browser, find(browser, "[aria-label='In the state']"), "without answers")
    heads = {one.text: one for one in all_of(browser, "th button")}
    heads["exercise"].click()
    until(browser, lambda page: names(page) == sorted(names(page)))
    press(browser, Keys.ARROW_DOWN)
    chosen = text_of(browser, "tr.chosen td:nth-child(2) a")
    assert chosen == names(browser)[1]
    press(browser, Keys.ENTER)
    until(browser, lambda page: "/exercises/" in page.current_url)
    find(browser, ".ask")
    browser.back()
    until(browser, lambda page: text_of(page, "tr.chosen td:nth-child(2) a") == chosen)
    assert "sample=gauges" in browser.current_url
    browser.refresh()
    assert text_of(browser, "tr.chosen td:nth-child(2) a") == chosen


def test_back_from_an_answer_brings_the_answers(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises/01-high-huts")
    find(browser, ".ask")
    press(browser, "r")
    find(browser, "aside li .verdict")
    press(browser, Keys.ARROW_DOWN)
    press(browser, Keys.ARROW_DOWN)
    third = text_of(browser, "aside li.chosen .who")
    press(browser, Keys.ENTER)
    until(browser, lambda page: "/answers/" in page.current_url)
    find(browser, ".submission")
    browser.back()
    until(browser, lambda page: text_of(page, "aside li.chosen .who") == third)
    press(browser, Keys.ENTER)
    find(browser, ".submission")
    press(browser, Keys.ESCAPE)
    until(browser, lambda page: text_of(page, "aside li.chosen .who") == third)


def test_exercises_of_a_sheet_are_dragged_and_moved_by_keys(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/sheets?sheet=2-groups-order-sets")
    before = names(browser)
    assert len(before) == 7
    handles = all_of(browser, ".handle")
    grip = ActionChains(browser).click_and_hold(handles[0]).move_by_offset(0, 8)
    grip.move_to_element_with_offset(handles[2], 0, 6).pause(0.2).release().perform()
    until(browser, lambda page: names(page)[2] == before[0])
    assert names(browser) == [before[1], before[2], before[0], *before[3:]]
    row = all_of(browser, "tbody tr")[2]
    row.find_element(By.TAG_NAME, "a").send_keys(Keys.ALT, Keys.ARROW_UP)
    until(browser, lambda page: names(page)[1] == before[0])
    row.find_element(By.TAG_NAME, "a").send_keys(Keys.ALT, Keys.ARROW_UP)
    until(browser, lambda page: names(page) == before)
    assert not find(browser, ".sheet .el-button").is_enabled(), "it is as it was"
    assert len(call(address, "/sheets")[1]["entries"]) == 7


def test_a_sample_begins_with_pasted_text(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/make-a-sample")
    field = find(browser, ".pasted textarea")
    field.send_keys("boat,length\nAuk,9\nTern,\n")
    field.send_keys(Keys.CONTROL, Keys.ENTER)
    until(browser, lambda page: page.find_elements(By.CSS_SELECTOR, "form.keep"))
    assert "boat" in find(browser, ".making .sheet").get_attribute("innerHTML")
    assert not browser.find_elements(By.CSS_SELECTOR, ".choices")


def test_answers_are_pasted(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/take-answers-in")
    field = find(browser, ".pasted textarea")
    field.send_keys("learner,exercise,sql\nNobody New,01-high-huts,SELECT 1\n")
    find(browser, ".pasted button").click()
    says(browser, ".taking", "1 answer to import")
    says(browser, ".taking", "Nobody New")


def test_a_telephone_shows_one_part_at_a_time(ada: Chrome, address: str) -> None:  # noqa: F811
    with sized(ada, 390, 844, mobile=True):
        ada.get(address + BUSY)
        says(ada, ".asked h1", "Busy huts")
        assert not find(ada, ".work").is_displayed()
        assert not find(ada, ".own-tables").is_displayed()
        parts = {one.text: one for one in all_of(ada, ".panes .el-segmented__item")}
        parts["Tables"].click()
        until(ada, lambda page: find(page, ".own-tables").is_displayed())
        assert not find(ada, ".prompt").is_displayed()
        parts["Write"].click()
        until(ada, lambda page: find(page, ".editor").is_displayed())
        write(ada, "SELECT hut_id FROM stays -- from a telephone")
        ada.find_element(By.XPATH, "//button[normalize-space()='Hand in']").click()
        says(ada, ".came h2", "Wrong")
        assert not find(ada, ".editor").is_displayed()
        find(ada, ".came .next button").click()
        until(ada, lambda page: find(page, ".editor").is_displayed())
        wide = "return document.documentElement.scrollWidth - document.documentElement.clientWidth"
        assert ada.execute_script(wide) == 0
        ada.get(f"{address}/own")
        titles = all_of(ada, "article tbody a")
        assert {round(one.rect["height"]) for one in titles} == {round(titles[0].rect["height"])}, (
            "no title is broken into lines where there is room"
        )
        rows = all_of(ada, "article tbody tr")
        assert {one.rect["width"] for one in rows} == {find(ada, "article").rect["width"]}
        assert ada.execute_script(wide) == 0


def test_a_list_of_choices_looks_the_same_on_every_page(browser: Chrome, address: str) -> None:
    """What a page says of its own lists is not said of the choices that it offers."""
    looks = {}
    for path, select in (("/exercises", "main .el-select"), ("/sheets", "aside .el-select")):
        browser.get(address + path)
        find(browser, select).click()
        until(browser, lambda page: entry(page, ""))
        looks[path] = browser.execute_script(
            "const item = [...document.querySelectorAll('.el-select-dropdown__item')]"
            "    .find((one) => one.checkVisibility());"
            "const {display, height, padding, borderTopWidth} = getComputedStyle(item);"
            "return [display, height, padding, borderTopWidth];"
        )
    assert looks["/exercises"] == looks["/sheets"]
