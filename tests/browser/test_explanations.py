"""Blind spots closed, near misses read, examples mended, luck found out: as people do it."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver import Chrome
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from jentrow.api.app import create_app
from jentrow.services.runtime.runtime import Runtime
from tests.browser.conftest import NOON, opened
from tests.browser.steps import all_of, call, come_signed_in, find, severe, text_of, until
from tests.browser.test_people import write
from tests.demo_course import COURSE
from tests.serving import listening

BUSY = "08-busy-huts"
WRONG = "SELECT hut_id, COUNT(*) AS stays, SUM(nights) AS nights FROM stays GROUP BY hut_id HAVING COUNT(*) > 2"


@pytest.fixture(scope="module")
def site(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A server whose samples and exercises may be changed."""
    folder = shutil.copytree(demo_folder, tmp_path_factory.mktemp("explained") / "data")
    app = create_app(lambda: Runtime(folder, lambda: NOON))
    with listening(app, log_level="warning") as place:
        yield f"http://127.0.0.1:{place[1]}/courses/{COURSE}"


@pytest.fixture(scope="module")
def teacher(site: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Chrome]:
    with opened(tmp_path_factory.mktemp("teacher")) as driver:
        come_signed_in(driver, site, "instructor")
        yield driver


@pytest.fixture(scope="module")
def ada(site: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Chrome]:
    with opened(tmp_path_factory.mktemp("ada")) as driver:
        come_signed_in(driver, site, "ada.nkemelu@example.org")
        yield driver


def change(site: str, slug: str, **changes: Any) -> None:
    content = call(site, f"/exercises/{slug}")["content"]
    call(site, f"/exercises/{slug}", "PUT", content | changes)


def click(browser: Chrome, selector: str, words: str) -> None:
    """Clicks what says these words."""

    def found(page: Chrome) -> Any:
        matching = [
            one
            for one in page.find_elements(By.CSS_SELECTOR, selector)
            if words in one.text and one.is_displayed() and one.is_enabled()
        ]
        return matching[0] if matching else None

    until(browser, found).click()


def hand_in(browser: Chrome, site: str, slug: str, text: str) -> None:
    browser.get(f"{site}/own/2-groups-order-sets/{slug}")
    find(browser, ".own-tables tbody tr")
    write(browser, text)
    click(browser, ".act .el-button", "Hand in")
    find(browser, ".came h2")
    until(browser, lambda page: text_of(page, ".came h2") in ("Right", "Wrong"))


def test_a_blind_spot_is_closed_by_the_rows_that_are_proposed(teacher: Chrome, site: str) -> None:
    change(
        site, "01-high-huts", reference="SELECT name FROM huts WHERE beds > 50", trials=[],
        alternatives=[],
    )  # fmt: skip
    teacher.get(f"{site}/exercises/01-high-huts")
    click(teacher, ".spots button", "> → >=")
    until(teacher, lambda page: ">= 50" in text_of(page, ".spot .sql"))
    until(teacher, lambda page: "1 row would show it" in text_of(page, ".spot .example h3"))
    (line,) = all_of(teacher, ".spot .woven tbody tr")
    assert line.get_attribute("data-kind") == "extra"
    click(teacher, ".spot .take .el-button", "Take in as a held-back dataset")
    until(teacher, lambda page: "Taken in as the held-back dataset" in text_of(page, ".spot"))
    until(teacher, lambda page: "comparison-1" in text_of(page, ".seen"))
    rest = [one.text for one in teacher.find_elements(By.CSS_SELECTOR, ".spots button")]
    assert not [one for one in rest if "> → >=" in one]
    assert not severe(teacher)


def test_a_learner_reads_hints_and_the_example_and_mends_the_query(ada: Chrome, site: str) -> None:
    change(site, BUSY, feedback={"example": True, "near_miss": "what"})
    hand_in(ada, site, BUSY, WRONG)
    until(ada, lambda page: "enough to see it" in text_of(page, ".example h3"))
    assert [one.get_attribute("data-kind") for one in all_of(ada, ".example .woven tbody tr")] == [
        "absent"
    ]
    click(ada, ".hints .el-button", "Show the kind")
    until(ada, lambda page: "boundary" in text_of(page, ".hints"))
    click(ada, ".hints .el-button", "Show where")
    until(ada, lambda page: "In line 1" in text_of(page, ".hints"))
    click(ada, ".hints .el-button", "Show what")
    until(ada, lambda page: "Write >= instead of >" in text_of(page, ".hints"))
    write(ada, WRONG.replace("> 2", ">= 2"))
    ActionChains(ada).key_down(Keys.ALT).send_keys(Keys.ENTER).key_up(Keys.ALT).perform()
    until(ada, lambda page: "The knot is gone" in text_of(page, ".came"))
    assert [one.get_attribute("data-kind") for one in all_of(ada, ".example .woven tbody tr")] == [
        "agrees"
    ]
    click(ada, ".act .el-button", "Hand in")
    until(ada, lambda page: text_of(page, ".came h2") == "Right")
    assert not severe(ada)


def test_the_desk_reads_the_near_miss_and_puts_alike_groups_together(
    teacher: Chrome, site: str
) -> None:
    teacher.get(f"{site}/marking/{BUSY}?attempts=all")
    click(teacher, ".note .el-button", "Look for them")
    until(teacher, lambda page: "one edit away" in text_of(page, "nav ol"))
    until(teacher, lambda page: not page.find_elements(By.CSS_SELECTOR, ".note[role=status]"))
    groups = call(site, f"/marking/{BUSY}?attempts=all")["groups"]
    wrong = next(one for one in groups if "`>=` instead of `>`" in one["explained"]["near_miss"])
    teacher.get(f"{site}/marking/{BUSY}?attempts=all&shown=why&answer={wrong['typical']}")
    until(teacher, lambda page: text_of(page, ".explained del") == ">")
    assert text_of(teacher, ".explained ins") == ">="
    assert not severe(teacher)


def test_an_answer_right_by_luck_its_rows_taken_in_and_the_regrade_previewed(
    ada: Chrome, teacher: Chrome, site: str
) -> None:
    lucky = (
        "SELECT name, altitude_m FROM huts WHERE beds < 1000 ORDER BY altitude_m DESC, name LIMIT 3"
    )
    hand_in(ada, site, "10-three-highest", lucky)
    assert text_of(ada, ".came h2") == "Right"
    (answer,) = [
        each["id"]
        for one in call(site, "/marking/10-three-highest?attempts=all")["groups"]
        for each in one["answers"]
        if each["learner"] == "Ada Nkemelu"
    ][-1:]
    teacher.get(f"{site}/answers/{answer}?shown=why")
    until(teacher, lambda page: "Right by luck" in text_of(page, ".explained"))
    click(teacher, ".explained .el-button", "Take in as a held-back dataset")
    click(teacher, ".explained .el-button", "Preview regrade")
    until(teacher, lambda page: "Ada Nkemelu" in text_of(page, ".el-dialog"))
    assert not severe(teacher)


def test_a_learner_opens_the_words_for_a_mistake_and_compares_two_texts(
    ada: Chrome, site: str
) -> None:
    third = "SELECT hut_id, COUNT(*), SUM(nights) FROM stays GROUP BY hut_id HAVING COUNT(*) >= 3"
    hand_in(ada, site, "08-busy-huts", third)
    find(ada, ".words .el-button").click()
    until(ada, lambda page: "Read again" in text_of(page, ".words li.opened"))
    find(ada, ".words .el-button").click()
    until(ada, lambda page: len(page.find_elements(By.CSS_SELECTOR, ".words li.opened")) == 2)
    assert not ada.find_elements(By.CSS_SELECTOR, ".words .el-button")
    write(ada, third.replace(">= 3", ">= 2"))
    click(ada, ".act .runs", "Compare")
    until(ada, lambda page: page.find_elements(By.CSS_SELECTOR, ".comparison .woven tbody tr"))
    assert text_of(ada, ".comparison .cm-deletedLine") == third
    # Inside the line, what changed is marked alone.
    assert text_of(ada, ".comparison .cm-deletedText") == "3"
    assert text_of(ada, ".comparison .cm-changedText") == "2"
    kinds = {
        one.get_attribute("data-kind")
        for one in ada.find_elements(By.CSS_SELECTOR, ".comparison .woven tbody tr")
    }
    assert kinds == {"agrees", "extra"}
    # A value of the woven rows goes into the text.
    value = find(ada, ".comparison .woven tr[data-kind=extra] td:not(.says)")
    said = value.text
    value.click()
    until(ada, lambda page: text_of(page, ".cm-content").endswith(said))
    assert not severe(ada)
