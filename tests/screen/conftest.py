"""The application on a port of its own, and the real interface in headless Chromium."""

import contextlib
import socket
import sys
import threading

import httpx
import pytest
import uvicorn
from playwright.sync_api import expect, sync_playwright

from asking import eventually
from copper_sieve.api.app import create_app

PATIENCE_MS = 90_000  # a machine three times slower, or busy, is no failure: the first bake compiles what it casts with
expect.set_options(timeout=PATIENCE_MS)

ONE_PICTURE = "try { localStorage.getItem('look of the bench') ?? localStorage.setItem('look of the bench', 'flat') } catch {}"

BROWSER = f"{sys.prefix}/bin/chromium"  # as ./check puts it there
CHROMIUM = [
    *("--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"),
    "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1",
    *("--disable-background-networking", "--disable-quic"),
    *("--disable-gpu-rasterization", "--disable-gpu-compositing"),
]


@pytest.fixture(scope="module")
def address(database, data):
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    linked = data / "linked"
    linked.mkdir(exist_ok=True)
    shelf = data / "shelf"
    shelf.mkdir(exist_ok=True)
    app = create_app(database, data / "screen", folders=[linked], into={"shelf": shelf})
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning"))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]})
    thread.start()
    eventually(lambda: server.started)
    yield f"http://127.0.0.1:{listener.getsockname()[1]}"
    server.should_exit = True
    thread.join()


@pytest.fixture(scope="module")
def browser():
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=BROWSER, chromium_sandbox=False, args=CHROMIUM)
        yield browser
        browser.close()


@contextlib.contextmanager
def opened(browser, address):
    """A fresh page that fails its test when the screen throws. Its bench begins with one picture, and draws a quarter of the
    pixels: light and shade are computed without a graphics card.

    Its security policy is set aside, as it forbids the conditions that tests wait for; ``test_policy`` holds it.
    """
    window = {"viewport": {"width": 1280, "height": 800}, "device_scale_factor": 0.5}
    context = browser.new_context(**window, base_url=address, bypass_csp=True)
    context.add_init_script(ONE_PICTURE)
    page = context.new_page()
    page.set_default_timeout(PATIENCE_MS)
    thrown: list[str] = []
    page.on("pageerror", lambda problem: thrown.append(str(problem)))
    yield page
    context.close()
    assert thrown == []


@pytest.fixture()
def page(browser, address):
    with opened(browser, address) as page:
        yield page


@pytest.fixture(scope="module")
def kept_page(browser, address):
    """One page for a whole module: what lights a body takes seconds to make ready, once a page."""
    with opened(browser, address) as page:
        yield page


@pytest.fixture(scope="module")
def server(address):
    limits = httpx.Limits(keepalive_expiry=2)  # the server closes what was quiet for 5 s, and a request may meet that
    with httpx.Client(base_url=f"{address}/api", timeout=60, limits=limits) as client:
        yield client


@pytest.fixture()
def project(server):
    """A project of its own, with the usual targets that a test says."""
    made = []

    def begin(name: str, *usual: str) -> str:
        key = server.post("/projects", json={"title": f"Moves {name}"}).json()["name"]
        server.put(f"/projects/{key}/usual", json={"usual": list(usual)})
        made.append(key)
        return key

    yield begin
    for key in made:
        for row in server.get(f"/projects/{key}/sets").json():
            server.delete(f"/sets/{row['id']}")
