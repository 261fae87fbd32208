"""A program and a person at it."""

import shutil
import subprocess
import sys
from concurrent.futures import Future, ThreadPoolExecutor

import pytest

from tests.browser.measured import Pages
from tests.browser.person import BROWSERS, Person
from tests.processes import Program
from zarfwright.demo.build import build_first_part

FAILED = pytest.StashKey[bool]()


class Ahead:
    """Programs over copies of one file: the next one starts while the test before it goes on."""

    def __init__(self, folder, file):
        self._folder, self._file, self._count = folder, file, 0
        self._threads = ThreadPoolExecutor(1)
        self._next: Future[Program] | None = None

    def _make(self, number):
        folder = self._folder / str(number)
        folder.mkdir()
        return Program(shutil.copy(self._file, folder / "demo.zarf"), demo=False)

    def _begin(self):
        self._count += 1
        return self._threads.submit(self._make, self._count)

    def take(self, more):
        """A program that nobody has used; the next one begins to start where more are wanted."""
        ready = self._next or self._begin()
        made = ready.result()
        self._next = self._begin() if more else None
        return made

    def close(self):
        if self._next is not None:
            self._next.result().end()
        self._threads.shutdown()


@pytest.fixture(scope="session")
def ahead(tmp_path_factory):
    """The demo's first part, built once."""
    folder = tmp_path_factory.mktemp("programs")
    file = folder / "demo.zarf"
    build_first_part(file)
    made = Ahead(folder, file)
    yield made
    made.close()


@pytest.fixture
def program(ahead, tmp_path, request):
    items = request.session.items
    after = items[items.index(request.node) + 1 :]
    made = ahead.take(any("program" in getattr(item, "fixturenames", ()) for item in after))
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


@pytest.fixture(scope="module", autouse=True)
def browsers():
    """A module begins with new browsers."""
    yield
    BROWSERS.quit()


@pytest.fixture(scope="module")
def pages(tmp_path_factory):
    made = Pages(lambda: tmp_path_factory.mktemp("measured"))
    yield made
    made.close()


@pytest.fixture
def measured(pages, request, tmp_path):
    """A page that pictures are measured on, by its kind: as it was built, whoever had it before."""
    taken = []

    def take(kind):
        taken.append(pages.take(kind))
        return taken[-1]

    yield take
    errors = [error for page in taken for error in page.person.errors()]
    if request.node.stash.get(FAILED, False) or errors:
        for page in taken:
            page.person.driver.save_screenshot(str(tmp_path / "failed.png"))
            pages.drop(page)
    assert errors == []


def pytest_collection_modifyitems(items):
    """A browser test may be run once more; what was is told at the end (tests/conftest.py)."""
    for item in items:
        if "/browser/" in str(item.path):
            item.add_marker(pytest.mark.flaky(reruns=1))


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
