"""Makes the sample of river gauges beside this file: a made-up network with readings and gaps.

The numbers come from a fixed seed: the same network every time, on every machine.

    python demo/make_gauges.py
"""

from __future__ import annotations

import math
import random
from collections.abc import Iterator, Sequence
from datetime import date, datetime, timedelta
from pathlib import Path
from typing import Final

from jentrow.core.samples.csvfiles import write_record

SEED: Final = 20_260_401
NAME: Final = "gauges"
FIRST: Final = datetime(2026, 3, 1)
DAYS: Final = 214
DRY_DAYS: Final = 45
EVERY_HOURS: Final = 3

SCHEMA: Final = """\
-- A network of river gauges: rivers and what they flow into, stations, their sensors, readings.
CREATE TABLE rivers (
    river_id   INTEGER PRIMARY KEY,
    name       TEXT         NOT NULL UNIQUE,
    length_km  DECIMAL(6,1) NOT NULL CHECK (length_km > 0),
    flows_into INTEGER REFERENCES rivers (river_id)
);

CREATE TABLE stations (
    station_code TEXT PRIMARY KEY NOT NULL,
    river_id     INTEGER      NOT NULL REFERENCES rivers (river_id),
    name         TEXT         NOT NULL,
    km           DECIMAL(6,1) NOT NULL,
    warning_cm   INTEGER CHECK (warning_cm > 0),
    opened       DATE         NOT NULL,
    closed       DATE
);

CREATE TABLE sensors (
    sensor_id    INTEGER PRIMARY KEY,
    station_code TEXT    NOT NULL REFERENCES stations (station_code),
    kind         TEXT    NOT NULL CHECK (kind IN ('level', 'flow', 'temperature')),
    installed    DATE    NOT NULL,
    active       BOOLEAN NOT NULL DEFAULT TRUE
);

CREATE TABLE readings (
    sensor_id INTEGER      NOT NULL REFERENCES sensors (sensor_id),
    taken_at  TIMESTAMP    NOT NULL,
    value     DECIMAL(8,2),
    quality   TEXT         NOT NULL DEFAULT 'good',
    PRIMARY KEY (sensor_id, taken_at)
);

CREATE INDEX readings_by_time ON readings (taken_at);
"""

_RIVERS: Final = (
    (1, "Lind", 212.4, None),
    (2, "Sarn", 96.0, 1),
    (3, "Auerbach", 31.5, 2),
    (4, "Kell", 58.2, 1),
    (5, "Weissach", 31.5, 4),
    (6, "Moorgraben", 9.8, None),
)
_STATIONS: Final = (
    ("LI-01", 1, "Oberlind", 14.2, 180, "1961-04-01", None),
    ("LI-02", 1, "Lindau Bridge", 60.5, 240, "1961-04-01", None),
    ("LI-03", 1, "Steg", 118.5, 240, "1974-10-12", None),
    ("LI-04", 1, "Unterlind", 203.3, 310, "1988-05-02", None),
    ("SA-01", 2, "Sarnthal", 8.1, 120, "1979-06-18", None),
    ("SA-02", 2, "Steg", 60.0, 150, "1979-06-18", None),
    ("SA-03", 2, "Sarnmünde", 94.6, 200, "1993-11-03", None),
    ("AU-01", 3, "Auerbach Mill", 12.0, 90, "2004-03-29", None),
    ("AU-02", 3, "Old Weir", 30.1, None, "1968-08-01", "2011-12-31"),
    ("KE-01", 4, "Kellheim", 20.0, 130, "1999-09-09", None),
    ("KE-02", 4, "Kell Gorge", 44.9, 170, "1999-09-09", None),
    ("KE-03", 4, "Kell Weir", 57.3, 160, "2024-05-06", None),
    ("WE-01", 5, "Weissach", 19.5, 100, "2019-05-20", None),
    ("WE-02", 5, "Weissach Ford", 28.8, None, "2021-07-14", None),
)
_SENSORS: Final = (
    ("LI-01", "level"), ("LI-01", "flow"), ("LI-01", "temperature"), ("LI-02", "level"),
    ("LI-02", "flow"), ("LI-03", "level"), ("LI-03", "temperature"), ("LI-04", "level"),
    ("LI-04", "flow"), ("LI-04", "temperature"), ("SA-01", "level"), ("SA-01", "temperature"),
    ("SA-02", "level"), ("SA-02", "flow"), ("SA-03", "level"), ("SA-03", "flow"),
    ("SA-03", "temperature"), ("AU-01", "level"), ("AU-02", "level"), ("KE-01", "level"),
    ("KE-01", "flow"), ("KE-02", "level"), ("KE-02", "temperature"), ("WE-01", "level"),
    ("WE-01", "flow"), ("WE-01", "temperature"), ("LI-02", "temperature"), ("KE-01", "temperature"),
    ("SA-02", "temperature"), ("AU-01", "temperature"), ("WE-01", "level"),
)  # fmt: skip
_LATER: Final = ["32", "KE-03", "flow", "2024-05-06", "0"]
"""A sensor of the one station that measures neither level nor temperature; no reading yet."""

_INACTIVE: Final = frozenset({19, 31})
"""Sensors without a reading: of a station that was closed, and one that waits for its day."""

_FIRST_DAY: Final = {
    "open": ("70.25", "70.5", "71.75", "71.75", "73.05", "72.6", "72.4", "74.15"),
    "dry-year": ("31.5", "31.45", None, "32.05", "32.05", "33.3"),
}
"""The level at the first sensor on the first day: fractions, a fall, no change, a gap at the end.

One reading of the evening before stands before them.
"""
_ABOVE_WARNING: Final = (25, 100, "112.4")
"""A flow whose number is above the warning level of its station, which is meant for the level."""

Row = Sequence[str | None]


NOTES = """\
rivers:
  columns:
    flows_into: NULL where the river leaves the region
stations:
  columns:
    km: the river kilometre at which the station stands
    closed: NULL while the station is in use
"""


def write_gauges(folder: Path) -> None:
    """Writes the network as a sample folder, with a held-back dry year."""
    folder.mkdir(parents=True)
    (folder / "schema.sql").write_text(SCHEMA, encoding="utf-8")
    (folder / "notes.yaml").write_text(NOTES, encoding="utf-8")
    _write_dataset(folder / "open", random.Random(SEED), 1.0, DAYS)
    _write_dataset(folder / "held-back" / "dry-year", random.Random(SEED + 1), 0.45, DRY_DAYS)


def _write_dataset(folder: Path, chance: random.Random, wet: float, days: int) -> None:
    folder.mkdir(parents=True)
    stations = [_cells(row) for row in _STATIONS]
    names = ["station_code", "river_id", "name", "km", "warning_cm", "opened", "closed"]
    _write(folder / "rivers.csv", ["river_id", "name", "length_km", "flows_into"],
           map(_cells, _RIVERS))  # fmt: skip
    _write(folder / "stations.csv", names, stations)
    _write(
        folder / "sensors.csv",
        ["sensor_id", "station_code", "kind", "installed", "active"],
        _sensor_rows(chance),
    )
    _write(
        folder / "readings.csv",
        ["sensor_id", "taken_at", "value", "quality"],
        _deliberate(folder.name, _reading_rows(chance, wet, days * 24 // EVERY_HOURS)),
    )


def _deliberate(dataset: str, rows: Iterator[Row]) -> Iterator[Row]:
    """The rows with those few that no chance makes."""
    yield ["1", _taken_at(-1), "69.5", "good"]
    for step, value in enumerate(_FIRST_DAY[dataset]):
        yield ["1", _taken_at(step), value, "good" if value is not None else "missing"]
    replaced = {("1", _taken_at(step)) for step in range(24 // EVERY_HOURS)}
    sensor, step, value = _ABOVE_WARNING
    for row in rows:
        if (row[0], row[1]) == (str(sensor), _taken_at(step)):
            yield [row[0], row[1], value, "good"]
        elif (row[0], row[1]) not in replaced:
            yield row


def _taken_at(step: int) -> str:
    return (FIRST + timedelta(hours=EVERY_HOURS * step)).isoformat(sep=" ")


def _cells(row: Sequence[object]) -> list[str | None]:
    return [None if value is None else str(value) for value in row]


def _write(path: Path, header: Sequence[str], rows: Iterator[Row] | Sequence[Row]) -> None:
    with path.open("w", encoding="utf-8", newline="\n") as out:
        write_record(out, list(header))
        for row in rows:
            write_record(out, list(row))


def _sensor_rows(chance: random.Random) -> Iterator[Row]:
    for number, (station, kind) in enumerate(_SENSORS, start=1):
        installed = date(2012, 1, 1) + timedelta(days=chance.randrange(4_900))
        active = "0" if number in _INACTIVE else "1"
        yield [str(number), station, kind, installed.isoformat(), active]
    yield _LATER


def _reading_rows(chance: random.Random, wet: float, steps: int) -> Iterator[Row]:
    days = steps * EVERY_HOURS // 24
    floods = [(chance.randrange(days), chance.uniform(40, 190) * wet) for _ in range(7)]
    waves = [
        [_wave(floods, step * EVERY_HOURS / 24 - delay) for step in range(steps)]
        for delay in range(3)
    ]
    for number, (_, kind) in enumerate(_SENSORS, start=1):
        if number in _INACTIVE:
            continue
        gaps = {
            step
            for start, length in [
                (chance.randrange(steps), chance.randrange(4, 90)) for _ in range(5)
            ]
            for step in range(start, start + length)
        }
        base = {"level": 60 + 9 * (number % 7), "flow": 12 + 3 * (number % 9), "temperature": 9}
        wander = 0.0
        for step in range(steps):
            wander = 0.97 * wander + chance.gauss(0, 1)
            if step not in gaps:
                wave = waves[number % 3][step]
                yield _reading(number, kind, step, base[kind], wander, wave, wet, chance)


def _wave(floods: Sequence[tuple[int, float]], day: float) -> float:
    """By how much the floods raise the water on a day."""
    return sum(size * math.exp(-((day - at) ** 2) / 6) for at, size in floods)


def _reading(
    sensor: int,
    kind: str,
    step: int,
    base: float,
    wander: float,
    wave: float,
    wet: float,
    chance: random.Random,
) -> Row:
    taken_at = _taken_at(step)
    if kind == "temperature":
        season = 7 * math.sin((step * EVERY_HOURS / 24 - 40) / DAYS * math.pi)
        value = round(base + season + 1.5 * math.sin(step / 8 * 2 * math.pi) + wander / 3, 1)
    else:
        value = base * (0.4 + 0.6 * wet) + wave * (1 if kind == "level" else 0.4) + 2 * wander
        value = round(max(value, 0), 0 if kind == "level" else 2)
    quality = "good"
    fate = chance.random()
    if fate < 0.004:
        return [str(sensor), taken_at, None, "missing"]
    if fate < 0.012:
        quality = chance.choice(["suspect", "Suspect", "estimated"])
    return [str(sensor), taken_at, f"{value:g}", quality]


if __name__ == "__main__":
    import shutil

    place = Path(__file__).parent / "samples" / NAME
    shutil.rmtree(place, ignore_errors=True)
    write_gauges(place)
