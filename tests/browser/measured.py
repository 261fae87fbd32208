"""A picture that is measured: a show built for it, drawn in one pane of a page, and the same show in core."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from tests.browser.person import Person
from tests.processes import Program, wait_for
from zarfwright.core.edits import perform
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.picture import COLUMN
from zarfwright.demo.build import Builder

TRAVEL = ["pan", "tilt", "field", "beam", "hard", "iris", "focus", "frost", "blades_turn", "frost_gain"]
"""What takes its time to be as it was asked for."""
AS_BUILT = 1
"""The one restore point of such a show."""


def one_pane(person: Person) -> None:
    """All of the page's canvas for one picture."""
    for panes in (3, 1):
        person.click('//button[@title="One, two or three panes"]', "the panes")
        wait_for(lambda panes=panes: len(person.report()["panes"]) == panes, f"{panes} panes")


def until_it_shows(person: Person, beams: Any, names: list[str]) -> None:
    """Wait until fields of the frame are in the picture as core has them, row by row: heads, zooms and blades take
    their time."""
    read = "const [n, names] = arguments, s = window.zarfwrightStage.state; "
    read += "return Array.from({ length: n }, (_, row) => names.map((f) => s.field(row, 'live', f)))"
    wanted = beams.frame[:, [COLUMN[name] for name in names]]

    def there() -> bool:
        got = np.array(person.driver.execute_script(read, len(wanted), names), dtype=float)
        return got.shape == wanted.shape and bool(np.nanmax(np.abs(got - wanted)) < 3e-3)

    wait_for(there, f"the picture to have {dict(zip(names, wanted[0].tolist(), strict=True))}")
    person.settle()


class Measured(ABC):
    """Kept for several tests: each finds it as it was built."""

    scale = 0.4

    def __init__(self, folder: Path) -> None:
        builder = Builder(folder / "measured.zarf")
        self.build(builder)
        self._built = self.show = builder.show
        builder.file.close()
        self.program, self.person = Program(folder / "measured.zarf", demo=False), Person(folder)
        self.person.open(self.program.url, self.scale, "Build")
        one_pane(self.person)
        self.program.post("/api/shows/SHOW/points", {"name": "As built"})
        self._taken = 0

    @abstractmethod
    def build(self, builder: Builder) -> None:
        """What there is to be seen."""

    def again(self) -> None:
        """As it was built, in the program, on the page and in core."""
        if self._taken:
            status, answer = self.program.post("/api/shows/SHOW/back", {"who": "tester", "point": AS_BUILT})
            assert status == 200, answer
        self.show = self._built
        # Updates come in order: a page that has the new name has all that was before it.
        self._taken += 1
        name = f"Measured, {self._taken}"
        self.do("set show", name=name)
        heading = "return document.querySelector('h1')?.textContent"
        wait_for(lambda: self.person.driver.execute_script(heading) == name, "the page to be as the show was built")
        self.wish("Build")
        self.person.settle()

    def wish(self, step: str) -> None:
        """How the picture is drawn, however slow that is here."""
        self.person.stage("setWish", {"step": step, "fps": 25, "cap": 1, "rests": True})

    def do(self, kind: str, /, **args: Any) -> str | None:
        """The same edit in the program and in core's show; gives what it made."""
        made = self.program.edit(kind, **args)["select"]
        ids = iter(made)
        edit = perform(self.show, kind, args, lambda: next(ids))
        self.show = self.show.after(edit.changes)
        return made[0] if made else None

    def look_from(self, eye: list[float], target: list[float]) -> None:
        self.person.stage("lookFrom", "main", eye, target)
        self.person.settle()

    def until_it_shows(self, beams: Any, names: list[str]) -> None:
        """Wait until the picture has these fields as core has them."""
        until_it_shows(self.person, beams, names)

    def probes(self, points: list[list[float]], step: str = "Build", bounced: bool = False) -> list[dict[str, Any]]:
        """What one picture has at places: the place and face that are seen there, lux and luminance."""
        return wait_for(lambda: self.person.stage("probe", "main", points, step, bounced), f"the light at {points}")

    def probe(self, point: list[float], step: str = "Build", bounced: bool = False) -> dict[str, Any]:
        return self.probes([point], step, bounced)[0]

    def lux(self, point: list[float], step: str = "Build") -> float:
        return float(np.array(self.probe(point, step)["lux"]) @ LUMINANCE)

    def close(self) -> None:
        self.person.close()
        self.program.end()


class Pages:
    """The measured pages of a module, each made when it is first asked for."""

    def __init__(self, folder: Callable[[], Path]) -> None:
        self._folder = folder
        self._kept: dict[type[Measured], Measured] = {}

    def take(self, kind: type[Measured]) -> Measured:
        """The page of that kind, as it was built."""
        if kind not in self._kept:
            self._kept[kind] = kind(self._folder())
        self._kept[kind].again()
        return self._kept[kind]

    def drop(self, page: Measured) -> None:
        """What a test has failed on is not used again."""
        self._kept.pop(type(page), None)
        page.close()

    def close(self) -> None:
        for page in list(self._kept.values()):
            self.drop(page)
