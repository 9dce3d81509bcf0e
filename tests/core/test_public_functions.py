"""Every public function of the heart shows how it is called; doctest runs what it shows."""

import inspect
import pkgutil
from importlib import import_module

import pytest

from copper_sieve.core import bake, convert, derive, mesh, prepare, target


def public_functions():
    for package in (bake, convert, derive, mesh, prepare, target):
        for found in pkgutil.walk_packages(package.__path__, package.__name__ + "."):
            module = import_module(found.name)
            for name, function in inspect.getmembers(module, inspect.isfunction):
                if function.__module__ == module.__name__ and not name.startswith("_"):
                    yield f"{found.name}.{name}", function


@pytest.mark.parametrize(
    ("name", "function"), list(public_functions()), ids=lambda value: value if isinstance(value, str) else ""
)
def test_it_shows_an_example(name, function):
    assert ">>> " in (inspect.getdoc(function) or ""), f"{name} has no example"
