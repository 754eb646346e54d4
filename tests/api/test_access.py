"""Who may see what, route by route; and how people come in, and out."""

from __future__ import annotations

import re
from collections.abc import Iterator
from itertools import count
from pathlib import Path
from typing import Any

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import select

from jentrow.api.access import GUARD
from jentrow.api.app import create_app
from jentrow.records.models import Course, Instructor, Learner, Person, Throttle
from jentrow.services.accounts.links import first_link, password_link
from jentrow.services.packs.demo import MADE_FOR
from jentrow.services.runtime.runtime import Runtime
from tests.api.routes import IN_A_COURSE, OPENAPI, is_a_learner_s
from tests.api.server import LEARNER, NOON, OTHER, SITE, app_of, person, running
from tests.demo_course import COURSE, PASSWORD

PUBLIC = {
    ("GET", "/api/me"),
    ("POST", "/api/sign-in"),
    ("GET", "/api/links/{token}"),
    ("POST", "/api/links/{token}"),
    ("GET", "/api/joining/{code}"),
    ("POST", "/api/joining/{code}"),
}
"""What anybody may ask. A route that is not meant for everybody is not added here."""

VALUES = {
    "engine": "duckdb",
    "course": COURSE, "sheet": "2-groups-order-sets", "slug": "07-missing-values", "sample": "huts",
    "dataset": "open", "table": "huts", "number": "1", "version": "1", "submission_id": "1",
    "learner_id": "1", "person_id": "1", "import_id": "x", "name": "x.csv", "token": "x",
    "code": "x", "row": "1", "column": "name", "older": "1", "newer": "1", "run_id": "1",
    "question_id": "1", "strength": "kind", "opened": "1", "adjustment_id": "1", "regrade_id": "1",
}  # fmt: skip


def all_routes() -> list[tuple[str, str]]:
    """Every route of the server, by the document of its routes."""
    return sorted(
        (method.upper(), path) for path, item in OPENAPI["paths"].items() for method in item
    )


ROUTES = all_routes()
INSIDE = [route for route in ROUTES if route[1].startswith(IN_A_COURSE)]
OWN = [route for route in INSIDE if is_a_learner_s(route[1])]
TAUGHT = [route for route in INSIDE if route not in OWN]
SIGNED_IN = [route for route in ROUTES if route not in INSIDE and route not in PUBLIC]


def address(path: str, **other: str) -> str:
    return SITE + re.sub(r"\{(\w+)\}", lambda part: (VALUES | other)[part.group(1)], path)


def said(client: TestClient, route: tuple[str, str], **other: str) -> Any:
    method, path = route
    answer = client.request(method, address(path, **other), json={})
    assert str(answer.status_code) in OPENAPI["paths"][path][method.lower()]["responses"]
    return answer


@pytest.fixture(scope="module")
def nobody(client: TestClient) -> TestClient:
    return person(app_of(client), None)


@pytest.fixture(scope="module")
def learner(client: TestClient) -> TestClient:
    return person(app_of(client), LEARNER)


def test_the_routes_are_what_they_are_taken_for(client: TestClient) -> None:
    assert set(ROUTES) >= PUBLIC
    assert len(TAUGHT) > 103
    assert len(OWN) == 24
    served = {
        (method, route.path)
        for route in app_of(client).routes
        if isinstance(route, APIRoute) and route.include_in_schema
        for method in route.methods
    }
    assert served <= set(ROUTES), "a route that the document does not name is not tested"


@pytest.mark.parametrize("route", [*INSIDE, *SIGNED_IN], ids=" ".join)
def test_nobody_sees_anything(nobody: TestClient, route: tuple[str, str]) -> None:
    answer = said(nobody, route)
    assert answer.status_code == 401, answer.text
    assert answer.json() == {"message": "You are not signed in."}


@pytest.mark.parametrize("route", TAUGHT, ids=" ".join)
def test_a_learner_sees_nothing_of_the_instructors(
    learner: TestClient, route: tuple[str, str]
) -> None:
    answer = said(learner, route)
    assert answer.status_code == 403, answer.text
    assert answer.json() == {"message": "This is for the instructors of the course only."}


@pytest.mark.parametrize("route", OWN, ids=" ".join)
def test_an_instructor_is_no_learner(client: TestClient, route: tuple[str, str]) -> None:
    assert said(client, route).status_code == 403


@pytest.mark.parametrize("route", INSIDE, ids=" ".join)
def test_another_course_is_as_if_it_were_not(client: TestClient, route: tuple[str, str]) -> None:
    answer = said(client, route, course="another-one")
    assert answer.status_code == 404, answer.text
    assert "You have no course 'another-one'" in answer.json()["message"]


@pytest.mark.parametrize(
    "route", [one for one in [*TAUGHT, *SIGNED_IN] if one[0] != "GET"], ids=" ".join
)
def test_no_change_without_the_guard(client: TestClient, route: tuple[str, str]) -> None:
    """A page of another site has the cookie sent along, but does not know the guard."""
    forged = person(app_of(client), None)
    forged.cookies.update(client.cookies)
    for headers in ({}, {GUARD: "x"}):
        answer = forged.request(route[0], address(route[1]), json={}, headers=headers)
        assert answer.status_code == 403, answer.text
        assert "not up to date" in answer.json()["message"]


@pytest.fixture(scope="module")
def secrets(client: TestClient) -> list[str]:
    """Words that stand in references, held-back rows, trials, and with other learners only."""
    found = []
    for slug in ("07-missing-values", "01-high-huts", "10-three-highest"):
        content = client.get(f"/exercises/{slug}").json()["content"]
        found.append(content["reference"].strip())
        found += [one["name"] for one in content["trials"] if len(one["name"]) > 8]
        found += [one["sql"].strip() for one in content["alternatives"]]
    rows = client.get("/samples/huts/datasets/second-season/tables/huts/rows").json()["rows"]
    opened = str(client.get("/samples/huts/datasets/open/tables/huts/rows").json()["rows"])
    held = {str(row["cells"][1]) for row in rows} - {"None"}
    found += [name for name in held if name not in opened]
    found += [one["name"] for one in client.get("/learners").json() if "Tomas" in one["name"]]
    assert len(found) > 15
    return found


def test_a_learner_s_own_pages_tell_no_secret(fresh: TestClient, secrets: list[str]) -> None:
    """Everything that a learner can read, read through; a wrong answer is handed in before."""
    learner = person(app_of(fresh), LEARNER)
    one = "/own/sheets/1-choosing-rows/exercises/01-high-huts"
    wrong = learner.post(
        f"{one}/submissions",
        json={"sql": "SELECT name, region, altitude_m FROM huts LIMIT 2", "key": "a-secret-try"},
    )
    assert wrong.status_code == 201, wrong.text
    app_of(fresh).state.runtime.queue.wait_until_idle()
    texts = [learner.get("/own").text, learner.get(f"/own/submissions/{wrong.json()['id']}").text]
    for sheet in learner.get("/own").json()["sheets"]:
        for line in sheet["exercises"]:
            place = f"/own/sheets/{sheet['slug']}/exercises/{line['slug']}"
            shown = learner.get(place)
            texts.append(shown.text)
            for table in shown.json()["tables"]:
                name = table["table"]["name"]
                texts.append(learner.get(f"{place}/tables/{name}/rows?limit=500").text)
    texts.append(learner.get(f"{one}/copy").text)
    for text in texts:
        plain = text.encode().decode("unicode_escape", "ignore")
        for secret in secrets:
            assert secret not in plain, secret
    assert all("second-season" not in text for text in texts)


def test_another_s_attempt_and_a_sheet_to_come_are_not_there(fresh: TestClient) -> None:
    mine, theirs = (person(app_of(fresh), login) for login in (LEARNER, OTHER))
    one = "/own/sheets/1-choosing-rows/exercises/02-middle-reaches"
    made = mine.post(f"{one}/submissions", json={"sql": "SELECT 1", "key": "mine-alone"}).json()
    assert mine.get(f"/own/submissions/{made['id']}").status_code == 200
    assert theirs.get(f"/own/submissions/{made['id']}").status_code == 404
    later = "/own/sheets/3-joins-and-beyond/exercises/14-huts-and-nights"
    for answer in (
        mine.get(later),
        mine.get(f"{later}/tables/huts/rows"),
        mine.post(f"{later}/runs", json={"sql": "SELECT 1"}),
        mine.post(f"{later}/submissions", json={"sql": "SELECT 1", "key": "much-too-soon"}),
        mine.put(f"{later}/draft", json={"sql": "SELECT 1"}),
        mine.get("/own/sheets/2-groups-order-sets/exercises/01-high-huts"),
    ):
        assert answer.status_code == 404


# signing in


def test_a_wrong_password_and_an_unknown_name_are_told_alike(client: TestClient) -> None:
    browser = person(app_of(client), None)
    answers = [
        browser.post(f"{SITE}/api/sign-in", json={"login": login, "password": "wrong " * 3})
        for login in ("instructor", "nobody-here")
    ]
    assert {(one.status_code, one.text) for one in answers} == {
        (401, '{"message":"The sign-in name and the password do not belong together."}')
    }
    assert not browser.cookies


def test_attempts_are_throttled_by_name(fresh: TestClient) -> None:
    browser = person(app_of(fresh), None)

    def attempt(login: str, password: str) -> Any:
        return browser.post(f"{SITE}/api/sign-in", json={"login": login, "password": password})

    for _ in range(5):
        assert attempt(LEARNER, "not the password").status_code == 401
    # The first wait is a second, which a busy machine may let pass; twelve failures make a minute.
    with app_of(fresh).state.runtime.records.writing() as session:
        (counted,) = session.scalars(select(Throttle))
        assert counted.failures == 5
        counted.failures = 12
    answer = attempt(f" {LEARNER.upper()} ", PASSWORD)
    assert answer.status_code == 429
    assert int(answer.headers["Retry-After"]) >= 1
    assert "Too many attempts" in answer.json()["message"]
    assert attempt(OTHER, PASSWORD).status_code == 200


def test_the_cookie_is_out_of_reach_of_scripts(client: TestClient) -> None:
    answer = person(app_of(client), None).post(
        f"{SITE}/api/sign-in", json={"login": "Instructor ", "password": PASSWORD}
    )
    cookie = answer.headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=lax" in cookie
    assert answer.json()["me"]["guard"] not in cookie


def test_signing_out_here_and_everywhere(fresh: TestClient) -> None:
    app = app_of(fresh)
    one, two, three = (person(app, LEARNER) for _ in range(3))
    before = len(two.get(f"{SITE}/api/browsers").json())
    assert one.post(f"{SITE}/api/sign-out").status_code == 204
    assert [each.get("/own").status_code for each in (one, two, three)] == [401, 200, 200]
    assert len(two.get(f"{SITE}/api/browsers").json()) == before - 1
    assert two.post(f"{SITE}/api/sign-out-everywhere").status_code == 204
    assert [each.get("/own").status_code for each in (two, three, fresh)] == [401, 401, 403]


def test_another_password_signs_the_other_browsers_out(fresh: TestClient) -> None:
    app = app_of(fresh)
    here, there = person(app, LEARNER), person(app, LEARNER)
    change = f"{SITE}/api/password"
    for before, after, words in (
        ("not this", "a good new one", "another one"),
        (PASSWORD, "short", "10 to 200"),
        (PASSWORD, "aaaaaaaaaaaa", "4 different"),
        (PASSWORD, LEARNER, "is the sign-in name"),
    ):
        answer = here.put(change, json={"before": before, "after": after})
        assert answer.status_code == 422
        assert words in answer.json()["message"]
    assert here.put(change, json={"before": PASSWORD, "after": "a good new one"}).status_code == 204
    assert (here.get("/own").status_code, there.get("/own").status_code) == (200, 401)


# links


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[TestClient]:
    """A server that was never used."""
    with running(create_app(lambda: Runtime(tmp_path / "new", lambda: NOON))) as server:
        yield server


def account(client: TestClient, token: str, login: str, name: str = "Alma Rieder") -> Any:
    body = {"name": name, "login": login, "password": PASSWORD}
    answer = client.post(f"{SITE}/api/links/{token}", json=body)
    if answer.status_code == 200:
        client.headers[GUARD] = answer.json()["me"]["guard"]
    return answer


def test_the_first_instructor_comes_by_a_link_that_works_once(empty: TestClient) -> None:
    runtime = app_of(empty).state.runtime
    earlier, token = first_link(runtime.records), first_link(runtime.records)
    assert earlier is not None
    assert token is not None
    assert empty.get(f"{SITE}/api/links/{earlier}").status_code == 404
    assert empty.get(f"{SITE}/api/links/{token}").json()["kind"] == "first"
    assert account(empty, token, "alma", name=" ").status_code == 422
    first = account(empty, token, "alma").json()
    assert (first["me"]["teaches"], first["me"]["courses"]) == (True, [])
    assert account(person(app_of(empty), None), token, "again").status_code == 404
    assert first_link(runtime.records) is None
    made = empty.post(f"{SITE}/api/courses", json={"title": "Rivers", "zone": "Europe/Zurich"})
    assert made.json()["course"] == "rivers"
    inside = f"{SITE}/api/courses/rivers"
    assert empty.get(f"{inside}/exercises").json() == []
    assert empty.get(f"{inside}/about").json()["course"] == "Rivers"
    wrong = empty.post(f"{SITE}/api/courses", json={"title": "Lakes", "zone": "Moon/Base"})
    assert "no time zone 'Moon/Base'" in wrong.json()["message"]


def test_a_forgotten_password_gets_a_link(fresh: TestClient) -> None:
    app = app_of(fresh)
    token = password_link(app.state.runtime.records, LEARNER)
    before = person(app, LEARNER)
    browser = person(app, None)
    look = browser.get(f"{SITE}/api/links/{token}").json()
    assert (look["kind"], look["login"], look["has_account"]) == ("password", LEARNER, True)
    body = {"login": "somebody-else", "password": "quite another one"}
    entered = browser.post(f"{SITE}/api/links/{token}", json=body).json()
    assert entered["me"]["login"] == LEARNER
    again = person(app, None).post(
        f"{SITE}/api/sign-in", json={"login": LEARNER, "password": "quite another one"}
    )
    assert again.status_code == 200
    assert before.get("/own").status_code == 401, "whoever had the old password is out"


@pytest.mark.parametrize("role", ["teaches", "instructor", "another course"])
def test_nobody_takes_over_an_account_that_is_not_the_course_s_alone(
    fresh: TestClient, role: str
) -> None:
    app = app_of(fresh)
    learners = fresh.get("/learners").json()
    (ada,) = [one for one in learners if one["email"] == LEARNER]
    # As long as the account is this course's alone, it may: and the link is kept for later.
    early = fresh.post(f"/learners/{ada['id']}/link").json()["token"]
    with app.state.runtime.records.writing() as session:
        person_id = session.get_one(Learner, ada["id"]).person_id
        other = Course(slug="rivers", title="Rivers")
        session.add(other)
        session.flush()
        if role == "teaches":
            session.get_one(Person, person_id).teaches = True
        elif role == "instructor":
            session.add(Instructor(course_id=other.id, person_id=person_id))
        else:
            session.add(Learner(course_id=other.id, code="a", name="Ada", person_id=person_id))
    refused = fresh.post(f"/learners/{ada['id']}/link")
    assert refused.status_code == 403
    assert "more than this course" in refused.json()["message"]
    body = {"name": "", "login": LEARNER, "password": "quite another one"}
    assert person(app, None).post(f"{SITE}/api/links/{early}", json=body).status_code == 403
    assert person(app, LEARNER).get("/own").status_code == 200, "the password is as it was"
    # Whoever runs the server can help.
    token = password_link(app.state.runtime.records, LEARNER)
    assert person(app, None).post(f"{SITE}/api/links/{token}", json=body).status_code == 200


ROSTER = "learner id,name,e-mail\nzz-1,Wim Aalders,wim@example.org\nzz-2,Xenia Blum,\n"
_NUMBERS = count()


def handed_in(client: TestClient, name: str, data: str) -> str:
    begun = client.post("/imports").json()["id"]
    put = client.put(f"/imports/{begun}/files/{name}", content=data.encode())
    assert put.status_code == 200, put.text
    return str(begun)


def test_a_roster_is_looked_at_taken_in_and_linked(fresh: TestClient) -> None:
    taken = handed_in(fresh, "roster.csv", ROSTER)
    (look,) = fresh.post(f"/rosters/{taken}/look").json()["classes"]
    assert [one["name"] for one in look["new"]] == ["Wim Aalders", "Xenia Blum"]
    assert fresh.post(f"/rosters/{taken}/take", json={}).json() == {"count": 2}
    again = handed_in(fresh, "again.csv", ROSTER.replace("Xenia Blum", "Xenia Blume"))
    (look,) = fresh.post(f"/rosters/{again}/look").json()["classes"]
    assert (look["new"], look["same"], look["changed"][0]["after"]) == ([], 1, "Xenia Blume")
    assert "Ada Nkemelu" in look["absent"]
    assert fresh.post(f"/rosters/{again}/take", json={}).json() == {"count": 0}
    links = fresh.post("/learners/links", json={}).json()
    assert [one["code"] for one in links] == ["zz-1", "zz-2"]
    newer = fresh.post("/learners/links", json={}).json()
    browser = person(app_of(fresh), None)
    assert browser.get(f"{SITE}/api/links/{links[0]['token']}").status_code == 404
    look = browser.get(f"{SITE}/api/links/{newer[0]['token']}").json()
    assert (look["name"], look["login"], look["has_account"]) == (
        "Wim Aalders", "wim@example.org", False,
    )  # fmt: skip
    assert account(browser, newer[0]["token"], "wim", name="Not Wim").status_code == 200
    own = browser.get("/own").json()
    assert (own["learner"], own["code"]) == ("Wim Aalders", "zz-1")
    # Whoever is here already adds the second one's course to what they have; or is refused.
    taken_name = account(person(app_of(fresh), None), newer[1]["token"], "WIM")
    assert "Somebody has this sign-in name" in taken_name.json()["message"]
    as_wim = browser.post(f"{SITE}/api/links/{newer[1]['token']}/as-me")
    assert "You are Wim Aalders" in as_wim.json()["message"]


def test_lines_that_cannot_be_used_are_left_out_only_where_that_is_said(fresh: TestClient) -> None:
    taken = handed_in(fresh, "roster.csv", ROSTER + ",Nameless,\n")
    assert len(fresh.post(f"/rosters/{taken}/look").json()["problems"]) == 1
    refused = fresh.post(f"/rosters/{taken}/take", json={})
    assert refused.status_code == 422
    assert not [one for one in fresh.get("/learners").json() if one["code"] == "zz-1"]
    assert fresh.post(f"/rosters/{taken}/take", json={"leave_out": True}).json() == {"count": 2}


# courses


def test_joining_by_a_code(fresh: TestClient) -> None:
    app = app_of(fresh)
    code = fresh.post("/course/join-code", json={"wanted": True}).json()["join_code"]
    browser = person(app, None)
    typed = f"{code[:4].lower()} - {code[4:]}"
    look = browser.get(f"{SITE}/api/joining/{typed}")
    assert look.json() == {"course": "Alpine data course"}
    body = {"name": "Rolf Eng", "login": "rolf", "password": PASSWORD}
    entered = browser.post(f"{SITE}/api/joining/{code}", json=body)
    assert entered.json()["course"] == COURSE
    assert browser.get("/own").json()["learner"] == "Rolf Eng"
    teacher = fresh.post(f"{SITE}/api/joining/{code}/as-me")
    assert teacher.json()["message"] == "You teach this course."
    ada = person(app, LEARNER)
    assert ada.post(f"{SITE}/api/joining/{code}/as-me").json()["course"] == COURSE
    assert len([one for one in fresh.get("/learners").json() if one["name"] == "Ada Nkemelu"]) == 1
    assert fresh.post("/course/join-code", json={"wanted": False}).json()["join_code"] is None
    assert person(app, None).get(f"{SITE}/api/joining/{code}").status_code == 404


def test_several_instructors_and_never_none(fresh: TestClient) -> None:
    app = app_of(fresh)
    (only,) = fresh.get("/course").json()["instructors"]
    last = fresh.delete(f"/course/instructors/{only['id']}")
    assert (last.status_code, "Somebody has to teach" in last.text) == (409, True)
    token = fresh.post("/course/instructors").json()["token"]
    second = person(app, None)
    assert account(second, token, "second", name="Beat Wyss").status_code == 200
    assert second.get("/exercises").status_code == 200
    course = second.delete(f"/course/instructors/{only['id']}").json()
    assert [one["name"] for one in course["instructors"]] == ["Beat Wyss"]
    assert fresh.get("/exercises").status_code == 404


def test_an_archived_course_is_only_read(fresh: TestClient) -> None:
    app = app_of(fresh)
    learner = person(app, LEARNER)
    one = "/own/sheets/2-groups-order-sets/exercises/08-busy-huts"
    assert fresh.post("/course/archived", json={"wanted": True}).json()["archived_at"]
    assert fresh.get("/exercises").status_code == 200
    refused = fresh.post("/exercises", json={"title": "New", "sample": "huts"})
    assert (refused.status_code, "is archived" in refused.text) == (409, True)
    content = fresh.get("/exercises/08-busy-huts").json()["content"]
    assert fresh.post("/exercises/08-busy-huts/proof", json=content).status_code == 200
    assert learner.get(one).status_code == 200
    assert learner.post(f"{one}/runs", json={"sql": "SELECT 1"}).status_code == 200
    late = learner.post(f"{one}/submissions", json={"sql": "SELECT 1", "key": "after-the-end"})
    assert (late.status_code, "is over" in late.text) == (409, True)
    assert fresh.post("/course/archived", json={"wanted": False}).json()["archived_at"] is None
    assert (
        learner.post(
            f"{one}/submissions", json={"sql": "SELECT 1", "key": "after-the-end"}
        ).status_code
        == 201
    )


def test_two_courses_do_not_see_each_other(fresh: TestClient) -> None:
    other = fresh.post(f"{SITE}/api/courses", json={"title": "Rivers"}).json()["course"]
    inside = f"{SITE}/api/courses/{other}"
    assert fresh.get(f"{inside}/samples").json() == []
    assert fresh.get(f"{inside}/learners").json() == []
    assert fresh.get(f"{inside}/submissions/1").status_code == 404
    assert fresh.get(f"{inside}/exercises/01-high-huts").status_code == 404
    made = fresh.post(
        f"{inside}/samples",
        json={
            "name": "huts",
            "tables": [{"name": "t", "columns": [{"name": "a", "type": "TEXT"}]}],
        },
    )
    assert made.status_code == 201, made.text
    begun = fresh.post(f"{inside}/exercises", json={"title": "High huts", "sample": "huts"})
    assert begun.status_code == 201
    assert len(fresh.get("/exercises").json()) == 18
    (version,) = fresh.get(f"{inside}/exercises/{begun.json()['slug']}/versions").json()
    assert version["by"] == "Alma Rieder"


# learners


def test_a_learner_is_changed_extended_and_removed(fresh: TestClient) -> None:
    ada, amir, *_ = sorted(fresh.get("/learners").json(), key=lambda one: one["name"])
    one = f"/learners/{ada['id']}"
    clash = fresh.put(one, json={"code": amir["code"], "name": "Ada"})
    assert f"{amir['name']} has the learner id" in clash.json()["message"]
    assert fresh.put(one, json={"code": "a", "name": "Ada N."}).status_code == 204
    for sheet, closes, words in (
        ("nowhere", "2026-12-01T20:00", "no sheet"),
        ("2-groups-order-sets", "2026-11-29T20:00", "must be later"),
    ):
        answer = fresh.put(f"{one}/extensions/{sheet}", json={"closes": closes})
        assert words in answer.json()["message"]
    extension = f"{one}/extensions/2-groups-order-sets"
    assert fresh.put(extension, json={"closes": "2026-12-02T20:00"}).status_code == 204
    (line,) = [found for found in fresh.get("/learners").json() if found["id"] == ada["id"]]
    assert line["extensions"][0]["closes"] == "2026-12-02T20:00:00"
    assert fresh.put(extension, json={"closes": None}).status_code == 204
    assert fresh.delete(one).status_code == (409 if ada["submissions"] else 204)
    assert fresh.delete(f"{one}?with_answers=true").status_code in (204, 404)
    assert ada["id"] not in [found["id"] for found in fresh.get("/learners").json()]


def test_the_demo_moves_by_whole_weeks() -> None:
    assert MADE_FOR.weekday() == 0
    assert NOON.date() == MADE_FOR.date()


def test_what_happens_to_a_link_can_be_seen_by_whom_it_concerns(fresh: TestClient) -> None:
    app = app_of(fresh)
    (ada,) = [one for one in fresh.get("/learners").json() if one["email"] == LEARNER]
    first = fresh.post(f"/learners/{ada['id']}/link")
    assert first.status_code == 200, first.text
    second = fresh.post(f"/learners/{ada['id']}/link").json()["token"]
    account = {"name": "", "login": "", "password": "quite another one"}
    opened = person(app, None)
    assert opened.post(f"{SITE}/api/links/{second}", json=account).status_code == 200
    events = opened.get(f"{SITE}/api/link-events").json()
    assert [(one["what"], one["kind"]) for one in events] == [
        ("used", "learner"), ("made", "learner"), ("revoked", "learner"), ("made", "learner")
    ]  # fmt: skip
    names = [one["by"] for one in events]
    assert names[0] == ada["name"]
    assert set(names[1:]) == {"Instructor"} or len(set(names[1:])) == 1
    assert person(app, OTHER).get(f"{SITE}/api/link-events").json() == []
