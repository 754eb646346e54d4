"""CSV as RFC 4180 has it, read in portions, with NULL and empty text told apart.

An empty field is NULL, a quoted empty field (``""``) is empty text. Python's own reader does not
tell the two apart, hence this one: lines without a quote are split at their delimiters, the others
are taken apart field by field. A file is never held in memory as a whole.
"""

from __future__ import annotations

import codecs
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from operator import methodcaller
from pathlib import Path
from typing import IO, Final, TypeVar

from jentrow.core.errors import InvalidSample, UnreadableFile
from jentrow.core.spreadsheets import SAID_DELIMITER
from jentrow.core.textfiles import not_text, opened

Record = list[str | None]
T = TypeVar("T")
BLOCK_BYTES: Final = 1 << 20
LONGEST_RECORD: Final = 64 << 20


@dataclass(frozen=True, slots=True)
class CSVFormat:
    """How a CSV file is written.

    ``null_marker`` is an unquoted field that stands for NULL beside the empty one. Where there is
    a marker, an unquoted empty field is read as empty text: the marker says what is NULL.
    """

    delimiter: str = ","
    encoding: str = "utf-8"
    null_marker: str = ""


STANDARD: Final = CSVFormat()


@dataclass(frozen=True, slots=True)
class Block:
    """Some records of a file, with the line (from 1) that each begins in.

    Records without a quote are kept as ``texts``, to be split all at once; where one has a quote
    all are kept as ``fields``. ``size`` is how many bytes of the file have been read so far.
    """

    lines: Sequence[int]
    size: int
    format: CSVFormat
    texts: Sequence[str] | None = None
    fields: Sequence[Record] | None = None

    def __len__(self) -> int:
        return len(self.lines)

    @property
    def records(self) -> Sequence[Record]:
        """The records, NULL as None."""
        if self.texts is None:
            return self.fields or []
        return list(map(self._split, self.texts))

    @property
    def first(self) -> Record:
        """The first record alone: a block holds thousands."""
        return (self.fields or ())[0] if self.texts is None else self._split(self.texts[0])

    def _split(self, text: str) -> Record:
        marker = self.format.null_marker
        return [None if field == marker else field for field in text.split(self.format.delimiter)]

    def of_another_width(self, width: int) -> list[int]:
        """The places of the records that have not ``width`` fields."""
        if self.texts is None:
            return [at for at, record in enumerate(self.fields or ()) if len(record) != width]
        counts = list(map(methodcaller("count", self.format.delimiter), self.texts))
        if counts.count(width - 1) == len(counts):
            return []
        return [at for at, count in enumerate(counts) if count != width - 1]

    def columns(self, width: int) -> list[Sequence[str | None]]:
        """The fields column by column, NULL as None; all records must be of this width.

        Splitting the whole block, and looking for the marker in whole columns, is much quicker
        than going record by record.
        """
        if self.texts is None:
            return list(zip(*(self.fields or ()), strict=True))
        delimiter, marker = self.format.delimiter, self.format.null_marker
        flat: list[str] = delimiter.join(self.texts).split(delimiter)
        columns = [flat[at::width] for at in range(width)]
        return [
            [None if field == marker else field for field in column] if marker in column else column
            for column in columns
        ]

    def without(self, places: Iterable[int]) -> Block:
        """The same without some of its records."""
        left_out = set(places)

        def kept(items: Sequence[T]) -> list[T]:
            return [item for at, item in enumerate(items) if at not in left_out]

        return replace(
            self,
            lines=kept(self.lines),
            texts=None if self.texts is None else kept(self.texts),
            fields=None if self.fields is None else kept(self.fields),
        )


def read_blocks(path: Path, format: CSVFormat = STANDARD) -> Iterator[Block]:
    """Yields a file's records in portions; blank lines are no records.

    Raises :class:`InvalidSample` at a quote out of place, :class:`UnreadableFile` where the file
    is not text in its encoding.
    """
    splitter = _Splitter(format, path)
    line, rest, size = 1, "", 0
    for text, size in _texts(path, format.encoding):
        text = rest + text
        if line == 1:
            text = SAID_DELIMITER.sub("\n", text)
        whole, rest = _whole_lines(text)
        if len(rest) > LONGEST_RECORD:
            raise InvalidSample(
                f"{path}, line {line}: a record that is too long; is a quote left open?"
            )
        if whole:
            yield splitter.block(whole, line, size)
            line += whole.count("\n")
    if rest:
        yield splitter.block(rest, line, size)


def _texts(path: Path, encoding: str) -> Iterator[tuple[str, int]]:
    """Portions of a file's text with line feeds for line ends, and how many bytes they end at."""
    decoder = codecs.getincrementaldecoder("utf-8-sig" if encoding == "utf-8" else encoding)()
    size, line, held = 0, 1, ""
    with opened(path) as file:
        while True:
            data = file.read(BLOCK_BYTES)
            try:
                text = held + decoder.decode(data, final=not data)
            except UnicodeDecodeError as problem:
                raise not_text(problem, str(path), line, encoding) from problem
            if "\0" in text:
                at = line + text.count("\n", 0, text.index("\0"))
                raise UnreadableFile(f"{path}: holds a NUL character (line {at}); remove it.")
            held = "\r" if data and text.endswith("\r") else ""
            text = text.removesuffix("\r") if held else text
            if "\r" in text:
                text = text.replace("\r\n", "\n").replace("\r", "\n")
            size += len(data)
            line += text.count("\n")
            if text:
                yield text, size
            if not data:
                return


def _whole_lines(text: str) -> tuple[str, str]:
    """Cuts a text behind its last line end that is not inside a quoted field."""
    cut = text.rfind("\n") + 1
    if text.count('"', 0, cut) % 2 == 0:
        return text[:cut], text[cut:]
    # A quote is open there: it was opened in the last of the lines with an odd count of quotes.
    while cut:
        cut = text.rfind("\n", 0, cut - 1) + 1
        if text.count('"', 0, cut) % 2 == 0:
            break
    return text[:cut], text[cut:]


class _Splitter:
    """Takes records apart at the delimiter of a format."""

    def __init__(self, format: CSVFormat, path: Path) -> None:
        self._format, self._path = format, path
        self._delimiter, self._marker = format.delimiter, format.null_marker
        end = re.escape(format.delimiter)
        self._quoted = re.compile(rf'"((?:[^"]|"")*)"(?={end}|\Z)')
        self._plain = re.compile(rf'((?:(?!{end})[^"])*)(?={end}|\Z)')

    def block(self, text: str, line: int, size: int) -> Block:
        """The records of some whole lines."""
        lines = text.removesuffix("\n").split("\n")
        if '"' in text:
            return self._block_with_quotes(lines, line, size)
        numbers: Sequence[int] = range(line, line + len(lines))
        if "" in lines:
            numbers = [at for at, one in zip(numbers, lines, strict=True) if one]
            lines = [one for one in lines if one]
        return Block(numbers, size, self._format, texts=lines)

    def _block_with_quotes(self, lines: list[str], line: int, size: int) -> Block:
        delimiter, marker = self._delimiter, self._marker
        numbers: list[int] = []
        records: list[Record] = []
        at = 0
        while at < len(lines):
            first, record = at, lines[at]
            at += 1
            if not record:
                continue
            if '"' not in record:
                numbers.append(line + first)
                records.append([None if f == marker else f for f in record.split(delimiter)])
                continue
            while record.count('"') % 2 and at < len(lines):
                record += "\n" + lines[at]
                at += 1
            numbers.append(line + first)
            records.append(self._fields(record, line + first))
        return Block(numbers, size, self._format, fields=records)

    def _fields(self, text: str, line: int) -> Record:
        record: Record = []
        at = 0
        while True:
            in_quotes = text.startswith('"', at)
            found = (self._quoted if in_quotes else self._plain).match(text, at)
            if found is None:
                raise InvalidSample(
                    f"{self._path}, line {line}: a quote out of place; a field with quotes is "
                    'written "so", and a quote inside it twice.'
                )
            field = found.group(1)
            if in_quotes:
                record.append(field.replace('""', '"'))
            else:
                record.append(None if field == self._marker else field)
            at = found.end()
            if at >= len(text):
                return record
            at += len(self._delimiter)


def read_header(path: Path, format: CSVFormat = STANDARD) -> list[str]:
    """The names in a file's first line. Raises :class:`InvalidSample` where they are no names."""
    for block in read_blocks(path, format):
        if not len(block):
            continue
        header = [name or "" for name in block.first]
        if wrong := _wrong_names(header):
            raise InvalidSample(
                f"{path}, line {block.lines[0]}: {wrong}; the header needs a different name in every column."
            )
        return header
    raise InvalidSample(f"{path}: empty; the first line names the columns.")


def _wrong_names(header: Sequence[str]) -> str:
    """What is wrong with the names of a header; empty where nothing is."""
    if not all(header):
        return f"column {list(header).index('') + 1} has no name"
    counts = Counter(name.lower() for name in header)
    return next((f"{name} stands there twice" for name in header if counts[name.lower()] > 1), "")


def read_rows(path: Path, format: CSVFormat = STANDARD) -> Iterator[Block]:
    """The blocks of a file without its header. Raises as :func:`read_blocks` does."""
    first = True
    for block in read_blocks(path, format):
        if not len(block):
            continue
        yield block.without([0]) if first else block
        first = False


def read_table(path: Path) -> tuple[list[str], list[Record]]:
    """The header and the rows of a table's CSV file in the standard format.

    Raises :class:`InvalidSample` where a record has not as many fields as the header.
    """
    header = read_header(path)
    rows: list[Record] = []
    for block in read_rows(path):
        for line, record in zip(block.lines, block.records, strict=True):
            if len(record) != len(header):
                raise InvalidSample(f"{path}, line {line}: {wrong_width(record, header)}.")
        rows += block.records
    return header, rows


def wrong_width(record: Sequence[str | None], header: Sequence[str]) -> str:
    """Words for a record that has not as many fields as the header."""
    fields = f"{len(record)} field{'' if len(record) == 1 else 's'}"
    return f"{fields}, but the header names {len(header)}"


_PLAIN: Final = re.compile(r'[^\s",](?:[^",\n]*[^\s",])?\Z')


def written_field(value: str | None) -> str:
    """A field in the standard format: NULL empty, empty text as two quotes."""
    if value is None:
        return ""
    return value if _PLAIN.match(value) else '"' + value.replace('"', '""') + '"'


def write_record(out: IO[str], record: Record) -> None:
    """Writes one record in the standard format."""
    out.write(",".join(map(written_field, record)) + "\n")
