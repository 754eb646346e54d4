"""The demo, as the tests load it: where it is, its course, and everybody's password."""

from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "demo"
ANSWERS = Path(__file__).parent / "data" / "submissions.csv"
COURSE = "alpine-data-course"
PASSWORD = "over the high pass"
