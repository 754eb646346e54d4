"""People in a real browser: joining, practising, handing in; and who does not get where."""

from __future__ import annotations

import pytest
from selenium.webdriver import Chrome, Keys
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.steps import (
    PASSWORD,
    all_of,
    call,
    choose,
    come_signed_in,
    confirm,
    find,
    press,
    retype,
    severe,
    sign_in,
    site_of,
    until,
    violations,
)

pytestmark = pytest.mark.browser
ADA = "ada.nkemelu@example.org"
BUSY = "/own/2-groups-order-sets/08-busy-huts"


def write(browser: Chrome, text: str) -> None:
    """Writes a text in place of the editor's."""
    find(browser, ".cm-content").click()
    keys = ActionChains(browser)
    keys.key_down(Keys.CONTROL).send_keys("a").key_up(Keys.CONTROL).perform()
    browser.execute_script("document.execCommand('insertText', false, arguments[0])", text)
    until(
        browser,
        lambda page: text.split()[-1] in page.find_element(By.CSS_SELECTOR, ".cm-content").text,
    )


def press_button(browser: Chrome, words: str) -> None:
    until(
        browser,
        lambda page: next(
            (
                one
                for one in page.find_elements(By.TAG_NAME, "button")
                if one.text == words and one.is_enabled()
            ),
            None,
        ),
    ).click()


def button(browser: Chrome, words: str) -> WebElement:
    """The button that says these words, whether it can be pressed or not."""
    buttons = browser.find_elements(By.TAG_NAME, "button")
    return next(one for one in buttons if one.text == words)


def says(browser: Chrome, selector: str, words: str) -> None:
    until(browser, lambda page: words in page.find_element(By.CSS_SELECTOR, selector).text)


def reference(address: str, slug: str) -> str:
    return str(call(address, f"/exercises/{slug}")["content"]["reference"]).replace("\n", " ")


@pytest.fixture
def ada(visitor: Chrome, address: str) -> Chrome:
    """A learner's browser."""
    come_signed_in(visitor, address, ADA)
    severe(visitor)
    return visitor


def test_a_learner_sees_how_tables_are_linked_and_any_side_by_side(
    ada: Chrome, address: str
) -> None:
    ada.get(address + BUSY)
    find(ada, ".own-tables tbody tr")
    press(ada, "b")

    def in_sight(page: Chrome) -> list[str]:
        return [
            one.get_attribute("aria-label") or ""
            for one in page.find_elements(By.CSS_SELECTOR, ".tables-beside section")
        ]

    until(ada, lambda page: in_sight(page) == ["huts", "trails"])
    find(ada, ".tables-beside .card[data-table=stays]").click()
    until(ada, lambda page: in_sight(page) == ["huts", "trails", "stays"])
    press(ada, Keys.ENTER)  # the card has the focus
    until(ada, lambda page: in_sight(page) == ["huts", "trails"])
    until(
        ada, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".tables-beside tbody tr")) == 26
    )
    assert violations(ada) == []
    press(ada, Keys.ESCAPE)
    until(ada, lambda page: not page.find_elements(By.CSS_SELECTOR, ".tables-beside"))
    assert severe(ada) == []


def test_join_by_code_run_hand_in_wrong_read_hand_in_right(visitor: Chrome, address: str) -> None:
    visitor.get(f"{site_of(address)}/join")
    find(visitor, "input[name=code]").send_keys("nowhere" + Keys.ENTER)
    says(visitor, ".problem", "no course with the join code")
    code = find(visitor, "input[name=code]")
    retype(code, "alpen-weg" + Keys.ENTER)
    says(visitor, "h1", "Join Alpine data course")
    find(visitor, "input[name=name]").send_keys("Rolf Eng")
    find(visitor, "input[name=username]").send_keys("rolf")
    find(visitor, "input[name=password]").send_keys(PASSWORD + Keys.ENTER)
    says(visitor, ".own-course h1", "Alpine data course")
    titles = [one.text for one in all_of(visitor, "article h2")]
    assert titles == ["Groups, order and sets", "Choosing rows", "Joins and beyond"]
    severe(visitor)  # the refused code is one

    find(visitor, "a[href$='01-high-huts']").click()
    says(visitor, ".asked h1", "High huts")
    until(
        visitor, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".own-tables tbody tr")) == 12
    )
    write(
        visitor,
        "SELECT name, region, altitude_m FROM huts WHERE altitude_m > 2000 ORDER BY altitude_m DESC",
    )
    press_button(visitor, "Run")
    says(visitor, ".result", "6 rows")
    press_button(visitor, "Hand in")
    says(visitor, ".came", "2 rows are missing")
    says(visitor, ".came .next", "change the text")
    until(visitor, lambda page: not page.find_element(By.CSS_SELECTOR, ".saved").text)
    says(visitor, ".attempts .verdict", "wrong")
    absent = all_of(visitor, ".woven tr[data-kind=absent]")
    assert len(absent) == 2
    write(visitor, reference(address, "01-high-huts"))
    press_button(visitor, "Hand in")
    says(visitor, ".came h2", "Right")
    says(visitor, ".act", "The same text as attempt 2")
    assert not button(visitor, "Hand in").is_enabled()
    until(
        visitor,
        lambda page: (
            [one.text for one in page.find_elements(By.CSS_SELECTOR, ".attempts .verdict")]
            == ["right", "wrong"]
        ),
    )
    # Going back to the first one shows its text and what came of it.
    all_of(visitor, ".attempts button")[1].click()
    says(visitor, ".came h3", "Text of attempt 1")
    says(visitor, ".came", "2 rows are missing")
    assert severe(visitor) == []


def test_a_learner_at_an_instructor_s_address(ada: Chrome, address: str) -> None:
    for path in ("/exercises/01-high-huts", "/answers/1", "/people", "/samples/huts"):
        ada.get(address + path)
        until(ada, lambda page: page.current_url.endswith("/own"))
        find(ada, ".own-course h1")
    said = ada.execute_async_script(
        """const done = arguments[1];
        fetch(arguments[0]).then((answer) => answer.text().then((text) => done([answer.status, text])));""",
        address.replace("/courses/", "/api/courses/") + "/exercises/01-high-huts",
    )
    assert said[0] == 403
    assert "altitude" not in said[1]


def test_whoever_is_not_signed_in_signs_in_and_comes_to_where_they_wanted(
    visitor: Chrome, address: str
) -> None:
    visitor.get(address + BUSY)
    find(visitor, "input[name=username]").send_keys(ADA)
    find(visitor, "input[name=password]").send_keys("a wrong password" + Keys.ENTER)
    says(visitor, ".problem", "do not belong together")
    password = find(visitor, "input[name=password]")
    retype(password, PASSWORD + Keys.ENTER)
    says(visitor, ".asked h1", "Busy huts")


def test_what_is_typed_survives_a_reload_and_a_sign_out(ada: Chrome, address: str) -> None:
    ada.get(address + BUSY)
    write(ada, "SELECT name FROM huts -- halfway")
    ada.refresh()
    says(ada, ".cm-content", "halfway")
    ada.get(f"{site_of(address)}/account")
    press_button(ada, "Sign out")
    find(ada, "input[name=username]")
    sign_in(ada, address, ADA)
    ada.get(address + BUSY)
    says(ada, ".cm-content", "halfway")


def test_a_hand_in_without_a_connection_is_kept_and_sent_once(ada: Chrome, address: str) -> None:
    ada.get(f"{address}/own/1-choosing-rows/05-station-state")
    says(ada, ".asked h1", "The state")
    before = len(ada.find_elements(By.CSS_SELECTOR, ".attempts li"))
    write(ada, "SELECT 'sent once'")
    offline(ada, True)
    press_button(ada, "Hand in")
    says(ada, ".kept", "kept in this browser")
    offline(ada, False)
    until(ada, lambda page: not page.find_elements(By.CSS_SELECTOR, ".kept"))
    until(ada, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".attempts li")) == before + 1)
    ada.refresh()
    says(ada, ".asked h1", "The state")
    until(ada, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".attempts li")) == before + 1)


def offline(browser: Chrome, wanted: bool) -> None:
    browser.execute_cdp_cmd("Network.enable", {})
    browser.execute_cdp_cmd(
        "Network.emulateNetworkConditions",
        {"offline": wanted, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1},
    )


def test_the_private_copy(ada: Chrome, address: str) -> None:
    ada.get(address + BUSY)
    says(ada, ".asked h1", "Busy huts")
    press(ada, "c")
    until(ada, lambda page: "MB used" in page.find_element(By.CSS_SELECTOR, ".saved").text)
    write(
        ada,
        "CREATE TABLE tents (id INTEGER); INSERT INTO tents VALUES (1), (2); SELECT * FROM tents",
    )
    press_button(ada, "Run")
    says(ada, ".result", "2 rows changed")
    until(ada, lambda page: "tents 2" in page.find_element(By.CSS_SELECTOR, ".own-tables").text)
    press_button(ada, "Begin again with a new copy")
    until(ada, lambda page: "tents" not in page.find_element(By.CSS_SELECTOR, ".own-tables").text)
    assert severe(ada) == []


def test_learners_are_taken_in_and_one_signs_up_by_a_link(
    browser: Chrome, visitor: Chrome, address: str
) -> None:
    severe(browser)
    browser.get(f"{address}/people")
    find(browser, ".zone")
    browser.execute_script(
        """const files = new DataTransfer();
        files.items.add(new File([arguments[0]], "roster.csv"));
        document.querySelector(".zone .el-upload-dragger").dispatchEvent(
            new DragEvent("drop", {dataTransfer: files, bubbles: true, cancelable: true}));""",
        "learner id,name,e-mail\nzz-9,Wim Aalders,wim@example.org\n",
    )
    says(browser, "aside", "1 new learner")
    press_button(browser, "Import the learners")
    says(browser, "aside", "1 learner imported")
    find(browser, "#find-learner").send_keys("wim")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".listing tbody tr")) == 1)
    press_button(browser, "Wim Aalders")
    press_button(browser, "a personal link")
    link = find(browser, "aside .once input").get_attribute("value")
    assert severe(browser) == []

    visitor.get(str(link))
    says(visitor, "h1", "Welcome, Wim Aalders")
    find(visitor, "input[name=password]").send_keys(PASSWORD + Keys.ENTER)
    says(visitor, ".own-course", "Wim Aalders")
    visitor.get(str(link))
    says(visitor, ".problem", "works no more")
    press_button(browser, "Remove from the course")
    confirm(browser)
    until(browser, lambda page: not page.find_elements(By.CSS_SELECTOR, ".listing tbody tr"))


def test_a_long_list_is_drawn_a_page_at_a_time(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/people")
    find(browser, ".zone")
    first = find(browser, ".listing tbody tr").text
    lines = [f"zz-{at:02},Zora {at:02},zora{at}@example.org" for at in range(30)]
    browser.execute_script(
        """const files = new DataTransfer();
        files.items.add(new File([arguments[0]], "roster.csv"));
        document.querySelector(".zone .el-upload-dragger").dispatchEvent(
            new DragEvent("drop", {dataTransfer: files, bubbles: true, cancelable: true}));""",
        "\n".join(["learner id,name,e-mail", *lines, ""]),
    )
    says(browser, "aside", "30 new learners")
    press_button(browser, "Import the learners")
    says(browser, "aside", "30 learners imported")
    until(browser, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".el-pager li")) == 2)
    assert len(browser.find_elements(By.CSS_SELECTOR, ".listing tbody tr")) == 50
    # The one before the first is the last: its page is turned to.
    press(browser, Keys.ARROW_UP)
    says(browser, ".listing tr.chosen", "Zora 29")
    press(browser, Keys.ARROW_DOWN)
    says(browser, ".listing tr.chosen", first)
    for one in call(address, "/learners"):
        if one["code"].startswith("zz-"):
            call(address, f"/learners/{one['id']}", "DELETE")


def test_an_extension_is_given_and_taken_back(browser: Chrome, address: str) -> None:
    browser.get(f"{address}/people")
    find(browser, ".listing tbody .is-link").click()
    choose(browser, find(browser, "#extended-sheet"), "Groups, order and sets")
    closes = find(browser, "#extended-until")
    closes.send_keys(Keys.CONTROL, "a")
    closes.send_keys("3 Dec 2026, 20:00", Keys.ENTER)
    press_button(browser, "Extend")
    says(browser, "aside", "until 2026-12-03 20:00")
    press_button(browser, "withdraw")
    until(browser, lambda page: "2026-12-03" not in page.find_element(By.TAG_NAME, "aside").text)


@pytest.mark.parametrize("path", ["/own", BUSY, "/own/1-choosing-rows/01-high-huts"])
def test_a_learner_s_pages_pass_the_accessibility_rules(
    ada: Chrome, address: str, path: str
) -> None:
    ada.get(address + path)
    find(ada, "main h1")
    attempts = ada.find_elements(By.CSS_SELECTOR, ".attempts button")
    if attempts:
        attempts[0].click()
        find(ada, ".came")
    assert violations(ada) == []


@pytest.mark.parametrize("path", ["/sign-in", "/join", "/join/ALPENWEG", "/links/none", "/"])
def test_the_entry_passes_the_accessibility_rules(visitor: Chrome, address: str, path: str) -> None:
    visitor.get(site_of(address) + path)
    find(visitor, "main h1")
    assert violations(visitor) == []


def test_an_instructor_begins_another_course(visitor: Chrome, address: str) -> None:
    """Another course, in which nothing of the first is seen."""
    sign_in(visitor, address, "instructor")
    find(visitor, "input[name=title]").send_keys("Rivers and lakes" + Keys.ENTER)
    until(visitor, lambda page: page.current_url.endswith("/courses/rivers-and-lakes/people"))
    says(visitor, "main", "Nobody yet")
    find(visitor, "nav a[href$='/exercises']").click()
    until(visitor, lambda page: page.current_url.endswith("/rivers-and-lakes/exercises"))
    assert "High huts" not in find(visitor, "main").text
    # An empty course says what to do, in its order, and leads there.
    says(visitor, ".lead", "Make a sample")
    steps = [one.text for one in all_of(visitor, ".lead h2")]
    assert steps[:3] == ["Make a sample", "Write an exercise", "Put exercises on a sheet"]
    find(visitor, ".lead li.next a.main").click()
    begin = [one for one in all_of(visitor, ".ready button") if "orchard" in one.text]
    begin[0].click()
    until(visitor, lambda page: page.find_elements(By.CSS_SELECTOR, "form.keep"))
    press_button(visitor, "Save sample")
    says(visitor, ".kept", "orchard is made")
    find(visitor, "nav a[href$='/exercises']").click()
    until(
        visitor,
        lambda page: "Write an exercise" in page.find_element(By.CSS_SELECTOR, ".lead .next").text,
    )
    find(visitor, ".lead li.next a.main").click()
    find(visitor, "form.begin input[required]").send_keys("Ripe fruit" + Keys.ENTER)
    says(visitor, ".ask .only-read-aloud", "Ripe fruit")


HOLD_THE_FIRST = """
    const fetch = window.fetch.bind(window);
    window.held = 0;
    window.fetch = async (...asked) => {
        const answer = await fetch(...asked);
        const address = asked[0].url ?? String(asked[0]);
        if (/own\\/submissions\\/\\d+$/.test(address) && !window.held) {
            window.held = 1;
            await new Promise(() => {});
        }
        return answer;
    };
"""


def test_news_of_the_verdict_overtakes_the_first_request(ada: Chrome, address: str) -> None:
    ada.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": HOLD_THE_FIRST})
    ada.get(f"{address}/own/2-groups-order-sets/12-guests-without-a-warden")
    says(ada, ".asked h1", "Guests")
    write(ada, "SELECT 999 -- overtaken")
    press_button(ada, "Hand in")
    until(ada, lambda page: page.execute_script("return window.held"))
    # Whatever the first answer said, it never comes; the news that it is graded does.
    says(ada, ".came", "missing")


def typed(browser: Chrome, text: str) -> None:
    """As a person types who waits a moment after each word: the list of completions is open."""
    ActionChains(browser).send_keys(text).perform()
    find(browser, ".cm-tooltip-autocomplete")


def lines_of(browser: Chrome) -> list[str]:
    return [one.text for one in browser.find_elements(By.CSS_SELECTOR, ".cm-line")]


@pytest.mark.parametrize(
    "page", [BUSY, "/exercises/08-busy-huts", "/samples/huts"], ids=["learner", "bench", "sample"]
)
def test_enter_is_a_new_line_and_tab_takes_a_name(visitor: Chrome, address: str, page: str) -> None:
    come_signed_in(visitor, address, ADA if page == BUSY else "instructor")
    visitor.get(f"{address}{page}")
    if page == "/samples/huts":
        find(visitor, ".facts, main")
        press(visitor, "q")
    find(visitor, ".cm-content").click()
    ActionChains(visitor).key_down(Keys.CONTROL).send_keys("a").key_up(Keys.CONTROL).perform()
    typed(visitor, "SELECT hut")
    press(visitor, Keys.ENTER)
    typed(visitor, "trai")
    press(visitor, Keys.TAB)
    until(visitor, lambda _: lines_of(visitor) == ["SELECT hut", "trails"])
    typed(visitor, ", ward")
    press(visitor, Keys.ARROW_DOWN)
    press(visitor, Keys.ENTER)
    until(visitor, lambda _: lines_of(visitor) == ["SELECT hut", "trails, wardens"])
    # Without a list, Tab goes on to the next control.
    press(visitor, Keys.TAB)
    until(
        visitor,
        lambda _: "cm-content" not in visitor.switch_to.active_element.get_attribute("class"),
    )


def test_one_course_never_shows_another_s(visitor: Chrome, address: str) -> None:
    sign_in(visitor, address, "instructor")
    site = site_of(address)
    made = visitor.execute_async_script(
        """const done = arguments[arguments.length - 1];
        fetch("/api/me").then((r) => r.json()).then(({ me }) =>
            fetch("/api/courses", { method: "POST", body: JSON.stringify({ title: "Empty valley" }),
                headers: { "Content-Type": "application/json", "X-Jentrow-Guard": me.guard } }))
            .then((r) => done(r.status));"""
    )
    assert made == 201
    visitor.get(f"{address}/exercises")
    until(visitor, lambda page: len(page.find_elements(By.CSS_SELECTOR, "tbody tr")) == 18)
    # Within the page, so that what was fetched is kept.
    for path in ("/", "/courses/empty-valley/exercises"):
        visitor.execute_script(
            "document.querySelector('#app').__vue_app__.config.globalProperties.$router.push(arguments[0])",
            path,
        )
        until(visitor, lambda page, path=path: page.current_url == f"{site}{path}")
    until(visitor, lambda page: page.find_elements(By.CSS_SELECTOR, "main h1, main .empty, main p"))
    assert "High huts" not in find(visitor, "main").text
    assert not visitor.find_elements(By.CSS_SELECTOR, "tbody tr")
