"""Shared by all tests: the demo's types, and small shows built through the edits."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import settings

from zarfwright.core.edits import Edit, perform
from zarfwright.core.mesh import MeshFile
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.settings import Settings
from zarfwright.core.show import SHOW_ID, Item, Show
from zarfwright.library import dunlin, heron

# How long something takes is measured in bench/: on a busy machine any call may take half a second.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")


class Workbench:
    """A show in memory that edits are done on, one after another."""

    def __init__(self, system: str = "metric") -> None:
        ids = itertools.count(1)
        self.new_id = lambda: f"id{next(ids)}"
        types = {"heron": heron(), "dunlin": dunlin()}
        items = {SHOW_ID: Item(SHOW_ID, "show", Settings(system=system))}  # type: ignore[arg-type]
        for order, (key, fixture_type) in enumerate(types.items()):
            items[key] = Item(key, "type", TypeEntry(fixture_type.name, fixture_type.maker, key), order=order)
        self.show = Show(items, types)

    def do(self, kind: str, /, **args: Any) -> Edit:
        edit = perform(self.show, kind, args, self.new_id)
        self.show = self.show.after(edit.changes)
        return edit

    def give_mesh(self, asset: str, mesh: MeshFile) -> None:
        """Let the show have a mesh file, as an upload does."""
        self.show = replace(self.show, meshes={**self.show.meshes, asset: mesh})

    def made(self, kind: str, /, **args: Any) -> str:
        """The id of the one thing that an edit made."""
        return self.do(kind, **args).select[0]

    def body(self, item_id: str) -> Any:
        return self.show.items[item_id].body


@pytest.fixture
def bench() -> Workbench:
    return Workbench()


def pytest_terminal_summary(terminalreporter):
    """What was run again, and why: a test that fails now and then is a fault of the test or of the program."""
    again = terminalreporter.stats.get("rerun", [])
    if again:
        terminalreporter.section(f"{len(again)} run again")
    for report in again:
        why = str(report.longrepr).strip().splitlines()[-1:] or [""]
        terminalreporter.write_line(f"{report.nodeid}: {why[0]}")
