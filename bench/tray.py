"""``python -m bench.tray``: hundreds of sets in a browser: how long the screen stands still, opened, scrolled and sought in."""

import signal
import statistics
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import numpy as np
from playwright.sync_api import Page, sync_playwright

from bench.live import BROWSER, served
from copper_sieve.files import encode

_PICTURES, _PX = 20, 128
_WATCH = """
window.longest = 0;
new PerformanceObserver((list) => {
  for (const entry of list.getEntries()) longest = Math.max(longest, entry.duration);
}).observe({ type: 'longtask', buffered: true });
"""
_SCROLL = """async ([steps, px]) => {  // backwards where px is under 0
  const tray = document.querySelector('main'), frames = [];
  let last = performance.now();
  for (let k = 0; k < steps; k++) {
    tray.scrollTop += px;
    await new Promise(requestAnimationFrame);
    frames.push(performance.now() - last);
    last = performance.now();
  }
  return frames;
}"""
_LONGEST = "longest ? `${Math.round(longest)} ms` : 'under 50 ms'"  # shorter is not told; frames are drawn beside it
_FRAMES = """() => {
  window.frames_ = [];
  let last = performance.now();
  const tick = () => { frames_.push(performance.now() - last); last = performance.now(); requestAnimationFrame(tick); };
  requestAnimationFrame(tick);
}"""


def many(client: httpx.Client, count: int) -> str:
    """A project of that many sets of small photos."""
    project = client.post("/projects", json={"title": "Many"}).json()["name"]
    looks = []
    for k in range(_PICTURES):
        codes = np.random.default_rng(k).integers(0, 256, (_PX, _PX, 3)).astype(np.uint8)
        kind = {"content-type": "application/octet-stream"}
        told = {"params": {"name": f"bolt{k}.png"}, "content": encode(codes, "png"), "headers": kind}
        looks.append(client.post("/originals", **told).json())
    for k in range(count):
        look = looks[k % _PICTURES]
        entry = {"sha256": look["sha256"], "name": look["name"], "kind": "photo"}
        client.post(f"/projects/{project}/sets", json={"name": f"bolt {k:03}", "entries": [entry]}).raise_for_status()
    return project


def said(frames: list[float]) -> str:
    ordered = sorted(frames)
    p95 = ordered[int(len(ordered) * 0.95)]
    return f"frames of {statistics.median(ordered):.0f} ms, p95 {p95:.0f}, longest {ordered[-1]:.0f} (aim 50)"


def longest_work(page: Page, act: Callable[[], object]) -> float:
    """Most milliseconds of processor time that one piece of the screen's own work takes while something is done.

    Where pictures are drawn by the processor, that is shared with it: a piece then lasts longer than it works.
    """
    events: list[dict[str, Any]] = []
    ended: list[bool] = []
    browser = page.context.new_cdp_session(page)
    browser.on("Tracing.dataCollected", lambda told: events.extend(told["value"]))
    browser.on("Tracing.tracingComplete", lambda _: ended.append(True))
    browser.send("Tracing.start", {"categories": "devtools.timeline,toplevel", "transferMode": "ReportEvents"})
    act()
    browser.send("Tracing.end")
    while not ended:
        page.evaluate("new Promise(requestAnimationFrame)")
    threads = {(e["pid"], e["tid"]) for e in events if e["name"] == "FunctionCall"}
    return max(e["tdur"] / 1000 for e in events if "tdur" in e and (e["pid"], e["tid"]) in threads)


def looked_at(page: Page, address: str, project: str, count: int) -> None:
    page.add_init_script(_WATCH)
    page.goto(f"{address}/p/{project}/tray")
    page.get_by_role("heading", name=f"{count} sets").wait_for()
    print(f"tray of {count} sets, laid out: the screen stood still for {page.evaluate('longest'):.0f} ms at most")
    page.evaluate("longest = 0")
    page.wait_for_function("!document.querySelector('footer')?.textContent.includes('looking')")
    print(f"until every set is looked at: {page.evaluate(_LONGEST)} at most")
    print(f"scrolled while looking: {said(page.evaluate(_SCROLL, [200, 20]))}")
    print(f"scrolled fast: {said(page.evaluate(_SCROLL, [100, 90]))}")
    work = longest_work(page, lambda: page.evaluate(_SCROLL, [100, -90]))
    print(f"scrolled back: {work:.0f} ms of processor time at once (aim 50)")
    page.evaluate(_FRAMES)

    def seek() -> None:
        page.get_by_role("searchbox").press_sequentially("bolt 123", delay=150)
        page.wait_for_function("document.querySelectorAll('[data-set]').length === 1")

    seek()
    print(f"sought in: {said(page.evaluate('frames_'))}")
    page.get_by_role("searchbox").fill("")
    print(f"sought in again: {longest_work(page, seek):.0f} ms of processor time at once (aim 50)")


def main(count: int = 500) -> None:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        Path(folder).chmod(0o755)  # the database's user must be able to enter it
        (Path(folder) / "data").mkdir()
        with served(Path(folder) / "data") as (address, process), httpx.Client(base_url=f"{address}/api", timeout=60) as client:
            project = many(client, count)
            process.send_signal(signal.SIGUSR1)  # what it took to start, and to take them in, is not meant
            browser = play.chromium.launch(executable_path=BROWSER, chromium_sandbox=False)
            page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
            page.set_default_timeout(180_000)
            looked_at(page, address, project, count)
            browser.close()


if __name__ == "__main__":
    main()
