"""The changes that the contributing page shows are real: they are applied to a copy of the program, and it is asked."""

import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from copper_sieve.core.target import read_target
from copper_sieve.core.target.board import board_of

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs" / "contributing.md").read_text("utf-8")
DIFFS = re.findall(r"^## (?:A|An) (\w[\w ]*)$(?:(?!^## ).)*?```diff\n(.*?)```", PAGE, re.MULTILINE | re.DOTALL)
ASKS = {
    "derivation": """
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.recipe import Facts, Recipe, Source, choices, with_origin, check_recipe, changes
source = Source(sha256="a" * 64, name="r.png", width=8, height=8, reads={"L": "roughness"})
before = Recipe(facts=Facts(width=8, height=8), sources={"s1": source}, masters={"roughness": "source:s1:roughness"})
assert "op:roughness_inverted" in [choice.key for choice in choices(before, "roughness")]
after = with_origin(before, "roughness", "op:roughness_inverted")
check_recipe(after)
assert changes(before, after) == "Roughness given, inverted"
""",
    "check": """
import numpy as np
from copper_sieve.files import encode
from copper_sieve.work.intake.looking import look_at_bytes
def found(rows, columns):
    codes = np.random.default_rng(1).integers(0, 255, (rows, columns)).astype(np.uint8)
    return {f.id for f in look_at_bytes(encode(codes, "png"), "a_height.png").findings}
assert "very-long" in found(16, 160) and "very-long" not in found(32, 32)
""",
    "picture format": """
import numpy as np
from copper_sieve.files import encode, read_bytes
codes = np.random.default_rng(1).integers(0, 255, (8, 16, 3)).astype(np.uint8)
assert (read_bytes(encode(codes, "bmp"), "a.bmp").codes == codes).all()
""",
}


SCREEN = "part of the screen"  # asked by its own tools


def a_copy(folder: Path, diff: str, of: str = "src") -> Path:
    shutil.copytree(ROOT / of, folder / of, ignore=shutil.ignore_patterns("__pycache__", "node_modules", "dist"))
    done = subprocess.run(["git", "apply", "--unidiff-zero", "-C1", "-"], input=diff, text=True, cwd=folder, capture_output=True)
    assert done.returncode == 0, done.stderr
    return folder / of


def test_every_change_is_short():
    assert all(len(diff.splitlines()) < 60 for _, diff in DIFFS)


@pytest.mark.parametrize("kind", ASKS)
def test_the_change_applies_and_does_what_it_says(kind, tmp_path):
    diff = dict(DIFFS)[kind]
    copy = a_copy(tmp_path, diff)
    environment = {**os.environ, "PYTHONPATH": str(copy), "NUMBA_CACHE_DIR": str(tmp_path / "cache")}
    done = subprocess.run([sys.executable, "-c", ASKS[kind]], env=environment, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr


def test_a_new_derivation_is_tried_by_the_tests_that_run_over_all(tmp_path):
    """The newcomer's walk: one new file, one line elsewhere, and nothing in the tests."""
    diff = dict(DIFFS)["derivation"]
    assert len(re.findall(r"^\+\+\+ ", diff, re.MULTILINE)) == 2
    copy = a_copy(tmp_path, diff)
    environment = {**os.environ, "PYTHONPATH": str(copy)}
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "-k", "roughness_inverted"]
    tests = str(ROOT / "tests" / "core" / "test_every_derivation.py")
    done = subprocess.run([*command, tests], env=environment, capture_output=True, text=True, cwd=tmp_path)
    assert done.returncode == 0, done.stdout[-2000:]


def test_a_new_part_of_the_screen_is_formed_typed_and_tested(tmp_path):
    copy = a_copy(tmp_path, dict(DIFFS)[SCREEN], of="web")
    (copy / "node_modules").symlink_to(ROOT / "web" / "node_modules")
    part = ["src/screens/bench/Texels.tsx", "src/screens/bench/Texels.test.tsx", "src/screens/bench/WholeSet.tsx"]
    options = {"incremental": False, "tsBuildInfoFile": None}  # only these, and what they stand on
    told = {"extends": "./tsconfig.json", "compilerOptions": options, "include": [], "files": part}
    (copy / "part.json").write_text(json.dumps(told))
    for tool in (["biome", "check", *part], ["tsc", "--project", "part.json"], ["vitest", "run", part[1]]):
        done = subprocess.run([f"node_modules/.bin/{tool[0]}", *tool[1:]], cwd=copy, capture_output=True, text=True)
        assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]


def test_the_page_has_a_change_for_everything_it_names():
    assert {kind for kind, _ in DIFFS} == {*ASKS, SCREEN}


def test_the_target_is_read_and_drawn():
    table = re.search(r"^## A target$.*?```toml\n(.*?)```", PAGE, re.MULTILINE | re.DOTALL)
    target = read_target(table[1])
    assert [file.role for file in board_of(target).files] == ["color", "normal_gloss"]
