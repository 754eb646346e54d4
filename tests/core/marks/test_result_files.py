"""Marks as files, opened again by others' readers."""

from __future__ import annotations

import csv
import io
import zipfile
from datetime import UTC, datetime

from openpyxl import load_workbook

from jentrow.core.marks.result_files import (
    LineItem,
    MarkTable,
    ResultLine,
    as_csv,
    as_one_roster,
    as_xlsx,
)

TABLE = MarkTable(
    ["learner id", "name", "Choosing rows: sum"],
    [["alp-1", '=HYPERLINK("x")', 3.5], ["alp-2", "Ümit, the \"first\"\x01", None]],
)  # fmt: skip
NOW = datetime(2026, 11, 23, tzinfo=UTC)


def test_csv_is_read_by_any_reader_and_runs_nothing() -> None:
    rows = list(csv.reader(io.StringIO(as_csv(TABLE).decode("utf-8-sig"))))
    assert rows[1] == ["alp-1", '\'=HYPERLINK("x")', "3.5"]
    assert rows[2] == ["alp-2", 'Ümit, the "first"\x01', ""]


def test_a_workbook_has_numbers_as_numbers_and_names_as_text() -> None:
    page = load_workbook(io.BytesIO(as_xlsx(TABLE, "A course: [of] */ all"))).active
    assert page is not None
    assert page.title == "A course of  all"
    assert page.freeze_panes == "C2"
    assert (page["B2"].value, page["B2"].data_type) == ('=HYPERLINK("x")', "s")
    assert (page["C2"].value, page["C3"].value) == (3.5, None)
    assert page["B3"].value == 'Ümit, the "first"'


def test_one_roster_files_refer_to_each_other() -> None:
    items = [LineItem("s1-huts", "High huts", "Choosing rows", NOW, NOW, 3.0)]
    results = [
        ResultLine("s1-huts", "alp-1", "fully graded", 2.5, NOW, ""),
        ResultLine("s1-huts", "alp-2", "exempt", None, NOW, ""),
    ]
    archive = zipfile.ZipFile(io.BytesIO(as_one_roster("alps", items, results, NOW)))
    read = {
        name: list(csv.DictReader(io.StringIO(archive.read(name).decode())))
        for name in archive.namelist()
    }
    assert sorted(read) == ["categories.csv", "lineItems.csv", "manifest.csv", "results.csv"]
    manifest = {one["propertyName"]: one["value"] for one in read["manifest.csv"]}
    assert (manifest["oneroster.version"], manifest["file.results"]) == ("1.1", "bulk")
    assert manifest["file.users"] == "absent"
    (item,) = read["lineItems.csv"]
    assert item["categorySourcedId"] == read["categories.csv"][0]["sourcedId"]
    assert (item["classSourcedId"], item["resultValueMax"]) == ("alps", "3")
    assert [(one["lineItemSourcedId"], one["studentSourcedId"], one["scoreStatus"], one["score"])
            for one in read["results.csv"]] == [
        ("s1-huts", "alp-1", "fully graded", "2.5"), ("s1-huts", "alp-2", "exempt", ""),
    ]  # fmt: skip
