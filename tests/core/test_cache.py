"""Values are made once, however many ask at the same time, and the oldest go when there are too many bytes."""

import threading

import numpy as np
import pytest

from copper_sieve.core.bands import Cancel
from copper_sieve.core.errors import Cancelled
from copper_sieve.core.recipe import Cache


def test_two_threads_that_ask_at_once_make_it_once():
    cache, made, is_begun, may_end = Cache(1 << 20), [], threading.Event(), threading.Event()

    def make() -> str:
        made.append(1)
        is_begun.set()
        assert may_end.wait(30)
        return "value"

    found: list[str] = []
    threads = [threading.Thread(target=lambda: found.append(cache.kept("k", make))) for _ in range(4)]
    threads[0].start()
    assert is_begun.wait(30)
    for thread in threads[1:]:
        thread.start()
    may_end.set()
    for thread in threads:
        thread.join(30)
    assert made == [1] and found == ["value"] * 4


def test_who_waited_for_one_that_failed_makes_it_itself():
    cache, is_begun, may_fail, found = Cache(1 << 20), threading.Event(), threading.Event(), []

    def failing() -> None:
        is_begun.set()
        assert may_fail.wait(30)
        raise ValueError("no")

    def first() -> None:
        with pytest.raises(ValueError):
            cache.kept("k", failing)

    threads = [threading.Thread(target=first), threading.Thread(target=lambda: found.append(cache.kept("k", lambda: 5)))]
    threads[0].start()
    assert is_begun.wait(30)
    threads[1].start()
    may_fail.set()
    for thread in threads:
        thread.join(30)
    assert found == [5]


def test_who_is_no_longer_waited_for_stops_waiting():
    cache, is_begun, may_end, cancel = Cache(1 << 20), threading.Event(), threading.Event(), Cancel()
    slow = threading.Thread(target=lambda: cache.kept("k", lambda: is_begun.set() or may_end.wait(30)))
    slow.start()
    assert is_begun.wait(30)
    cancel.cancel()
    with pytest.raises(Cancelled):
        cache.kept("k", lambda: 1, cancel)
    may_end.set()
    slow.join(30)


def test_the_least_recently_used_go_first_and_what_is_too_large_is_not_kept():
    cache = Cache(3000)
    for key in "abc":
        cache.put(key, np.zeros(1000, np.uint8))
    cache.get("a")
    cache.put("d", np.zeros(1000, np.uint8))
    assert [cache.get(key) is not None for key in "abcd"] == [True, False, True, True]
    cache.put("whole", np.zeros(4000, np.uint8))
    assert cache.get("whole") is None and cache.kept("whole", lambda: "made all the same") == "made all the same"


def test_what_is_small_or_said_to_last_stays_where_whole_maps_pass_through():
    cache = Cache(40 << 20)
    cache.put("measured", np.zeros(1 << 20, np.uint8))
    cache.put("strip", np.zeros(6 << 20, np.uint8), lasts=True)
    for key in range(20):
        cache.put(f"map {key}", np.zeros(8 << 20, np.uint8))
    assert [cache.get(key) is not None for key in ("measured", "strip", "map 0", "map 19")] == [True, True, False, True]
    for key in range(10):  # what lasts takes no more than half
        cache.put(f"strip {key}", np.zeros(6 << 20, np.uint8), lasts=True)
    assert cache.get("map 19") is not None and cache.get("measured") is None


def test_work_that_does_not_fit_beside_other_work_waits_for_it():
    cache, is_begun, may_end, order = Cache(100), threading.Event(), threading.Event(), []

    def work(name: str, needed: int, cancel: Cancel | None = None) -> None:
        with cache.room(needed, cancel or Cancel()):
            order.append(name)
            is_begun.set()
            if name == "first":
                assert may_end.wait(30)

    first = threading.Thread(target=work, args=("first", 40))
    first.start()
    assert is_begun.wait(30)
    work("beside", 10)  # both together take no more than half
    second = threading.Thread(target=work, args=("second", 500))
    second.start()
    cancel = Cancel()
    cancel.cancel()
    with pytest.raises(Cancelled):
        work("given up", 20, cancel)
    work("small", 3)  # waits for nothing
    may_end.set()
    for thread in (first, second):
        thread.join(30)
    assert order == ["first", "beside", "small", "second"]
