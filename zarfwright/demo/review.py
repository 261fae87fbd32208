"""What the demo show has for a review: areas where light is measured, notes, and what was said of looks."""

from __future__ import annotations

from typing import Any, cast

from zarfwright.core.edits import Around
from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.web import Web
from zarfwright.core.picture import BeamTable
from zarfwright.demo.build import Builder
from zarfwright.formats.optics import Optics

MORNING = "2026-11-27T10:{:02d}:00+00:00"


class _Files:
    """Of all that edits may ask for (core/edits/base.py) what measuring does: the files of the show's types."""

    def __init__(self, build: Builder) -> None:
        self._optics = Optics(lambda: build.show, lambda _key: None)

    def optics(self, table: BeamTable) -> tuple[dict[str, Mask], dict[str, Web]]:
        return self._optics.of(table)


def build_review(build: Builder, looks: dict[str, str], teller: str) -> None:
    """Two areas where so much light is wanted, one that is only looked at, and a morning's notes."""
    choir = [looks[name] for name in ("Slack Water: the choir is there", "Flood: the tide turns", "Flood: brass")]
    front = next(item.id for item in build.show.of_kind("viewpoint") if item.name.startswith("House front"))
    faces = {"faces": "towards", "towards": front}
    areas: list[tuple[list[str], dict[str, Any]]] = [
        (choir, {"name": "Choir, faces", "y": "US 5.5", "z": "3.2m", "width": "6m", "depth": "3m", "points": "18x9",
                 "wanted": "700 lx", "wanted_in": choir, **faces}),
        ([looks["Flood: the tide turns"]], {"name": "Storyteller, face", "x": "SR 0.4", "y": "DS 3.2", "z": "2.7m",
            "width": "2m", "depth": "2m", "points": "10x10", "wanted": "600 lx",
            "wanted_in": [looks["Flood: the tide turns"]], **faces}),
        ([looks["Flood: the whole deck"]], {"name": "Deck before the choir", "y": "US 1.9", "z": "1.1m",
            "width": "10m", "depth": "3.4m", "points": "40x14"}),
    ]  # fmt: skip
    files = cast(Around, _Files(build))
    for seen_in, args in areas:
        area = build.do("add area", **args).select[0]
        build.do_with(files, "measure light", {"ids": [area], "looks": seen_in})
    notes: tuple[tuple[str, str, int, dict[str, Any]], ...] = (
        ("The left end of the choir is darker than its right", "Director", 5,
         {"about": choir[0], "look": choir[0], "place": (-2.6, 5.5, 3.0), "tags": ["focus"],
          "seen_from": ((0.0, -16.0, 3.2), (0.0, 2.0, 2.6))}),
        ("Who walks the tongue is lost before the steps", "Director", 9,
         {"about": teller, "place": (-0.4, -5.6, 2.7), "look": looks["Flood: the whole deck"], "tags": ["focus"]}),
        ("Colder by half an hour, please", "Composer", 21,
         {"about": looks["Ebb: it runs out"], "look": looks["Ebb: it runs out"], "tags": ["colour"]}),
    )  # fmt: skip
    for text, by, minute, more in notes:
        build.do("write note", text=text, by=by, at=MORNING.format(minute), **more)
    for look, by, verdict, minute in (
        ("Slack Water: dark", "Director", "agreed", 2),
        ("Slack Water: the choir is there", "Director", "agreed", 6),
        ("Ebb: it runs out", "Composer", "not yet", 22),
    ):
        build.do("write note", about=looks[look], look=looks[look], by=by, verdict=verdict, at=MORNING.format(minute))
