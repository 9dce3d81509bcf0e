"""A moved slider over HTTP, and in a browser from the input event to the picture on screen."""

import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import count
from pathlib import Path

import httpx
import numpy as np
from playwright.sync_api import Page, sync_playwright

from copper_sieve.files import encode

BROWSER = f"{sys.prefix}/bin/chromium"  # as ./check puts it there

SLIDERS = (
    ("height", "contrast", 0.5, 2.0, "Contrast"),
    ("normal", "strength", 0.5, 2.0, "Strength"),
    ("roughness", "mean", 0.3, 0.9, "Mean"),
)
# Ways that a master can come from besides the first, each with a number of it that is moved.
WAYS = (
    ("base_color", "op:albedo_from_photo", "evenness", 0.2, 1.0),
    ("base_color", "op:albedo_from_photo", "breadth", 0.2, 1.0),
    ("height", "op:height_from_grooves", "depth", 0.5, 2.0),
    ("height", "op:height_from_grooves", "width", 0.004, 0.04),
    ("roughness", "op:roughness_by_picks", "picks", 0.1, 0.9),
)
MOVES, COUNT = 50, count(1)
WATCH = """() => {
  const viewer = document.querySelector('[data-testid=viewer]');
  let moved = null;
  window.taken = [];
  document.addEventListener('pointermove', () => { moved = performance.now(); }, true);
  new MutationObserver(() => {
    if (viewer.dataset.state !== 'ready' || moved === null) return;
    const from = moved;
    moved = null;
    requestAnimationFrame(() => taken.push(performance.now() - from));
  }).observe(viewer, { attributes: true, attributeFilter: ['data-state'] });
}"""


def said(taken: list[float]) -> str:
    ordered = sorted(taken)
    return f"median {ordered[len(ordered) // 2]:.0f} ms, p95 {ordered[int(len(ordered) * 0.95)]:.0f} ms over {len(ordered)}"


@contextmanager
def served(data: Path) -> Iterator[tuple[str, subprocess.Popen]]:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    process = subprocess.Popen([sys.executable, "-m", "bench.served", str(data), str(port)], stdout=subprocess.PIPE, text=True)
    address = f"http://127.0.0.1:{port}"
    while True:
        try:
            httpx.get(f"{address}/api/health").raise_for_status()
            break
        except httpx.TransportError:
            assert process.poll() is None, "the server did not start"
            time.sleep(0.05)  # between tries to connect
    try:
        yield address, process
    finally:
        process.send_signal(signal.SIGTERM)
        print(process.communicate()[0].strip())


def a_set(client: httpx.Client, title: str, px: int) -> tuple[str, dict]:
    project = client.post("/projects", json={"title": title}).json()["name"]
    content = encode(np.random.default_rng(1).integers(0, 256, (px, px, 3)).astype(np.uint8), "png")
    look = client.post(
        "/originals", params={"name": "photo.png"}, content=content, headers={"content-type": "application/octet-stream"}
    ).json()
    entry = {"sha256": look["sha256"], "name": look["name"], "kind": "photo"}
    return project, client.post(f"/projects/{project}/sets", json={"name": "photo", "entries": [entry]}).json()


def over_http(client: httpx.Client, made: dict, px: int) -> None:
    for master, knob, low, high, _ in SLIDERS:
        moved(client, made, px, (master, master, knob), low, high)
    made = a_set(client, "Ways", px)[1]  # the browser's stays as it came
    for master, origin, knob, low, high in WAYS:
        ask = {"expects": made["head"], "master": master, "origin": origin}
        made = client.post(f"/sets/{made['id']}/origins", json=ask).raise_for_status().json()
        moved(client, made, px, (master, made["recipe"]["masters"][master].removeprefix("node:"), knob), low, high)


def moved(client: httpx.Client, made: dict, px: int, what: tuple[str, str, str], low: float, high: float) -> None:
    """One number of a node moved from end to end; of picks, the value of the second of two."""
    master, node, knob = what
    recipe, taken = made["recipe"], []
    for k in range(MOVES + 1):
        value = low + (high - low) * k / MOVES
        pair = [{"x": 0.2, "y": 0.3, "value": 0.2}, {"x": 0.7, "y": 0.6, "value": value}]
        recipe["nodes"][node]["params"][knob] = pair if knob == "picks" else value
        ask = {"view": f"{made['id']} {master}", "seq": next(COUNT), "recipe": recipe, "wanted": master, "size": px}
        start = time.perf_counter()
        answer = client.post("/previews", json=ask)
        taken.append((time.perf_counter() - start) * 1000)
        assert len(answer.content) == px * px * 4
    print(f"{knob} of {node} {px}², request to answer over HTTP: {said(taken[1:])} (aim 100)")


def painted(client: httpx.Client, made: dict, px: int) -> None:
    """Strokes on the height, one after the other, each there with all that were before it."""
    recipe, rng = made["recipe"], np.random.default_rng(2)
    taken: dict[str, list[float]] = {"height": [], "normal": []}
    strokes: list[dict] = []
    for k in range(MOVES + 1):
        along = rng.random(2) * 0.6 + 0.2 + np.cumsum(rng.normal(0, 0.01, (40, 2)), 0)
        strokes.append(
            {"points": along.clip(0, 1).tolist(), "radius": 0.04, "way": ("raise", "lower", "soften")[k % 3], "value": 0.1}
        )
        recipe["touches"] = {"height": {"strokes": strokes}}
        for wanted, times in taken.items():
            ask = {"view": f"{made['id']} {wanted}", "seq": next(COUNT), "recipe": recipe, "wanted": wanted, "size": px}
            start = time.perf_counter()
            client.post("/previews", json=ask).raise_for_status()
            times.append((time.perf_counter() - start) * 1000)
    for wanted, times in taken.items():
        print(f"one more stroke of up to {MOVES} on the height {px}², {wanted} over HTTP: {said(times[1:])} (aim 100)")


def drag(page: Page, label: str) -> list[float]:
    thumb = page.get_by_role("slider", name=label, exact=True)
    track = thumb.locator("xpath=../..")
    track.scroll_into_view_if_needed()
    box = track.bounding_box()
    y, width = box["y"] + box["height"] / 2, box["width"]
    page.mouse.move(box["x"] + width * 0.2, y)
    page.mouse.down()
    page.wait_for_function("document.querySelector('[data-testid=viewer]').dataset.state === 'ready'")
    page.evaluate("taken.length = 0")
    drawn, value = 0, thumb.get_attribute("aria-valuenow")
    for k in range(1, MOVES + 1):
        page.mouse.move(box["x"] + width * (0.2 + 0.7 * k / MOVES), y)
        before, value = value, thumb.get_attribute("aria-valuenow")
        if value != before:  # else it is the same step of the slider, and there is nothing to draw
            drawn += 1
            page.wait_for_function(f"taken.length >= {drawn}")
    page.mouse.up()
    return page.evaluate("taken")


def in_browser(address: str, project: str, made: dict, px: int) -> None:
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=BROWSER, chromium_sandbox=False)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page.goto(f"{address}/p/{project}/bench/{made['id']}")
        page.wait_for_function("document.querySelector('[data-testid=viewer]')?.dataset.state === 'ready'")
        page.evaluate(WATCH)
        for key, look in (("f", "flat"), ("p", "flat and lit")):
            page.keyboard.press(key)
            for master, *_, label in SLIDERS:
                row = page.get_by_role("region", name="Lineage").get_by_role("button", name=master.capitalize()).first
                if row.get_attribute("aria-pressed") != "true":
                    row.click()
                print(f"slider {master} {px}², input event to picture, {look}: {said(drag(page, label))} (aim 200)")
        browser.close()


FIRST_ROWS = """() => {
  window.longest = 0;
  let last = performance.now();
  const tick = () => {
    longest = Math.max(longest, performance.now() - last);
    last = performance.now();
    requestAnimationFrame(tick);
  };
  requestAnimationFrame(tick);
  window.chosen = performance.now();
  window.first = null;
  const look = () => { if (first === null && document.querySelector('tr[data-file]')) first = performance.now() - chosen; };
  new MutationObserver(look).observe(document.body, { childList: true, subtree: true });
}"""


def intake(address: str, project: str, folder: Path, px: int = 2048, many: int = 40) -> None:
    """Files chosen in Intake: until the first rows, until all of them, and how long the screen stood still at most."""
    color = np.random.default_rng(3).integers(0, 256, (px // 8, px // 8, 3)).astype(np.uint8).repeat(8, 0).repeat(8, 1)
    paths = [folder / f"bolt{k}_basecolor.png" for k in range(many)]
    for k, path in enumerate(paths):
        path.write_bytes(encode(np.roll(color, k, 0), "png"))
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=BROWSER, chromium_sandbox=False)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page.set_default_timeout(120_000)
        page.goto(f"{address}/p/{project}/intake")
        page.get_by_label("Choose files").wait_for(state="attached")
        page.evaluate(FIRST_ROWS)
        page.get_by_label("Choose files").set_input_files(paths)
        page.wait_for_function(f"document.querySelectorAll('tr[data-file]').length === {many}")
        first, whole, longest = page.evaluate("[first, performance.now() - chosen, longest]")
        print(
            f"intake of {many} files of {px}²: first rows after {first / 1000:.2f} s (aim 1), all after {whole / 1000:.1f} s;"
            f" the screen stood still for {longest:.0f} ms at most"
        )
        browser.close()


def live(folder: Path, px: int = 1024) -> None:
    """Print what a person and a script feel of a moved slider."""
    folder.chmod(0o755)  # the database's user must be able to enter it
    data = folder / "data"
    data.mkdir()
    with served(data) as (address, process), httpx.Client(base_url=f"{address}/api", timeout=60) as client:
        project, made = a_set(client, "Bench", px)
        for wanted in ("height", "normal", "roughness", "occlusion", "lit"):  # the first picture of each also compiles
            client.post("/previews", json={"view": "first", "seq": 0, "recipe": made["recipe"], "wanted": wanted, "size": px})
        client.get(f"/sets/{made['id']}/assay", params={"head": made["head"]}).raise_for_status()
        process.send_signal(signal.SIGUSR1)
        over_http(client, made, px)
        painted(client, a_set(client, "Painted", px)[1], px)
        in_browser(address, project, made, px)
        intake(address, project, folder)
