"""Rosters as schools and spreadsheets write them."""

from __future__ import annotations

import zipfile
from pathlib import Path

import pytest

from jentrow.core.errors import InvalidRoster, UnreadableFile
from jentrow.core.rosters import RosterEntry, is_email, read_roster

ONE_ROSTER = {
    "users.csv": "sourcedId,status,enabledUser,role,username,identifier,givenName,familyName,email\n"
    "u1,active,true,student,ada,alp-1,Ada,Nkemelu,ada@example.org\n"
    "u2,active,true,student,bela,,Bela,Kovar,\n"
    "u3,active,true,teacher,alma,,Alma,Rieder,alma@example.org\n"
    "u4,tobedeleted,true,student,gone,,Some,Body,\n",
    "classes.csv": "sourcedId,status,title\nc1,active,Huts\nc2,active,Rivers\nc3,tobedeleted,Old\n",
    "enrollments.csv": "sourcedId,status,classSourcedId,userSourcedId,role\n"
    "e1,active,c1,u1,student\ne2,active,c1,u2,student\ne3,active,c1,u3,teacher\n"
    "e4,active,c2,u1,student\ne5,active,c2,u9,student\ne6,tobedeleted,c2,u2,student\n"
    "e7,active,c1,u4,student\n",
}


def written(folder: Path, text: str, name: str = "roster.csv") -> Path:
    path = folder / name
    path.write_text(text, encoding="utf-8")
    return path


@pytest.mark.parametrize(
    "text",
    [
        "learner id,name,e-mail\nalp-1,Ada Nkemelu,ada@example.org\n",
        "\ufeffLearner_ID;E-Mail;Name\r\nalp-1;ada@example.org; Ada Nkemelu \r\n;;\r\n",
        "id\tfirst name\tlast name\temail\nalp-1\tAda\tNkemelu\tada@example.org\n",
        'id,name,email,seminar group\n"alp-1","Ada Nkemelu",ada@example.org,B\n\n',
    ],
)
def test_a_roster_however_it_is_written(tmp_path: Path, text: str) -> None:
    (found,) = read_roster(written(tmp_path, text)).classes
    assert found.entries == (RosterEntry("alp-1", "Ada Nkemelu", "ada@example.org"),)


def test_every_line_that_cannot_be_used_is_named(tmp_path: Path) -> None:
    text = "id,name,email\n1,Ada,\n,Nobody,\n2,,\n1,Bela,\n3,Cleo,not an address\n4,Daan\n5,Edda,\n"
    found = read_roster(written(tmp_path, text))
    assert [entry.code for entry in found.classes[0].entries] == ["1", "5"]
    words = "\n".join(found.problems)
    for part in ("line 3 has no learner id", "line 4 has no name", "'1' stands twice",
                 "'not an address' is no e-mail", "line 7 has 2 fields, not 3"):  # fmt: skip
        assert part in words


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "names nothing"),
        ("who,mail\nAda,x\n", "must name learner id and name"),
        ('id,name\n1,"Ada\n', "not CSV"),
        ("sourcedId,familyName\nu1,Nkemelu\n", "hand in the ZIP"),
    ],
)
def test_what_is_no_roster(tmp_path: Path, text: str, words: str) -> None:
    with pytest.raises(InvalidRoster, match=words):
        read_roster(written(tmp_path, text))


def test_bytes_that_are_no_text(tmp_path: Path) -> None:
    path = tmp_path / "roster.csv"
    path.write_bytes(b"id,name\n1,J\xf6rg\n")
    with pytest.raises(UnreadableFile, match="line 2"):
        read_roster(path)


@pytest.mark.parametrize("packed", [True, False])
def test_one_roster_files(tmp_path: Path, packed: bool) -> None:
    folder = tmp_path / "files"
    folder.mkdir()
    for name, text in ONE_ROSTER.items():
        written(folder, text, name)
    path = folder
    if packed:
        path = tmp_path / "school.zip"
        with zipfile.ZipFile(path, "w") as archive:
            for name in ONE_ROSTER:
                archive.write(folder / name, f"export/{name}")
    found = read_roster(path)
    assert [(one.title, [entry.code for entry in one.entries]) for one in found.classes] == [
        ("Huts", ["alp-1", "u2"]),
        ("Rivers", ["alp-1"]),
    ]
    assert found.classes[0].entries[0] == RosterEntry("alp-1", "Ada Nkemelu", "ada@example.org")
    assert found.problems == ("enrollments.csv, line 6 names the user 'u9', whom users.csv lacks",)


def test_a_missing_file_and_a_missing_column_are_named(tmp_path: Path) -> None:
    written(tmp_path, ONE_ROSTER["users.csv"], "users.csv")
    with pytest.raises(InvalidRoster, match=r"no classes\.csv"):
        read_roster(tmp_path)
    written(tmp_path, "sourcedId\nc1\n", "classes.csv")
    written(tmp_path, ONE_ROSTER["enrollments.csv"], "enrollments.csv")
    with pytest.raises(InvalidRoster, match="the header lacks title"):
        read_roster(tmp_path)


def test_what_looks_like_an_address() -> None:
    assert is_email("ada.nkemelu@example.org")
    for text in ("ada", "ada@", "@example.org", "ada@example", "a b@example.org", "a@b@c.org"):
        assert not is_email(text)
