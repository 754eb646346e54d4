"""The page of marks of a large course in a real browser: drawn after a click, and scrolled."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from benchmarks.marking import EXERCISES, LEARNERS, made_course
from benchmarks.rush import DEMO, PASSWORD, started
from jentrow.services.packs.demo import load_demo
from jentrow.services.runtime.runtime import Runtime
from tests.browser.conftest import opened
from tests.browser.steps import find, sign_in
from tests.servers import free_port

ROUNDS = 5

LOOKED_SECONDS = 1.0
"""So long whoever clicks has looked at the page where they were: it is drawn, and asks for nothing."""

# From the click until the frame after the first rows stand in the page.
DRAWN = """
const done = arguments[arguments.length - 1];
const start = performance.now();
const seen = new MutationObserver(look);
function look() {
  if (!document.querySelector(".grid tbody th[scope=row]")) return;
  seen.disconnect();
  requestAnimationFrame(() => setTimeout(() => done(performance.now() - start)));
}
seen.observe(document.body, { childList: true, subtree: true });
[...document.querySelectorAll("nav a")].find((one) => one.textContent.includes("Marks")).click();
"""

# Down and to the right, a screenful at a time; the time of each frame.
SCROLLED = """
const done = arguments[arguments.length - 1];
const box = document.querySelector(".frame");
const times = [];
let last = 0;
function step(now) {
  if (last) times.push(now - last);
  last = now;
  if (times.length === 40) return done(times);
  if (times.length < 20) box.scrollTop += 18 * 22;
  else box.scrollLeft += 200;
  requestAnimationFrame(step);
}
requestAnimationFrame(step);
"""


def run() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "data"
        load_demo(folder, DEMO, password=PASSWORD)
        runtime = Runtime(folder)
        made_course(runtime)
        runtime.close()
        port = free_port()
        server = started(folder, port)
        try:
            with opened(Path(name) / "profile") as browser:
                yield from _measured(browser, f"http://127.0.0.1:{port}/courses/alpine-data-course")
        finally:
            server.terminate()
            server.wait()


def _measured(browser: Any, address: str) -> Iterator[str]:
    sign_in(browser, address, "instructor")
    drawn = []
    for _ in range(ROUNDS):
        browser.get(f"{address}/exercises")
        find(browser, "tr.chosen")
        time.sleep(LOOKED_SECONDS)
        drawn.append(browser.execute_async_script(DRAWN))
    shown = ", ".join(f"{one / 1000:.2f}" for one in sorted(drawn))
    yield (
        f"the page of marks, {LEARNERS} learners by {EXERCISES} exercises and more, drawn after a "
        f"click: {shown} s (meant: 1 s, of which 0.5 s on the server)"
    )
    frames = sorted(browser.execute_async_script(SCROLLED))
    yield (
        f"scrolled by a screenful a frame: half of the frames within {frames[len(frames) // 2]:.0f} "
        f"ms, the slowest {frames[-1]:.0f} ms"
    )
