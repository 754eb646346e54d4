"""The sample bench and the making of samples, in a real browser."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver import Chrome, Keys
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.steps import (
    all_of,
    call,
    choose,
    confirm,
    find,
    frame_of,
    leave,
    leave_editor,
    open_by_link,
    press,
    retype,
    severe,
    text_of,
    until,
)

pytestmark = pytest.mark.browser

DROP = """
    const files = new DataTransfer();
    for (const file of arguments[0].files) files.items.add(file);
    for (const kind of ["dragenter", "dragover", "drop"]) {
        arguments[1].dispatchEvent(
            new DragEvent(kind, {dataTransfer: files, bubbles: true, cancelable: true}));
    }
    arguments[0].remove();
"""


@pytest.fixture
def bench(browser: Chrome, address: str) -> Iterator[Chrome]:
    """The bench on a copy of the huts, to be changed at will."""
    call(address, "/samples/huts/copies", "POST", {"name": "copied"})
    severe(browser)  # what earlier pages said is read, and gone with it
    browser.get(f"{address}/samples/copied")
    find(browser, "section[data-pin=stays] tbody tr")
    find(browser, "section[data-pin=huts] tbody tr")
    yield browser
    call(address, "/samples/copied", "DELETE")


def rows(browser: Chrome, table: str) -> list[WebElement]:
    return browser.find_elements(By.CSS_SELECTOR, f"section[data-pin={table}] tbody tr")


def kept(browser: Chrome) -> int:
    """How many stays there are, without the rows in the making."""
    return len(
        browser.find_elements(By.CSS_SELECTOR, "section[data-pin=stays] tbody tr:not(.draft)")
    )


def cell(browser: Chrome, table: str, row: int, column: int) -> WebElement:
    return find(
        browser,
        f"section[data-pin={table}] tbody tr:nth-child({row}) td:nth-child({column})",
    )


def typed_over(browser: Chrome, text: str) -> None:
    until(browser, lambda page: page.switch_to.active_element.tag_name == "input")
    browser.switch_to.active_element.send_keys(Keys.CONTROL + "a")
    browser.switch_to.active_element.send_keys(text + Keys.ENTER)


def until_text(browser: Chrome, selector: str, words: str) -> None:
    until(
        browser,
        lambda page: any(
            words in found.text for found in page.find_elements(By.CSS_SELECTOR, selector)
        ),
    )


def held(browser: Chrome, key: str) -> None:
    ActionChains(browser).key_down(Keys.CONTROL).send_keys(key).key_up(Keys.CONTROL).perform()


def test_the_map_brings_tables_in_sight_side_by_side(bench: Chrome) -> None:
    cards = {card.get_attribute("data-table") for card in all_of(bench, "[data-table]")}
    assert cards == {"huts", "trails", "wardens", "stays"}
    assert len(all_of(bench, "path.link")) == 5
    assert len(rows(bench, "stays")) == 38
    assert len(rows(bench, "huts")) == 12
    press(bench, "m")
    press(bench, Keys.ARROW_DOWN)
    until(
        bench,
        lambda page: page.switch_to.active_element.get_attribute("data-table") == "wardens",
    )
    press(bench, Keys.ENTER)
    until(bench, lambda page: len(rows(page, "wardens")) == 10)
    assert len(bench.find_elements(By.CSS_SELECTOR, "section.pin")) == 3
    until_text(bench, "section[data-pin=stays] th small", "10 of huts")
    find(bench, "[data-table=wardens]").click()
    until(bench, lambda page: not rows(page, "wardens"))
    press(bench, "l")
    tops = {pin.rect["y"] for pin in all_of(bench, "section.pin")}
    assert len(tops) == 1
    assert severe(bench) == []


def test_a_map_of_forty_tables_is_whole_and_legible(browser: Chrome, address: str) -> None:
    tables = [
        {
            "name": f"table_{at}",
            "columns": [{"name": f"c{n}", "type": "INTEGER"} for n in range(9)],
            "primary_key": ["c0"],
            "foreign_keys": [
                {"columns": [f"c{n + 1}"], "table": f"table_{(at - 1) // (n + 2)}", "to": ["c0"]}
                for n in range(min(2, at))
            ],
        }
        for at in range(40)
    ]
    call(address, "/samples", "POST", {"name": "forty", "tables": tables})
    browser.get(f"{address}/samples/forty")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, "[data-table]")) == 40)
    frame = find(browser, ".map").rect
    for card in all_of(browser, "[data-table]"):
        place = card.rect
        assert frame["x"] <= place["x"]
        assert place["x"] + place["width"] <= frame["x"] + frame["width"]
        assert frame["y"] <= place["y"]
        assert place["y"] + place["height"] <= frame["y"] + frame["height"]
        assert place["height"] >= 20  # the name is written in letters of nine pixels or more
    call(address, "/samples/forty", "DELETE")


def test_an_edit_that_a_constraint_refuses_is_said_at_its_cell(bench: Chrome) -> None:
    cell(bench, "stays", 1, 2).click()
    press(bench, "e")
    typed_over(bench, "99")
    until_text(bench, "td .refusal", "no row in huts with hut_id 99")
    assert bench.switch_to.active_element.get_attribute("value") == "99"  # nothing typed is lost
    typed_over(bench, "5")
    until(bench, lambda page: cell(page, "stays", 1, 2).text == "5")
    until_text(bench, ".place", "version 2")
    held(bench, "z")
    until(bench, lambda page: cell(page, "stays", 1, 2).text == "4")
    held(bench, "y")
    until(bench, lambda page: cell(page, "stays", 1, 2).text == "5")


def test_rows_are_added_duplicated_and_deleted_by_keys(bench: Chrome) -> None:
    cell(bench, "stays", 1, 3).click()
    press(bench, "d")
    until(bench, lambda page: page.switch_to.active_element.tag_name == "input")
    press(bench, Keys.ENTER)
    until(bench, lambda page: kept(page) == 39 and page.find_elements(By.CSS_SELECTOR, "tr.marked"))
    until(bench, lambda page: page.switch_to.active_element.tag_name == "td")
    press(bench, Keys.DELETE)
    until(bench, lambda page: kept(page) == 38)
    press(bench, "n")
    until(bench, lambda page: page.switch_to.active_element.tag_name == "input")
    press(bench, Keys.ENTER)
    until_text(bench, "tr.draft .refusal", "NOT NULL")
    press(bench, Keys.ESCAPE)
    until(bench, lambda page: not page.find_elements(By.CSS_SELECTOR, "tr.draft"))


def test_a_link_is_followed_and_back(bench: Chrome) -> None:
    cell(bench, "stays", 1, 2).click()
    press(bench, "f")
    until(bench, lambda page: "4" in text_of(page, "section[data-pin=huts] tr.marked td"))
    press(bench, "f")
    until(
        bench,
        lambda page: find(page, "section[data-pin=trails] .condition input").get_attribute("value"),
    )
    press(bench, "b")
    press(bench, "b")
    until(
        bench,
        lambda page: (
            page.find_elements(By.CSS_SELECTOR, "section[data-pin=stays] td.here")
            and not rows(page, "trails")
        ),
    )


def test_rows_are_sorted_and_narrowed(bench: Chrome) -> None:
    cell(bench, "stays", 1, 5).click()
    press(bench, "s")
    press(bench, "s")
    until(bench, lambda page: cell(page, "stays", 1, 5).text == "6")
    press(bench, "w")
    until(bench, lambda page: page.switch_to.active_element.tag_name == "input")
    bench.switch_to.active_element.send_keys("nights = " + Keys.ENTER)
    until_text(bench, "section[data-pin=stays] [role=alert]", "cannot be read")
    bench.switch_to.active_element.send_keys("4" + Keys.ENTER)
    until(bench, lambda page: {row.text.split()[4] for row in rows(page, "stays")} == {"4"})


def test_what_is_missing_is_one_key_away(bench: Chrome) -> None:
    until_text(bench, ".showing .missing", "empty text in guest")
    press(bench, "a")
    find(bench, "tr.draft")
    until(bench, lambda page: page.switch_to.active_element.tag_name == "input")
    press(bench, Keys.ENTER)
    until(bench, lambda page: kept(page) == 39)
    until(
        bench,
        lambda page: all(
            "empty text in guest" not in one.text
            for one in page.find_elements(By.CSS_SELECTOR, ".showing .missing")
        ),
    )


def test_a_version_is_compared_and_brought_back(bench: Chrome) -> None:
    cell(bench, "huts", 1, 5).click()
    press(bench, "e")
    typed_over(bench, "7")
    until(bench, lambda page: cell(page, "huts", 1, 5).text == "7")
    press(bench, "v")
    until_text(bench, ".versions .list", "huts, row 1: beds = '7'")
    changed = find(bench, ".woven tr[data-kind=differs]")
    assert "42" in changed.text
    assert "7" in changed.text
    press(bench, Keys.ARROW_DOWN)
    until_text(bench, ".versions .tools", "Bring version 1 back")
    until(bench, lambda page: find(page, ".versions .tools button").is_enabled())
    find(bench, ".versions .tools button").click()
    until_text(bench, ".versions .list", "version 1 restored")
    press(bench, "r")
    until(bench, lambda page: cell(page, "huts", 1, 5).text == "42")


def test_queries_are_tried_and_compared(bench: Chrome) -> None:
    press(bench, "q")
    until(bench, lambda page: "cm-content" in page.switch_to.active_element.get_attribute("class"))
    bench.switch_to.active_element.send_keys("SELECT region FROM huts")
    held(bench, Keys.ENTER)
    until_text(bench, ".dock .said", "12 rows")
    # The value in hand goes into the query.
    leave_editor(bench)
    value = "section[data-pin=huts] tbody td:nth-of-type(3)"
    until(bench, lambda page: page.find_element(By.CSS_SELECTOR, value).click() is None)
    press(bench, "i")
    until_text(bench, ".dock .cm-content", "huts 'North'")
    held(bench, Keys.ENTER)
    until_text(bench, ".dock .said", "12 rows")
    find(bench, ".dock .said .is-link").click()
    until(bench, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".cm-content")) == 2)
    second = bench.find_elements(By.CSS_SELECTOR, ".cm-content")[1]
    until(bench, lambda page: page.switch_to.active_element == second)
    held(bench, "a")
    second.send_keys("SELECT DISTINCT region FROM huts")
    held(bench, Keys.ENTER)
    until_text(bench, ".dock .said", "not the same")
    assert len(all_of(bench, ".dock .woven tr[data-kind=times]")) == 4


def test_the_query_is_left_at_once(bench: Chrome) -> None:
    press(bench, "q")
    until(bench, lambda page: "cm-content" in page.switch_to.active_element.get_attribute("class"))
    left = bench.execute_script(
        "const escape = new KeyboardEvent('keydown', {key: 'Escape', bubbles: true});"
        "document.activeElement.dispatchEvent(escape); return document.activeElement.tagName;"
    )
    assert left == "BODY"
    until(bench, lambda page: not page.find_element(By.CSS_SELECTOR, ".dock").is_displayed())


def hand_in(browser: Chrome, *paths: Path) -> None:
    zone = find(browser, ".zone .el-upload-dragger")
    field = browser.execute_script(
        "const field = document.createElement('input'); field.type = 'file';"
        "field.multiple = true; return document.body.appendChild(field);"
    )
    field.send_keys("\n".join(map(str, paths)))
    browser.execute_script(DROP, field, zone)


def test_csv_files_are_corrected_and_made(browser: Chrome, address: str, tmp_path: Path) -> None:
    rivers, weirs = tmp_path / "rivers.csv", tmp_path / "weirs.csv"
    rivers.write_text("river_id,name\n1,Lind\n2,Sarn\n", encoding="utf-8")
    weirs.write_text("code,river_id,height\nW1,1,2.5\nW2,2,low\n", encoding="utf-8")
    browser.get(f"{address}/make-a-sample")
    hand_in(browser, rivers, weirs)
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".plan")) == 2)
    plan = all_of(browser, ".plan")[1]
    until(
        browser,
        lambda page: "rivers.river_id" in page.find_elements(By.CSS_SELECTOR, ".plan")[1].text,
    )
    choose(
        browser, plan.find_element(By.CSS_SELECTOR, "input[aria-label='type of height']"), "decimal"
    )
    name = find(browser, ".keep input")
    retype(name, "weirs" + Keys.ENTER)
    until_text(browser, ".problems tbody tr", "'low' is not a number")
    find(browser, ".problems .el-button").click()
    plan = all_of(browser, ".plan")[1]
    # What was corrected is still there.
    kind = plan.find_element(By.CSS_SELECTOR, "input[aria-label='type of height']")
    assert "decimal" in frame_of(kind).text
    choose(browser, kind, "text")
    until(browser, lambda page: page.find_element(By.CSS_SELECTOR, ".keep button").is_enabled())
    find(browser, ".keep button").click()
    until_text(browser, ".kept", "weirs is made")
    find(browser, ".kept button").click()
    until(browser, lambda page: len(rows(page, "weirs")) == 2)
    call(address, "/samples/weirs", "DELETE")


@pytest.mark.parametrize("page", ["make-a-sample", "take-answers-in", "take-a-pack-in"])
def test_where_one_begins_a_button_is_a_button(browser: Chrome, address: str, page: str) -> None:
    browser.get(f"{address}/{page}")
    drop = find(browser, ".zone .el-upload")
    assert drop.accessible_name.endswith("or choose them." if "sample" in page else "or choose it.")
    assert len(browser.find_elements(By.CSS_SELECTOR, ".beginnings > section")) > 1
    for button in browser.find_elements(By.CSS_SELECTOR, ".beginnings .el-button:not(.is-link)"):
        edges = {button.value_of_css_property(f"border-{side}-width") for side in ("top", "left")}
        assert edges == {"1px"}, button.text
        assert button.rect["width"] < 200, button.text


def test_tables_are_made_by_hand_and_a_script_read(
    browser: Chrome, address: str, tmp_path: Path
) -> None:
    browser.get(f"{address}/make-a-sample")
    find(browser, ".zone")
    press(browser, "h")
    find(browser, ".plan")
    until(browser, lambda page: page.switch_to.active_element.tag_name == "input")
    browser.switch_to.active_element.send_keys("by hand" + Keys.ENTER)
    until_text(browser, ".kept", "by hand is made")
    find(browser, ".kept .el-button:last-child").click()
    script = tmp_path / "dump.sql"
    script.write_text(
        "CREATE SEQUENCE s;\nCREATE TABLE gates (id serial PRIMARY KEY, t text);\n"
        "INSERT INTO gates VALUES (1, 'a');\nMERGE INTO gates USING gates ON 1 = 1;\n",
        encoding="utf-8",
    )
    hand_in(browser, script)
    until_text(browser, ".says", "Read: 1 row")
    until_text(browser, ".making-notes", "MERGE INTO gates")
    # What is of no effect is seen on demand.
    assert "CREATE SEQUENCE s" not in text_of(browser, ".making-notes")
    find(browser, ".making-notes [aria-expanded=false]").click()
    until_text(browser, ".making-notes", "CREATE SEQUENCE s")
    find(browser, ".keep button").click()
    until_text(browser, ".kept", "dump is made")
    for name in ("by hand", "dump"):
        call(address, f"/samples/{name.replace(' ', '%20')}", "DELETE")


def test_changing_tables_keeps_what_columns_declare(
    browser: Chrome, address: str, tmp_path: Path
) -> None:
    script = tmp_path / "declared.sql"
    script.write_text(
        "CREATE TABLE gates (id bigserial PRIMARY KEY, name varchar(30), tags integer[],"
        " since timestamptz);\nINSERT INTO gates VALUES (1, 'a', '{1,2}', '2026-06-01 08:00+02');\n",
        encoding="utf-8",
    )
    browser.get(f"{address}/make-a-sample")
    hand_in(browser, script)
    until_text(browser, ".says", "Read: 1 row")
    find(browser, ".keep button").click()
    until_text(browser, ".kept", "declared is made")
    browser.get(f"{address}/make-a-sample?from=declared")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".plan")) == 1)
    kind = find(browser, ".el-select:has([aria-label='type of since'])")
    assert kind.text == "timestamp with zone"
    retype(find(browser, "input[aria-label='name of column 2']"), "title")
    find(browser, ".keep button").click()
    until_text(browser, ".kept", "declared changed is made")
    (table,) = call(address, "/samples/declared%20changed")["tables"]
    types = {column["name"]: column["type"] for column in table["columns"]}
    assert types == {
        "id": "INTEGER",
        "title": "VARCHAR(30)",
        "tags": "INTEGER[]",
        "since": "TIMESTAMP WITH TIME ZONE",
    }
    for name in ("declared", "declared%20changed"):
        call(address, f"/samples/{name}", "DELETE")


def test_tables_of_a_sample_are_changed_for_a_new_one(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/make-a-sample?from=huts")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".plan")) == 4)
    for _ in range(3):
        all_of(browser, ".plan .head .is-link")[-1].click()
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".plan")) == 1)
    name = find(browser, "input[aria-label='name of column 2']")
    retype(name, "title")
    browser.find_element(By.XPATH, "//label[contains(., 'take region')]").click()
    find(browser, ".keep button").click()
    until_text(browser, ".kept", "huts changed is made")
    find(browser, ".kept button").click()
    until(browser, lambda page: len(rows(page, "huts")) == 12)
    head = text_of(browser, "section[data-pin=huts] thead")
    assert "title" in head
    assert "region" not in head
    call(address, "/samples/huts%20changed", "DELETE")


def test_a_sample_is_copied_and_deleted_from_the_list(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/samples")
    until_text(browser, "tbody tr.chosen", "gauges")
    press(browser, Keys.ARROW_DOWN)
    until_text(browser, "aside h2", "huts")
    buttons = {
        button.text: button
        for button in all_of(browser, "aside .line .el-button, aside .line .button")
    }
    assert not buttons["Delete"].is_enabled()  # exercises need it
    buttons["New held-back dataset"].click()
    find(browser, ".wish input").send_keys("autumn" + Keys.ENTER)
    until_text(browser, ".datasets", "autumn")
    row = next(one for one in all_of(browser, ".datasets li") if "autumn" in one.text)
    row.find_element(By.TAG_NAME, "button").click()
    confirm(browser)
    until(browser, lambda page: "autumn" not in text_of(page, ".datasets"))


def test_a_note_on_a_column_is_written_and_read(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/samples/huts")
    find(browser, ".pin tbody tr")
    field = find(browser, ".facts .notes textarea")
    field.send_keys("numbered as they came", Keys.TAB)
    until(
        browser,
        lambda page: (
            "numbered as they came" in page.find_element(By.CSS_SELECTOR, ".pin .notes").text
        ),
    )
    # What is being written of the table stays while the column's note is kept.
    table = all_of(browser, ".facts .notes textarea")[1]
    assert browser.switch_to.active_element == table
    table.send_keys("One row a stay.")
    field = all_of(browser, ".facts .notes textarea")[0]
    field.clear()
    field.send_keys(Keys.TAB)
    until(
        browser,
        lambda page: "One row a stay." in page.find_element(By.CSS_SELECTOR, ".pin .notes").text,
    )
    assert all_of(browser, ".facts .notes textarea")[1].get_attribute("value") == "One row a stay."


def test_tables_are_changed_in_place_after_a_look_at_the_exercises(
    browser: Chrome, address: str
) -> None:
    browser.get(f"{address}/samples/huts")
    find(browser, ".pin tbody tr")
    open_by_link(browser, "Change tables")
    retype(find(browser, "input[aria-label='name of column 3']"), "massif")
    until_text(browser, ".uses", "2 exercises use what is renamed, retyped or dropped")
    until_text(browser, ".uses", "huts.region")

    call(address, "/samples/huts/copies", "POST", {"name": "cabins"})
    browser.get(f"{address}/make-a-sample?from=cabins&where=in-place")
    retype(find(browser, "input[aria-label='name of column 3']"), "massif")
    until_text(browser, ".uses", "No exercise uses")
    find(browser, ".keep button[type=submit]").click()
    until_text(browser, ".kept", "cabins is changed.")
    find(browser, ".kept button").click()
    until_text(browser, "section[data-pin=huts] thead", "massif")
    assert "version 2" in text_of(browser, ".left .place")
    leave(browser)
    call(address, "/samples/cabins", "DELETE")
