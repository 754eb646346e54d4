"""The exercise bench, sheets and packs, in a real browser."""

from __future__ import annotations

import io
import json
import zipfile

import pytest
from selenium.webdriver import Chrome, Keys
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.steps import (
    SIZES,
    WIDER_THAN_THE_WINDOW,
    all_of,
    call,
    choose,
    come_signed_in,
    find,
    frame_of,
    leave,
    open_url,
    press,
    retype,
    severe,
    sized,
    text_of,
    until,
)
from tests.browser.test_pages import violations

pytestmark = pytest.mark.browser

DROP = """
    const bytes = Uint8Array.from(atob(arguments[0]), (letter) => letter.charCodeAt(0));
    const files = new DataTransfer();
    files.items.add(new File([bytes], arguments[1] ?? "pack.zip"));
    document.querySelector(".zone .el-upload-dragger").dispatchEvent(
        new DragEvent("drop", {dataTransfer: files, bubbles: true, cancelable: true}));
"""


def copied(address: str, slug: str, title: str) -> str:
    """A copy of an exercise, to be changed at will."""
    made = call(address, f"/exercises/{slug}/copies", "POST", {"title": title})
    return str(made["slug"])


def write(browser: Chrome, selector: str, text: str) -> None:
    """Writes into an editor in place of what is there."""
    editor = find(browser, f"{selector} .cm-content")
    editor.click()
    ActionChains(browser).key_down(Keys.CONTROL).send_keys("a").key_up(Keys.CONTROL).perform()
    ActionChains(browser).send_keys(Keys.DELETE).perform()
    # As a paste: keys would be completed.
    browser.execute_script(
        "arguments[0].focus(); document.execCommand('insertText', false, arguments[1]);",
        editor, text,
    )  # fmt: skip


def keep(browser: Chrome) -> None:
    ActionChains(browser).key_down(Keys.CONTROL).send_keys("s").key_up(Keys.CONTROL).perform()
    until(browser, lambda page: "version" in page.find_element(By.CSS_SELECTOR, ".state").text)


def aside(browser: Chrome) -> str:
    return text_of(browser, "aside")


def blur(browser: Chrome) -> None:
    browser.execute_script("document.activeElement.blur()")


def trial(browser: Chrome, name: str) -> WebElement:
    for one in all_of(browser, ".trials button"):
        if one.text.startswith(name):
            return one
    raise AssertionError(name)


def test_from_nothing_to_a_trial_that_holds(browser: Chrome, address: str) -> None:
    severe(browser)
    browser.get(f"{address}/exercises")
    find(browser, "tr.chosen")
    press(browser, "n")
    field = find(browser, ".begin input")
    field.send_keys("Beds by region")
    choose(browser, find(browser, ".begin .el-select"), "huts")
    field.send_keys(Keys.ENTER)
    until(browser, lambda page: page.current_url.endswith("/exercises/beds-by-region"))
    until(browser, lambda page: "no reference answer yet" in aside(page))

    write(browser, ".prose-editor", "How many **beds** are there in each region?")
    until(browser, lambda page: page.find_elements(By.CSS_SELECTOR, ".prose strong"))
    # Names of tables and columns are completed in prose, too.
    ActionChains(browser).send_keys(" See altit").perform()
    find(browser, ".prose-editor .cm-tooltip-autocomplete li").click()
    until(
        browser, lambda page: "See altitude_m" in page.find_element(By.CSS_SELECTOR, ".prose").text
    )

    write(browser, ".middle .editor", "SELECT region, SUM(bed) FROM huts GROUP BY region")
    find(browser, ".wrong-here")
    assert "bed" in text_of(browser, ".middle [role=alert]")
    write(browser, ".middle .editor", "SELECT region, SUM(beds) AS beds FROM huts GROUP BY region")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".rows tbody tr")) == 4)

    blur(browser)
    press(browser, "n")
    until(browser, lambda page: page.find_elements(By.CSS_SELECTOR, ".name .el-select"))
    write(browser, ".middle .editor", "SELECT region, COUNT(beds) FROM huts GROUP BY region")
    until(browser, lambda page: page.find_elements(By.CSS_SELECTOR, ".woven tr.differs"))
    until(browser, lambda page: "wrong, as expected" in trial(page, "trial 1").text)
    until(browser, lambda page: "draft saved" in text_of(page, ".state"))

    # A reload loses nothing of what is not kept yet, not even what was typed last.
    title = find(browser, ".title input")
    title.send_keys(" and more")
    browser.refresh()
    until(browser, lambda page: "wrong, as expected" in trial(page, "trial 1").text)
    assert find(browser, ".title input").get_attribute("value") == "Beds by region and more"
    keep(browser)
    found = call(address, "/exercises/beds-by-region")
    assert (found["version"], found["draft"]) == (2, None)
    assert found["content"]["trials"][0]["sql"].startswith("SELECT region, COUNT")
    leave(browser)
    call(address, "/exercises/beds-by-region", "DELETE")


def test_a_turned_rule_changes_a_verdict_at_once(browser: Chrome, address: str) -> None:
    slug = copied(address, "01-high-huts", "High huts, turned")
    browser.get(f"{address}/exercises/{slug}")
    until(browser, lambda page: "8 trials hold" in aside(page))
    press(browser, "2")
    choose(browser, find(browser, "#rule-row_order"), "does not count")
    until(browser, lambda page: "2 do not" in aside(page))
    assert "right, should be wrong" in trial(browser, "lowest-first").text
    find(browser, ".state .is-link").click()  # discard
    until(browser, lambda page: "8 trials hold" in aside(page))
    assert frame_of(find(browser, "#rule-row_order")).text.startswith("as the")
    call(address, f"/exercises/{slug}", "DELETE")


def test_answers_that_would_come_out_otherwise(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises/01-high-huts")
    until(browser, lambda page: "0 of 18 would" in aside(page))
    press(browser, "2")
    choose(browser, find(browser, "#rule-row_order"), "does not count")
    until(browser, lambda page: "2 of 18 would" in aside(page))
    assert "wrong → right" in text_of(browser, ".changes li")
    find(browser, ".state .is-link").click()
    until(browser, lambda page: "0 of 18 would" in aside(page))


def test_a_construct_rule_costs_points_and_points_at_the_place(
    browser: Chrome, address: str
) -> None:
    slug = copied(address, "08-busy-huts", "Busy huts, with rules")
    browser.get(f"{address}/exercises/{slug}")
    until(browser, lambda page: "hold" in aside(page))
    press(browser, "2")
    choose(
        browser, find(browser, "input[aria-label=construct]"), "grouping or ordering by position"
    )
    next(one for one in all_of(browser, ".add button") if one.text == "must not").click()
    message = find(browser, "input[placeholder='what the learner reads']")
    message.send_keys("Name the column.")
    message.send_keys(Keys.TAB)
    blur(browser)
    press(browser, "n")
    write(
        browser,
        ".middle .editor",
        "SELECT hut_id, COUNT(*) AS n, SUM(nights) FROM stays GROUP BY 1 HAVING n >= 2",
    )
    until(browser, lambda page: "3 of 4 points" in text_of(page, ".middle"))
    assert "Name the column." in text_of(browser, ".findings")
    assert "−1" in text_of(browser, ".ledger")
    call(address, f"/exercises/{slug}", "DELETE")


def test_the_step_trace(browser: Chrome, address: str) -> None:
    browser.get("about:blank")  # the page before saves what it has when it is left
    severe(browser)
    browser.get(f"{address}/exercises/16-roomier-than-usual")
    find(browser, ".editor .cm-line")
    press(browser, "p")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".trace nav li")) == 3)
    steps = [" ".join(one.text.split()) for one in all_of(browser, ".trace nav li")]
    assert steps == ["FROM huts 12 rows", "WHERE 6 rows kept", "SELECT 6 rows"]
    assert "whose h.region it reads" in text_of(browser, ".trace nav")
    press(browser, Keys.ARROW_DOWN)
    until(browser, lambda page: "SELECT AVG(beds)" in text_of(page, ".clause"))
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, "tr.kept")) == 6)
    assert len(browser.find_elements(By.CSS_SELECTOR, ".rows tbody tr.false")) == 6
    find(browser, ".truth.false").click()
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, "tr.kept"))
    blur(browser)
    press(browser, Keys.ARROW_DOWN)
    until(browser, lambda page: text_of(page, ".clause") == "SELECT name, region, beds")
    assert severe(browser) == []


def test_steps_say_which_part_holds_and_which_branch_is_taken(
    browser: Chrome, address: str
) -> None:
    browser.get(f"{address}/exercises/04-hut-sizes")
    find(browser, ".editor .cm-line")
    press(browser, "p")
    find(browser, ".trace nav li:last-child button").click()
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, "tbody td.taken")) == 12)
    taken = {one.text for one in browser.find_elements(By.CSS_SELECTOR, "tbody td.taken")}
    assert taken == {"beds < 20", "beds < 40", "ELSE"}
    browser.get(f"{address}/exercises/14-huts-and-nights")
    find(browser, ".editor .cm-line")
    press(browser, "p")
    find(browser, ".trace nav li:nth-child(2) button").click()
    until(browser, lambda page: text_of(page, ".partners").startswith("2 rows before have no"))
    assert "10 rows meet 38 times" in text_of(browser, ".partners")


def test_versions_and_layout(browser: Chrome, address: str) -> None:
    slug = copied(address, "17-rising-water", "Rising water, again")
    browser.get(f"{address}/exercises/{slug}")
    until(browser, lambda page: "6 trials hold" in aside(page))
    write(
        browser, ".middle .editor", "select taken_at, value, value from readings where sensor_id=1"
    )
    until(browser, lambda page: "layout:" in text_of(page, ".middle"))
    find(browser, ".middle .said .is-link").click()
    assert "could be laid out otherwise" in text_of(browser, ".layout")
    find(browser, ".layout .el-button").click()
    until(
        browser,
        lambda page: text_of(page, ".middle .editor .cm-line").startswith("SELECT taken_at"),
    )
    keep(browser)
    blur(browser)
    press(browser, "v")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".versions ol li")) >= 2)
    until(browser, lambda page: page.find_elements(By.CSS_SELECTOR, ".part .cm-changedLine"))
    press(browser, Keys.ARROW_DOWN)
    find(browser, ".versions .tools .el-button").click()
    until(browser, lambda page: "version 1 again" in text_of(page, ".versions ol"))
    press(browser, "e")
    until(browser, lambda page: "LAG(value)" in text_of(page, ".middle .editor"))
    call(address, f"/exercises/{slug}", "DELETE")


def test_what_cannot_be_sent_is_kept_in_the_browser(browser: Chrome, address: str) -> None:
    slug = copied(address, "09-long-rivers", "Rivers, offline")
    browser.get(f"{address}/exercises/{slug}")
    until(browser, lambda page: "5 trials hold" in aside(page))
    browser.execute_cdp_cmd("Network.enable", {})
    offline = {"offline": True, "latency": 0, "downloadThroughput": 0, "uploadThroughput": 0}
    browser.execute_cdp_cmd("Network.emulateNetworkConditions", offline)
    write(browser, ".middle .editor", "SELECT name FROM rivers")
    until(browser, lambda page: "kept in this browser" in text_of(page, ".state"))
    browser.execute_cdp_cmd(
        "Network.emulateNetworkConditions",
        offline | {"offline": False, "downloadThroughput": -1, "uploadThroughput": -1},
    )
    browser.refresh()
    until(browser, lambda page: "SELECT name FROM rivers" in text_of(page, ".middle .editor"))
    until(browser, lambda page: "draft saved" in text_of(page, ".state"))
    assert call(address, f"/exercises/{slug}")["draft"]["reference"] == "SELECT name FROM rivers"
    call(address, f"/exercises/{slug}", "DELETE")
    severe(browser)  # being offline is said there, too


def test_a_sheet_is_made_and_changed(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/sheets")
    find(browser, ".sheets li.chosen")
    press(browser, "n")
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".sheets li.chosen"))
    find(browser, "#sheet-title").send_keys("Extra work")
    choose(browser, find(browser, ".add .el-select"), "High huts (")
    find(browser, ".add .el-button").click()
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".sheet tbody tr")) == 1)
    attempts = find(browser, "#attempts")
    retype(attempts, "0", Keys.TAB)
    until(browser, lambda page: attempts.get_attribute("value") == "1")
    retype(attempts, "2", Keys.TAB)
    choose(browser, find(browser, "#late"), "taken, marked down")
    assert "takes off 10 %" in aside(browser)
    ActionChains(browser).key_down(Keys.CONTROL).send_keys("s").key_up(Keys.CONTROL).perform()
    until(browser, lambda page: "Extra work" in text_of(page, ".sheets li.chosen"))
    (made,) = [one for one in call(address, "/sheets") if one["slug"] == "extra-work"]
    assert (made["attempts"], made["late"]["rule"], len(made["entries"])) == (2, "reduce", 1)
    call(address, "/sheets/extra-work", "DELETE")


def test_a_pack_with_a_conflict_is_looked_at_and_taken_in(browser: Chrome, address: str) -> None:
    import base64

    severe(browser)
    slug = copied(address, "10-three-highest", "Conflicting")
    original = zipfile.ZipFile(io.BytesIO(open_url(address, f"/packs/export?exercise={slug}")))
    changed = io.BytesIO()
    with zipfile.ZipFile(changed, "w") as out:
        for name in original.namelist():
            text = original.read(name).decode()
            if name.endswith("reference.sql"):
                text = text.replace("LIMIT 3", "LIMIT 2")
            out.writestr(name, text)
            if f"/{slug}/" in name:
                out.writestr(name.replace(slug, "brand-new"), original.read(name))
    browser.get(f"{address}/take-a-pack-in")
    find(browser, ".zone")
    browser.execute_script(DROP, base64.b64encode(changed.getvalue()).decode())
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, "tbody tr")) == 2)
    conflict = find(browser, "tr.conflict")
    choice = conflict.find_element(By.CSS_SELECTOR, ".el-select")
    assert "keep ours" in choice.text
    assert "LIMIT 2" in text_of(browser, "aside .cm-changedLine")
    assert "LIMIT 3" in text_of(browser, "aside .cm-deletedLine")
    choose(browser, choice, "take the pack's")
    blur(browser)
    ActionChains(browser).key_down(Keys.CONTROL).send_keys(Keys.ENTER).key_up(
        Keys.CONTROL
    ).perform()
    until(browser, lambda page: "Imported." in text_of(page, "main"))
    assert "LIMIT 2" in call(address, f"/exercises/{slug}")["content"]["reference"]
    assert call(address, "/exercises/brand-new")["content"]["title"] == "Conflicting"
    leave(browser)
    for one in (slug, "brand-new"):
        call(address, f"/exercises/{one}", "DELETE")


def test_a_file_that_is_no_pack_says_so(browser: Chrome, address: str) -> None:
    import base64

    browser.get(f"{address}/take-a-pack-in")
    find(browser, ".zone")
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("pack.yaml", "format: other/9")
    browser.execute_script(DROP, base64.b64encode(out.getvalue()).decode())
    until(browser, lambda page: "must be jentrow-pack/1" in text_of(page, "[role=alert]"))


def test_grading_shows_how_far_it_is_and_goes_on(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/exercises/01-high-huts")
    until(browser, lambda page: "0 of 18 would" in aside(page))
    call(address, "/grading/pause", "POST")
    call(address, "/exercises/01-high-huts/regrade", "POST")
    until(browser, lambda page: "18 answers wait" in text_of(page, ".grading"))
    for width, height in SIZES:
        with sized(browser, width, height):
            until(browser, lambda page: page.execute_script(WIDER_THAN_THE_WINDOW) == [])
            shown = find(browser, ".grading button").rect
            assert shown["x"] + shown["width"] <= width
    find(browser, ".grading button").click()
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".grading"))
    assert call(address, "/grading")["waiting"] == 0


def test_answers_are_taken_in_from_a_file(browser: Chrome, address: str) -> None:
    import base64

    severe(browser)
    slug = copied(address, "09-long-rivers", "Rivers, handed in")
    right = call(address, f"/exercises/{slug}")["content"]["reference"].replace("\n", " ")
    text = f'learner,exercise,sql\nA New One,{slug},"{right}"\nA New One,nowhere,SELECT 1\n'
    browser.get(f"{address}/take-answers-in")
    find(browser, ".zone")
    browser.execute_script(DROP, base64.b64encode(text.encode()).decode(), "late.csv")
    until(browser, lambda page: "1 does not fit" in text_of(page, "main"))
    assert "A New One" in text_of(browser, ".sheet")
    assert "there is no exercise 'nowhere'" in aside(browser)
    assert not find(browser, ".done .el-button").is_enabled()
    press(browser, "l")
    find(browser, ".done .el-button:enabled").click()
    until(browser, lambda page: "1 answer imported" in text_of(page, ".done"))
    until(browser, lambda _: call(address, "/grading")["waiting"] == 0)
    (line,) = call(address, f"/exercises/{slug}")["submissions"]
    assert (line["learner"], line["verdict"]) == ("A New One", "correct")
    leave(browser)
    call(address, f"/exercises/{slug}?with_answers=true", "DELETE")


def test_a_query_is_presented_step_by_step(browser: Chrome, address: str) -> None:
    severe(browser)
    browser.get(f"{address}/exercises/03-open-bills")
    find(browser, ".ask")
    press(browser, "b")
    until(browser, lambda page: "FROM" in text_of(page, ".path li.here"))
    assert not browser.find_elements(By.CSS_SELECTOR, ".bar, .keys")
    press(browser, Keys.ARROW_RIGHT)
    until(browser, lambda page: text_of(page, ".marked") == "WHERE paid_on IS NULL")
    until(browser, lambda page: "7 kept, 31 are false" in text_of(page, ".sentence"))
    kept = all_of(browser, ".rows tr.kept")
    assert len(kept) == 7
    sizes = browser.execute_script(
        "return [...document.querySelectorAll('.present :not(.only-read-aloud)')]"
        ".filter((one) => one.childElementCount === 0 && one.textContent.trim())"
        ".map((one) => parseFloat(getComputedStyle(one).fontSize))"
    )
    assert min(sizes) >= 22, "legible from the last row"
    press(browser, "+")
    until(browser, lambda page: "24px" in find(page, ".present").get_attribute("style"))
    press(browser, "-")
    press(browser, "h")
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".rows table"))
    press(browser, "h")
    press(browser, Keys.ARROW_DOWN)
    find(browser, ".rows .looked")
    assert violations(browser) == []
    press(browser, Keys.ESCAPE)
    until(browser, lambda page: page.current_url.partition("?")[0].endswith("/03-open-bills"))
    assert severe(browser) == []


def test_where_nothing_is_presented_the_page_says_where_to_begin(
    visitor: Chrome, address: str
) -> None:
    come_signed_in(visitor, address, "instructor")
    visitor.get(f"{address}/present")
    assert "press B there" in text_of(visitor, ".nothing")
    assert text_of(visitor, "footer") == "Esc close"
    assert not violations(visitor)
    press(visitor, Keys.ESCAPE)
    until(visitor, lambda page: page.current_url.startswith(f"{address}/exercises"))


def test_a_row_is_added_while_a_query_is_presented(browser: Chrome, address: str) -> None:
    severe(browser)
    sql = "SELECT name\nFROM huts\nWHERE region = 'North' OR altitude_m > 2800"
    presented = {"sql": sql, "sample": "huts", "dataset": "open", "engine": "duckdb"}
    browser.get(f"{address}/present")
    find(browser, ".present")
    # It is kept in the tab, so that a reload shows it again.
    browser.execute_script(
        "sessionStorage.setItem('jentrow presented', arguments[0])",
        json.dumps(presented | {"prompt": "", "side": "due"}),
    )
    browser.refresh()
    until(browser, lambda page: text_of(page, ".path li.here").endswith("12 rows"))
    press(browser, Keys.ARROW_RIGHT)
    # What each part of the condition makes of a row stands beside it, and in words.
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, "thead .told")) == 2)
    press(browser, Keys.ARROW_DOWN)
    until(browser, lambda page: text_of(page, ".sentence").startswith("This row:"))
    kept = len(all_of(browser, ".rows tr.kept"))

    press(browser, "a")
    until(browser, lambda page: page.switch_to.active_element.tag_name == "input")
    fields = all_of(browser, ".added label input")
    for field, value in zip(fields, ("1", "Neugrat", "North", "3000", "7"), strict=True):
        field.send_keys(value)
    assert text_of(browser, ".path li.here").startswith("WHERE"), "keys of a field do nothing else"
    fields[-1].send_keys(Keys.ENTER)
    until(browser, lambda page: "hut_id" in text_of(page, ".added .problem"))
    assert len(severe(browser)) == 1, "the answer that refused it"
    fields[0].send_keys("3")
    fields[0].send_keys(Keys.ENTER)
    until(browser, lambda page: text_of(page, ".path li").endswith("13 rows"))
    until(
        browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".rows tr.kept")) == kept + 1
    )
    assert "Neugrat" in text_of(browser, ".rows tr.new")
    assert violations(browser) == []
    press(browser, Keys.ESCAPE)
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".added"))
    # Only this page has it: the sample stays as it is.
    counted = call(address, "/samples/huts/datasets/open/tables/huts/rows")["total"]
    assert counted == 12
    press(browser, "a")
    find(browser, ".added li button").click()
    until(browser, lambda page: text_of(page, ".path li").endswith("12 rows"))
    assert severe(browser) == []
