from __future__ import annotations

from pathlib import Path

import pytest

from jentrow.core.errors import InvalidSample, UnreadableFile
from jentrow.core.samples import csvfiles
from jentrow.core.samples.csvfiles import CSVFormat, read_blocks
from jentrow.core.samples.making.csvguess import guess_format

MAC_TEXT = "hütte,höhe,führt über\n" + "".join(
    f"Föhrenalp {at},{1_000 + at},Gräben und Brücken für Wanderer über große Höhen\n"
    for at in range(20)
)


@pytest.mark.parametrize(
    ("data", "format"),
    [
        ("hut,höhe\n1,2\n".encode(), CSVFormat()),
        ("hut;höhe\n1;2,5\n3;4,5\n".encode("windows-1252"), CSVFormat(";", "windows-1252")),
        ("hut\thöhe\n1\t2\n".encode("utf-16"), CSVFormat("\t", "utf-16")),
        (MAC_TEXT.encode("mac-roman"), CSVFormat(",", "mac-roman")),
        (MAC_TEXT.encode("windows-1252"), CSVFormat(",", "windows-1252")),
        (b"a|b\n1|NULL\n", CSVFormat("|", "utf-8", "NULL")),
        (b"a,b\n1,n/a\n2,3\n", CSVFormat(",", "utf-8", "n/a")),
        (b"name,b\nNA,1\nnb,2\n", CSVFormat()),
        (b"a,b\n1,\\N\n", CSVFormat(",", "utf-8", "\\N")),
        (b'a,b\n"x;y;z",1\n"u;v;w",2\n', CSVFormat()),
        (b"only\n1\n", CSVFormat()),
        (b"sep=;\r\na;b\r\n1,5;2,5\r\n", CSVFormat(";")),
        ("\ufeffsep=|\na|b,c\n1|2,3\n".encode(), CSVFormat("|")),
        (b"a,b\n\x81,1\n", CSVFormat(",", "iso-8859-1")),
    ],
)
def test_the_format_is_found_in_the_file(tmp_path: Path, data: bytes, format: CSVFormat) -> None:
    path = tmp_path / "table.csv"
    path.write_bytes(data)
    assert guess_format(path) == format


def test_the_line_that_says_the_delimiter_is_no_record(tmp_path: Path) -> None:
    path = tmp_path / "table.csv"
    path.write_bytes(b"sep=;\r\na;b\r\n1;2\r\n")
    (block,) = read_blocks(path, guess_format(path))
    assert list(block.records) == [["a", "b"], ["1", "2"]]
    assert list(block.lines) == [2, 3]


def test_with_a_marker_an_empty_field_is_empty_text(tmp_path: Path) -> None:
    path = tmp_path / "table.csv"
    path.write_text('a,b\nNA,\n"NA",x\n', encoding="utf-8")
    (block,) = read_blocks(path, CSVFormat(null_marker="NA"))
    assert list(block.records)[1:] == [[None, ""], ["NA", "x"]]


@pytest.mark.parametrize("size", [1, 2, 3, 7, 64])
def test_portions_do_not_matter(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, size: int) -> None:
    text = '\ufeffa,b\r\n1,"two\r\nlines"\r\n\r\n"q ""u""",\r\nä,"";x\r\n'.replace(";x", "")
    path = tmp_path / "table.csv"
    path.write_bytes(text.encode())
    monkeypatch.setattr(csvfiles, "BLOCK_BYTES", size)
    found = [
        (line, record)
        for block in read_blocks(path)
        for line, record in zip(block.lines, block.records, strict=True)
    ]
    assert found == [
        (1, ["a", "b"]),
        (2, ["1", "two\nlines"]),
        (5, ['q "u"', None]),
        (6, ["ä", ""]),
    ]


def test_columns_are_the_records_turned(tmp_path: Path) -> None:
    path = tmp_path / "table.csv"
    path.write_text("a,b\n1,\n,2\n3,4,5\n", encoding="utf-8")
    (block,) = read_blocks(path)
    assert block.of_another_width(2) == [3]
    kept = block.without([3])
    assert [list(column) for column in kept.columns(2)] == [
        ["a", "1", None, "3"][:3],
        ["b", None, "2"],
    ]
    assert list(kept.lines) == [1, 2, 3]


def test_bytes_that_are_no_text_are_named_with_their_line(tmp_path: Path) -> None:
    path = tmp_path / "table.csv"
    path.write_bytes(b"a,b\n1,2\n3,\xff\n")
    with pytest.raises(UnreadableFile, match=r"not UTF-8 \(byte 0xff in line 3\)"):
        list(read_blocks(path))
    path.write_bytes(b'a,b\n1,"2\n3,4\n')
    with pytest.raises(InvalidSample, match="line 2: a quote out of place"):
        list(read_blocks(path))
