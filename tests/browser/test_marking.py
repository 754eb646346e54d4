"""The marking desk, the page of marks, publishing and questions, as people use them."""

from __future__ import annotations

import io
from typing import Any

from openpyxl import load_workbook
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.steps import (
    all_of,
    answered,
    call,
    come_signed_in,
    find,
    leave,
    open_url,
    press,
    severe,
    sized,
    take_in,
    text_of,
    until,
)

SLUG = "14-huts-and-nights"
DESK = f"/marking/{SLUG}"


def desk_of(address: str, slug: str = SLUG) -> Any:
    return call(address, f"/marking/{slug}")


def open_desk(browser: Chrome, address: str, slug: str = SLUG) -> None:
    browser.get(f"{address}/marking/{slug}")
    find(browser, ".decided-now")


def undo_all(address: str, slug: str = SLUG) -> None:
    for one in desk_of(address, slug)["history"]:
        if not one["undone_at"]:
            call(address, f"/marking/{slug}/undo", "POST", {"decision": one["id"]})


def chosen(browser: Chrome) -> str:
    return text_of(browser, ".chosen .title")


def test_a_group_is_decided_by_keyboard_alone(browser: Chrome, address: str) -> None:
    open_desk(browser, address)
    group = next(one for one in desk_of(address)["groups"] if one["verdict"] == "incorrect")
    press(browser, Keys.ARROW_UP)
    until(browser, lambda page: chosen(page) == "Right")
    press(browser, "n")
    until(browser, lambda page: group["title"] == chosen(page))
    press(browser, "m")
    until(browser, lambda page: page.switch_to.active_element.get_attribute("id") == "mark")
    press(browser, "1.5")
    press(browser, Keys.ENTER)
    until(browser, lambda page: "the mark 1.5" in text_of(page, ".acts .el-button--primary"))
    press(browser, "c")
    until(browser, lambda page: page.switch_to.active_element.tag_name == "textarea")
    press(browser, "Half of it.")
    press(browser, Keys.ESCAPE)
    press(browser, Keys.ENTER)
    until(browser, lambda page: "decided: 1.5 of" in text_of(page, ".decided-now .said"))
    until(browser, lambda page: desk_of(address)["decided"] >= group["size"])
    decided = next(one for one in desk_of(address)["groups"] if one["key"] == group["key"])
    assert {one["mark"] for one in decided["answers"]} == {1.5}
    assert desk_of(address)["history"][0]["comment"] == "Half of it."
    press(browser, "u")
    until(browser, lambda page: text_of(page, ".decided-now .said").startswith("Undone:"))
    assert desk_of(address)["history"][0]["undone_by"] == "Alma Rieder"
    assert severe(browser) == []


def test_another_dataset_the_parting_and_the_wordings_by_keys(
    browser: Chrome, address: str
) -> None:
    open_desk(browser, address, "14-huts-and-nights")
    find(browser, ".woven")
    press(browser, "w")
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, "[data-kind=agrees]"))
    press(browser, "p")
    until(browser, lambda page: "here they part" in text_of(page, ".pairs"))
    find(browser, ".woven")
    press(browser, "p")
    find(browser, ".trace")
    press(browser, "p")
    press(browser, "d")
    until(browser, lambda page: "dataset=" not in page.current_url and find(page, ".woven"))
    assert severe(browser) == []


def test_two_instructors_on_one_group(browser: Chrome, address: str) -> None:
    open_desk(browser, address)
    group = next(one for one in desk_of(address)["groups"] if one["verdict"] == "incorrect")
    until(browser, lambda page: chosen(page) == group["title"])
    # The page hears of nothing: it decides by what it has seen.
    browser.execute_cdp_cmd("Network.enable", {})
    browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/events", f"*{DESK}?*"]})
    ids = [one["id"] for one in group["answers"]]
    body = {"answers": ids, "mark": 1, "seen": 2**40}
    call(address, f"{DESK}/decisions", "POST", body)
    try:
        press(browser, Keys.ENTER)
        until(
            browser, lambda page: "meanwhile (a mark of 1)" in text_of(page, "aside [role=alert]")
        )
    finally:
        browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": []})
    answers = next(one for one in desk_of(address)["groups"] if one["key"] == group["key"])[
        "answers"
    ]
    assert {one["mark"] for one in answers} == {1.0}
    browser.refresh()
    find(browser, ".decided-now")
    undo_all(address)
    browser.get_log("browser")  # the address that was shut


def test_names_are_hidden_and_groups_split(browser: Chrome, address: str) -> None:
    open_desk(browser, address)
    press(browser, Keys.ARROW_UP)
    until(browser, lambda page: chosen(page) == "Right")
    name = text_of(browser, ".who")
    press(browser, "h")
    until(browser, lambda page: text_of(page, ".who").startswith("answer "))
    press(browser, "h")
    until(browser, lambda page: text_of(page, ".who") == name)
    press(browser, "s")
    until(browser, lambda page: len(all_of(page, ".parts li")) > 1)
    press(browser, Keys.ARROW_DOWN)
    until(browser, lambda page: "here" in all_of(page, ".parts button")[1].get_attribute("class"))


def test_an_alternative_is_accepted_from_the_desk(browser: Chrome, address: str) -> None:
    slug = call(address, f"/exercises/{SLUG}/copies", "POST", {"title": "Above, marked"})["slug"]
    reference = call(address, f"/exercises/{slug}")["content"]["reference"]
    text = f"SELECT * FROM ({reference.rstrip().rstrip(';')}) AS q LIMIT 1"
    flat = " ".join(text.split()).replace('"', '""')
    take_in(address, f'learner,exercise,sql\nA Guest,{slug},"{flat}"\n')
    open_desk(browser, address, slug)
    press(browser, "a")
    until(browser, lambda page: "1 answer gain" in text_of(page, ".el-dialog:not([style*='none'])"))
    buttons = browser.find_elements(By.CSS_SELECTOR, ".el-dialog .el-button--primary")
    next(one for one in buttons if one.text == "Accept answer").click()
    until(
        browser,
        lambda page: (
            len(call(address, f"/exercises/{slug}")["content"]["alternatives"]) == 1
            or call(address, f"/exercises/{slug}")["version"] == 2
        ),
    )
    until(browser, lambda page: "Right" in text_of(page, "nav[aria-label='Outcome groups']"))
    leave(browser)
    call(address, f"/exercises/{slug}?with_answers=true", "DELETE")


def outdated(page: Chrome) -> bool:
    """Whether the desk says that answers are out of date."""
    notes = page.find_elements(By.CSS_SELECTOR, ".note")
    return any("out of date" in one.text for one in notes)


def test_a_regrade_is_seen_and_then_applied(browser: Chrome, address: str) -> None:
    slug = "14-huts-and-nights"
    content = call(address, f"/exercises/{slug}")["content"]
    before = desk_of(address, slug)
    id = next(group for group in before["groups"] if group["verdict"] == "correct")["answers"][0][
        "id"
    ]
    wish = {"answers": [id], "mark": 1, "comment": "Half of it.", "seen": before["last_decision"]}
    call(address, f"/marking/{slug}/decisions", "POST", wish)
    call(address, f"/exercises/{slug}", "PUT", content | {"points": content["points"] + 1})
    open_desk(browser, address, slug)
    until(browser, outdated)
    press(browser, "r")
    until(browser, lambda page: "gain, 0 lose" in text_of(page, ".el-dialog:not([style*='none'])"))
    buttons = browser.find_elements(By.CSS_SELECTOR, ".el-dialog .el-button--primary")
    apply = next(one for one in buttons if one.text.startswith("Regrade"))
    until(browser, lambda _: apply.is_enabled())
    apply.click()
    until(browser, lambda page: not desk_of(address, slug)["outdated"])
    until(browser, lambda page: not outdated(page))
    # What was decided by hand stays, until the new marks are taken.
    assert desk_of(address, slug)["contradicted"] >= 1
    browser.find_element(By.XPATH, "//button[contains(., 'Take the new marks')]").click()
    until(browser, lambda page: "the marks of the later grading" in text_of(page, ".said"))
    until(
        browser,
        lambda page: not page.find_elements(By.XPATH, "//*[contains(., 'Take the new marks')]"),
    )
    assert call(address, f"/submissions/{id}/marks")["comment"] == "Half of it."
    call(address, f"/exercises/{slug}", "PUT", content)
    call(address, f"/exercises/{slug}/regrade", "POST")
    assert severe(browser) == []


def test_publishing_and_what_the_learner_sees_and_asks(
    browser: Chrome, visitor: Chrome, address: str
) -> None:
    sheet = "1-choosing-rows"
    row = next(one for one in call(address, "/marks")["rows"] if one["name"] == "Ada Nkemelu")
    slug, id = "01-high-huts", row["answers"][0]
    call(address, f"/marking/{slug}/decisions", "POST",
         {"answers": [id], "mark": 1, "comment": "Mind the boundary.", "seen": 2**40})  # fmt: skip
    browser.get(f"{address}/marks?publish={sheet}")
    dialog = ".el-dialog:not([style*='none'])"
    until(browser, lambda page: "will see their marks" in text_of(page, dialog))
    assert "undecided" in text_of(browser, f"{dialog} .problem")
    buttons = browser.find_elements(By.CSS_SELECTOR, ".el-dialog .el-button")
    next(one for one in buttons if one.text == "Publish anyway").click()
    until(browser, lambda page: "Take back" in text_of(page, ".about.published"))

    come_signed_in(visitor, address, "ada.nkemelu@example.org")
    visitor.get(f"{address}/own")
    find(visitor, ".published").click()
    until(visitor, lambda page: "Mind the boundary." in text_of(page, ".feedback"))
    asking = all_of(visitor, ".exercise .el-button")[0]
    assert asking.text == "Ask about this mark"
    asking.click()
    find(visitor, "textarea").send_keys("Which one?")
    find(visitor, ".ask .el-button--primary").click()
    until(visitor, lambda page: "not answered yet" in text_of(page, ".asked"))

    browser.get(address)
    until(browser, lambda page: "Ada Nkemelu asks about High huts" in text_of(page, ".needs"))
    assert len(all_of(browser, ".needs .main")) == 1, "one thing is to be done next"
    press(browser, Keys.ENTER)
    until(browser, lambda page: "Which one?" in text_of(page, ".question"))
    find(browser, ".question textarea").send_keys("2000 itself.")
    find(browser, ".question .el-button").click()
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".question"))
    # The news comes to the learner's open page by itself.
    until(visitor, lambda page: "2000 itself." in text_of(page, ".asked"))

    call(address, f"/sheets/{sheet}/unpublish", "POST")
    until(visitor, lambda page: "not published yet" in text_of(page, "main"))
    undo_all(address, slug)


NAMES_THAT_LIE_ON_SOMETHING = """
    const plot = document.querySelector(".wide .plot svg");
    const boxes = (selector) => [...plot.querySelectorAll(selector)].map((one) => [one, one.getBoundingClientRect()]);
    const names = boxes("text").filter(([one]) => /[a-z]/.test(one.textContent) && !/share of/.test(one.textContent));
    const points = boxes("path[fill]").filter(([, box]) => box.width > 9 && box.width < 20);
    if (names.length !== points.length || names.length < 3) return [names.length, "names", points.length, "points"];
    const lies = (one, other) =>
        Math.min(one.right, other.right) - Math.max(one.left, other.left) > 1
        && Math.min(one.bottom, other.bottom) - Math.max(one.top, other.top) > 2;
    return names.filter(([one, box]) => [...names, ...points].some(([other, theirs]) => other !== one && lies(box, theirs)))
        .map(([one]) => one.textContent);
"""


def test_the_page_of_marks_by_keys(browser: Chrome, address: str) -> None:
    book = call(address, "/marks")
    with sized(browser, 1280, 500):
        browser.get(f"{address}/marks")
        drawn = len(all_of(browser, ".grid tbody th"))
        assert find(browser, ".grid").get_attribute("aria-rowcount") == str(len(book["rows"]))
        assert drawn < len(book["rows"]), "what is not seen is not drawn"
    names = sorted(one["name"] for one in book["rows"])
    press(browser, Keys.ARROW_DOWN)
    press(browser, Keys.ARROW_DOWN)
    press(browser, Keys.ARROW_RIGHT)
    until(browser, lambda page: text_of(page, ".here th") == names[1])
    until(
        browser,
        lambda page: (
            text_of(page, "aside section h2") == book["sheets"][0]["exercises"][1]["title"]
        ),
    )
    for _ in book["sheets"][0]["exercises"]:
        press(browser, Keys.ARROW_RIGHT)
    press(browser, "p")
    until(browser, lambda page: "is still open" in text_of(page, ".problem"))
    for _ in book["sheets"][0]["exercises"]:
        press(browser, Keys.ARROW_LEFT)
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".problem"))
    press(browser, "x")
    until(browser, lambda page: text_of(page, "aside section h2") == names[1])
    press(browser, "f")
    press(browser, "ada")
    until(browser, lambda page: len(all_of(page, ".grid tbody th")) == 1)
    press(browser, Keys.ESCAPE)
    find(browser, "h1").click()
    press(browser, "v")
    until(browser, lambda page: "tell strong from weak" in text_of(page, ".plots"))
    for width in (1280, 860):
        with sized(browser, width, 800):
            until(browser, lambda page: page.execute_script(NAMES_THAT_LIE_ON_SOMETHING) == [])
    all_of(browser, ".plot .turn")[0].click()
    find(browser, ".plot .numbers td")
    assert severe(browser) == []


def test_columns_of_marks_out_of_sight_are_drawn_when_they_come_into_it(
    browser: Chrome, address: str
) -> None:
    size = browser.get_window_size()
    browser.set_window_size(660, 700)
    browser.get(f"{address}/marks")
    find(browser, ".grid tbody th")
    columns = int(find(browser, ".grid").get_attribute("aria-colcount") or 0)

    def drawn(page: Chrome) -> list[int]:
        cells = page.find_elements(By.CSS_SELECTOR, ".grid tbody tr:first-child [aria-colindex]")
        return [int(one.get_attribute("aria-colindex") or 0) for one in cells]

    until(browser, lambda page: 0 < len(drawn(page)) < columns - 1)
    assert drawn(browser)[0] == 2
    press(browser, Keys.ARROW_DOWN)
    for _ in range(columns):
        press(browser, Keys.ARROW_RIGHT)
    # The last exercise: behind it stand the sums of its sheet and of all.
    last = find(browser, ".grid td.cell")
    assert last.get_attribute("aria-colindex") == str(columns - 2)
    until(browser, lambda page: drawn(page)[-1] == columns and drawn(page)[0] > 2)
    cut = browser.execute_script(
        "return [...document.querySelectorAll('.grid td')]"
        ".filter((one) => one.scrollWidth > one.clientWidth).map((one) => one.textContent)"
    )
    assert cut == []
    browser.set_window_size(size["width"], size["height"])


def test_answers_on_no_sheet_are_put_where_they_belong(browser: Chrome, address: str) -> None:
    slug = call(address, "/exercises/01-high-huts/copies", "POST", {"title": "Very high huts"})[
        "slug"
    ]
    sheets = [
        call(address, "/sheets", "POST", {"title": title, "exercises": [{"exercise": slug}]})[
            "slug"
        ]
        for title in ("Early huts", "Late huts")
    ]
    take_in(address, f"learner,exercise,sql\nAda Nkemelu,{slug},SELECT 1\n")
    # Whatever else waits is out of the way, so that this is the first of them.
    only = "ask().then((said) => said.json()).then((all) => Response.json(all.filter((one) => one.kind === 'sheetless')))"
    with answered(browser, "\\/needs$", only):
        browser.get(address)
        need = find(browser, ".needs li[data-next]")
        assert "on no sheet in Very high huts" in need.text
        assert "Early huts and on Late huts" in need.text
        press(browser, Keys.ENTER)
    dialog = find(browser, ".el-dialog")
    put = dialog.find_element(By.CSS_SELECTOR, ".el-dialog__footer button:last-child")
    assert not put.is_enabled()
    dialog.find_element(By.CSS_SELECTOR, ".el-radio:nth-child(2)").click()
    until(browser, lambda _: put.is_enabled())
    put.click()
    # Its own news takes it off the list.
    until(browser, lambda page: "on no sheet" not in page.find_element(By.TAG_NAME, "main").text)
    counted = {one["slug"]: sum(row["answers"][-1] > 0 for row in call(address, "/marks")["rows"])
               for one in call(address, "/marks")["sheets"][-1:]}  # fmt: skip
    assert counted == {sheets[1]: 1}
    assert severe(browser) == []
    call(address, f"/exercises/{slug}?with_answers=true", "DELETE")
    for sheet in sheets:
        call(address, f"/sheets/{sheet}", "DELETE")


def test_marks_are_exported_from_the_page(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/marks")
    find(browser, ".export").click()
    link = until(browser, lambda page: page.find_element(By.PARTIAL_LINK_TEXT, "XLSX"))
    path = link.get_attribute("href").partition("/api/courses/alpine-data-course")[2]
    page = load_workbook(io.BytesIO(open_url(address, path))).active
    assert page is not None
    assert page.max_row == len(call(address, "/marks")["rows"]) + 1
