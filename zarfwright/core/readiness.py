"""What is still wrong or missing, step by step: each finding says what, where, and what to do."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from functools import lru_cache

import numpy as np

from zarfwright.core.aiming.readiness import aim_findings
from zarfwright.core.carriers.readiness import findings as driver_findings
from zarfwright.core.findings import Finding, Repair
from zarfwright.core.lasers.readiness import findings as laser_findings
from zarfwright.core.linking.readiness import line_findings
from zarfwright.core.looks.readiness import look_findings
from zarfwright.core.patch import occupied, overlaps
from zarfwright.core.patching.readiness import dimmer_findings
from zarfwright.core.review.notes import Note
from zarfwright.core.review.readiness import light_findings
from zarfwright.core.rig.readiness import hang_findings
from zarfwright.core.rig.things import Fixture
from zarfwright.core.scene import CrowdKey, people_of
from zarfwright.core.sheet.readiness import paper_findings
from zarfwright.core.show import Item, Show
from zarfwright.core.site.crowd import STAGE, People, apart_m, closer
from zarfwright.core.site.footprints import inside
from zarfwright.core.site.outline import advice
from zarfwright.core.site.placed import outline_of
from zarfwright.core.site.things import Crowd, Deck, Figure, MeshPiece, Panel, Piece, Truss, Wall
from zarfwright.core.site.walls import has_room, is_door
from zarfwright.core.space import Floats
from zarfwright.core.units import format_length

HEAVY = 100_000
"""Triangles of a mesh from which on it is called heavy."""
STEPS = ("site", "hang", "aim", "patch", "signal", "looks", "review", "papers")


def _called(show: Show, item_id: str) -> str:
    return show.items[item_id].name


def _patch(show: Show) -> list[Finding]:
    found = []
    for item, fixture in show.fixtures():
        if fixture.universe is None or fixture.address is None:
            text = f"{item.name.capitalize()} has no address: no console can drive it. Give it one."
            found.append(Finding("patch", (item.id,), text, code="no_address"))
        elif any(last > 512 for _, _, last in occupied(show, fixture)):
            text = (
                f"{item.name.capitalize()} runs past the end of universe {fixture.universe}: give it a lower address."
            )
            found.append(Finding("patch", (item.id,), text, wrong=True, code="past_universe"))
    for clash in overlaps(show):
        if clash.meant:
            continue
        a, b = (_called(show, item_id) for item_id in clash.fixtures)
        slots = f"slot {clash.first}" if clash.first == clash.last else f"slots {clash.first} to {clash.last}"
        text = f"{a.capitalize()} and {b} share {slots} of universe {clash.universe}: move one of them."
        found.append(Finding("patch", clash.fixtures, text, wrong=True, code="shared_slots"))
    return [*found, *dimmer_findings(show)]


def _outline(item: Item) -> list[Finding]:
    """What an outline was nearly meant to be, with its corners put right."""
    corners, closed = outline_of(item.body)
    found = []
    for one in advice(corners, closed)[:3] if corners else ():
        args = {"id": item.id, "corners": [list(corner) for corner in one.corners], "closed": one.closed}
        label = "Close it" if one.closed and not closed else "Put it straight"
        text = f"{item.name}: {one.text}. Was it meant to be so?"
        found.append(
            Finding("site", (item.id,), text, repair=Repair(label, "set outline", args), code="outline_nearly")
        )
    return found


def _heavy(show: Show, item: Item, body: MeshPiece) -> list[Finding]:
    """A mesh of very many triangles."""
    mesh = show.meshes.get(body.asset)
    count = 0 if mesh is None else min(len(mesh.whole.triangles), body.triangles or HEAVY * 100)
    if count <= HEAVY:
        return []
    text = f"{item.name} has {count} triangles: simplify it, or the picture slows down."
    fewer = Repair("Simplify it", "simplify mesh", {"id": item.id, "triangles": str(HEAVY // 4)})
    return [Finding("site", (item.id,), text, repair=fewer, code="mesh_heavy")]


def _empty_layers(show: Show) -> list[Finding]:
    used = {item.layer for item in show.items.values()}
    found = []
    for item in show.of_kind("layer"):
        if item.id not in used:
            text = f"The layer {item.name} is empty: put something on it, or remove it."
            gone = Repair("Remove the layer", "remove layer", {"id": item.id})
            found.append(Finding("site", (item.id,), text, repair=gone, code="layer_empty"))
    return found


def _site(show: Show) -> list[Finding]:
    found: list[Finding] = []
    by_body: dict[str, list[str]] = defaultdict(list)
    for item in show.items.values():
        body = item.body
        if isinstance(body, Deck | Wall | Panel | Piece | Truss | Figure):
            by_body[f"{item.kind} {replace(body, name='')}"].append(item.id)
            if body.position[2] < -0.001 and not isinstance(body, Figure):
                depth = format_length(-body.position[2], show.settings.system)
                text = f"{item.name} stands {depth} below the datum: raise it, unless there is a pit."
                raised = Repair("Raise it to the datum", "set field", {"ids": [item.id], "field": "z", "text": "0"})
                found.append(
                    Finding(
                        "site", (item.id,), text, repair=None if isinstance(body, Truss) else raised, code="below_datum"
                    )
                )
        found += _outline(item)
        if isinstance(body, Wall):
            found += _openings(show, item, body)
        if isinstance(body, MeshPiece):
            found += _heavy(show, item, body)
        if isinstance(body, Crowd):
            found += _crowd(item, body)
    found += _inside(show) + _empty_layers(show)
    for ids in by_body.values():
        if len(ids) > 1:
            text = f"{_called(show, ids[0])} and {len(ids) - 1} more are exactly alike and in one place: remove them."
            found.append(
                Finding(
                    "site",
                    tuple(ids),
                    text,
                    repair=Repair("Leave one", "remove", {"ids": ids[1:]}),
                    code="alike_in_place",
                )
            )
    return found


def _openings(show: Show, item: Item, wall: Wall) -> list[Finding]:
    """Doors and windows that have no room any more since their wall was changed."""
    found = []
    for at, opening in enumerate(wall.openings):
        if has_room(wall, opening):
            continue
        what = "door" if is_door(opening) else "window"
        wide = format_length(opening[1], show.settings.system)
        text = f"A {what} of {wall.name}, {wide} wide, has no room where it is: move it, or fill it."
        found.append(
            Finding(
                "site",
                (item.id,),
                text,
                repair=Repair("Fill it", "fill opening", {"id": item.id, "at": at}),
                code="opening_no_room",
            )
        )
    return found


def _inside(show: Show) -> list[Finding]:
    """People who stand in scenery."""
    owners: list[Item] = []
    places: list[Floats] = []
    for item in show.items.values():
        if isinstance(item.body, Figure):
            owners.append(item)
            places.append(np.array([item.body.position]))
        elif isinstance(item.body, Crowd):
            who = people_of(item.body)
            owners += [item] * who.count
            places.append(who.places)
    if not owners:
        return []
    found = []
    for thing, numbers in inside(show, np.concatenate(places)).items():
        concerned = list(dict.fromkeys(owners[i].id for i in numbers))
        crowds = [one for one in concerned if show.items[one].kind == "crowd"]
        who_text = "1 person stands" if len(numbers) == 1 else f"{len(numbers)} people stand"
        text = f"{who_text} inside {_called(show, thing)}: move them, or let their crowd keep out of it."
        out = Repair("Keep them out", "keep clear", {"ids": crowds}) if crowds else None
        found.append(Finding("site", (*concerned, thing), text, wrong=True, repair=out, code="people_inside"))
    return found


def _crowd(item: Item, crowd: Crowd) -> list[Finding]:
    who = people_of(crowd)
    if not who.count:
        text = f"{crowd.name} holds nobody: enlarge its area, or narrow its aisles."
        return [Finding("site", (item.id,), text, code="crowd_empty")]
    found = []
    if who.count < who.asked:
        found.append(Finding("site", (item.id,), full_text(crowd, who), repair=_closer(item, crowd), code="crowd_full"))
    middle = who.places[:, :2].mean(axis=0)
    stage = np.array(STAGE) - middle
    turn = np.radians(who.turns_deg)
    facing = np.array([-np.sin(turn).mean(), np.cos(turn).mean()])
    if float(facing @ stage) < 0:
        text = f"{crowd.name} faces away from the stage: give it a place to look at that lies on the stage."
        back = Repair("Let them face the stage", "face crowd", {"ids": [item.id]})
        found.append(Finding("site", (item.id,), text, wrong=True, repair=back, code="crowd_faces_away"))
    return found


_closer_of = lru_cache(maxsize=64)(lambda key: closer(key.crowd))


def _closer(item: Item, crowd: Crowd) -> Repair | None:
    """Set people so close that all are taken in, where they can be."""
    set_so = _closer_of(CrowdKey(crowd))
    if set_so is None:
        return None
    text = f"{apart_m(set_so):.2f}m"
    field = "pitch" if crowd.seating == "rows" else "apart"
    return Repair(
        f"Set them {apart_m(set_so):.2f} m apart", "set field", {"ids": [item.id], "field": field, "text": text}
    )


def full_text(crowd: Crowd, who: People) -> str:
    """What to say of an area that took fewer than were asked for."""
    close = _closer_of(CrowdKey(crowd))
    how = "set them closer" if close is not None else "ask for fewer: shoulder to shoulder they have no room there"
    taken = f"{crowd.name} is full with {who.count} of the {who.asked} asked for, {apart_m(crowd):.2f} m apart"
    return f"{taken}: enlarge it, or {how}."


STEP_OF = {
    "fixture": "hang",
    "look": "looks",
    "type": "hang",
    "viewpoint": "review",
    "connection": "signal",
    "console": "signal",
    "line check": "signal",
    "rack": "patch",
    "area": "review",
    "note": "review",
}


def _damaged(show: Show) -> list[Finding]:
    """What of the show's file could not be read, and what is missing of the files that it keeps."""
    found = []
    for one in show.damage:
        step = STEP_OF.get(one.kind, "site")
        if one.read and one.id in show.items:
            text = f"{_called(show, one.id).capitalize()} was damaged in the file: {one.what} could not be read and "
            found.append(
                Finding(
                    step,
                    (one.id,),
                    text + "was left out. See whether the rest is right.",
                    wrong=True,
                    code="damaged_part",
                )
            )
        else:
            text = (
                f"A {one.kind} in the file cannot be read ({one.what}) and was left out: make it again, or open a copy."
            )
            found.append(Finding(step, (), text, wrong=True, code="damaged_thing"))
    for item in show.of_kind("type"):
        if item.id not in show.types:
            text = f"The file of the type {item.name} is missing or damaged: add its GDTF again and swap the type."
            found.append(Finding("hang", (item.id,), text, wrong=True, code="type_file_missing"))
    for item, mesh in show.bodies(MeshPiece):
        if mesh.asset not in show.meshes:
            text = f"The file of {item.name} is missing or damaged: add its mesh again and remove this."
            found.append(Finding("site", (item.id,), text, wrong=True, code="mesh_file_missing"))
    return found


def findings(show: Show) -> list[Finding]:
    """Everything to put right, in the order of the steps."""
    return [
        *_damaged(show),
        *_site(show),
        *hang_findings(show),
        *driver_findings(show),
        *aim_findings(show),
        *laser_findings(show),
        *_patch(show),
        *line_findings(show),
        *look_findings(show),
        *light_findings(show),
        *paper_findings(show),
    ]


def counts(show: Show) -> dict[str, int]:
    """What each step holds."""
    fixtures = [fixture for _, fixture in show.fixtures() if isinstance(fixture, Fixture)]
    return {
        "site": sum(item.is_a.solid for item in show.items.values()),
        "hang": len(fixtures),
        "aim": sum(bool(fixture.hands) or fixture.aim is not None for fixture in fixtures),
        "patch": sum(fixture.address is not None for fixture in fixtures),
        "looks": len(show.of_kind("look")),
        "review": sum(note.open for _, note in show.bodies(Note)),
        "papers": len(show.of_kind("sheet")),
    }
