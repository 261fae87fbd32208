"""A program and a person at it."""

import subprocess
import sys

import pytest

from tests.browser.person import Person
from tests.processes import Program


@pytest.fixture
def program(tmp_path):
    made = Program(tmp_path / "demo.zarf")
    made.tmp_path = tmp_path
    yield made
    if made.process.poll() is None:
        made.end()


@pytest.fixture
def empty(tmp_path):
    """A program over a new show."""
    path = tmp_path / "new.zarf"
    subprocess.run([sys.executable, "-m", "zarfwright", "new", str(path)], check=True)
    made = Program(path, demo=False)
    yield made
    if made.process.poll() is None:
        made.end()


@pytest.fixture
def person(tmp_path):
    downloads = tmp_path / "downloads"
    downloads.mkdir()
    made = Person(downloads)
    yield made
    errors = made.errors()
    made.close()
    assert errors == []
