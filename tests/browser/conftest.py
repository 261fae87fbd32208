"""A program and a person at it."""

import subprocess
import sys

import pytest

from tests.browser.person import Person
from tests.processes import Program

FAILED = pytest.StashKey[bool]()


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


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item, call):
    report = yield
    if report.when == "call":
        item.stash[FAILED] = report.failed
    return report


@pytest.fixture
def person(tmp_path, request):
    downloads = tmp_path / "downloads"
    downloads.mkdir()
    made = Person(downloads)
    yield made
    if request.node.stash.get(FAILED, False):
        # What the screen said is what one asks for first; the picture stays with the test's files.
        print("On the screen:", made.driver.execute_script("return document.body.innerText"), sep="\n")
        made.driver.save_screenshot(str(tmp_path / "failed.png"))
    errors = made.errors()
    made.close()
    assert errors == []
