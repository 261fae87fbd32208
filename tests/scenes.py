"""Scene files in tests: read, taken into shows in memory, and made by hand as other programs make them."""

from __future__ import annotations

import io
import uuid
import zipfile
from hashlib import sha256
from pathlib import Path
from xml.etree import ElementTree

import numpy as np

from zarfwright.core.edits import prepare
from zarfwright.core.exchange.offered import Wish
from zarfwright.core.mesh import MeshFile, MeshPart, box
from zarfwright.core.settings import Settings
from zarfwright.core.show import SHOW_ID, Item, Show
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.formats.mesh import write_glb
from zarfwright.library import dunlin, heron
from zarfwright.web.desk.inbox import Inbox
from zarfwright.web.desk.outbox import scene_file

HERON, DUNLIN = (write_gdtf(make()) for make in (heron, dunlin))


class Hall:
    """A show in memory with its assets, that scenes go out of and come in to."""

    def __init__(self, folder: Path, show: Show | None = None) -> None:
        self.assets: dict[str, tuple[str, bytes]] = {}
        self.inbox = Inbox()
        self.folder = folder
        self.show = show or Show({SHOW_ID: Item(SHOW_ID, "show", Settings())})
        self.arrived = None

    # What edits ask for (core/edits/base.py).

    def values(self):
        return {}

    def poses(self):
        return {}

    def keep_type(self, fixture_type):
        return self.keep(f"{fixture_type.maker}@{fixture_type.name}.gdtf", write_gdtf(fixture_type))

    def keep(self, name, data):
        asset = sha256(data).hexdigest()
        self.assets.setdefault(asset, (name, data))
        return asset

    def asset(self, asset):
        found = self.assets.get(asset)
        return found[1] if found else None

    def scene_in(self, key):
        return self.inbox.look(key)

    # What tests do.

    def with_type(self, fixture_type) -> str:
        """Add a type as its GDTF file; gives the id of its entry."""
        data = write_gdtf(fixture_type)
        asset = self.keep(f"{fixture_type.maker}@{fixture_type.name}.gdtf", data)
        read = read_gdtf(data, "x.gdtf")[0]
        self.do("add type", name=read.name, maker=read.maker, asset=asset)
        key = next(item.id for item in self.show.of_kind("type") if item.body.asset == asset)
        self.show = Show(self.show.items, {**self.show.types, key: read}, self.show.meshes)
        return key

    def do(self, kind, /, **args):
        ids = (uuid.uuid4().hex for _ in iter(int, 1))
        prepared = prepare(self.show, kind, args, self)
        prepared = prepared.answered([call() for call in prepared.calls()])
        edit = prepared.on(self.show, lambda: next(ids))
        # As the desk does: what was read for an edit is not read again.
        show = prepared.files_into(self.show).after(edit.changes)
        types = {
            item.id: show.types[item.id] if item.id in show.types else show.types[f"asset:{item.body.asset}"]
            for item in show.of_kind("type")
            if item.id in show.types or f"asset:{item.body.asset}" in show.types
        }
        self.show = Show(show.items, types, show.meshes)
        return edit

    def out(self, wish: Wish | None = None) -> bytes:
        return scene_file(self.show, self.assets.get, wish or Wish()).data

    def look(self, data: bytes, name: str = "scene.mvr"):
        """A file read; gives its key."""
        key, _ = self.inbox.place(name)
        path = self.folder / f"{uuid.uuid4().hex}.mvr"
        path.write_bytes(data)
        self.arrived = self.inbox.arrive(key, name, path)
        self.arrived.read_here()
        return key

    def take(self, data: bytes, **chosen):
        return self.do("take scene", key=self.look(data), **chosen)

    def named(self, name: str):
        return next(item for item in self.show.items.values() if item.kind != "type" and item.name == name)


def zipped(entries: dict[str, bytes | str], flag: bool = True) -> bytes:
    """A zip of these entries; without the flag, names are bytes of UTF-8 that no zip reader is told of."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in entries.items():
            archive.writestr(name if flag else name.encode().decode("cp437"), data)
    return out.getvalue()


MATRIX = "{1,0,0}{0,1,0}{0,0,1}{%g,%g,%g}"


def uid(name: str) -> str:
    return str(uuid.uuid5(uuid.NAMESPACE_OID, name)).upper()


def matrix(x=0.0, y=0.0, z=0.0, text: str | None = None) -> str:
    """The matrix of a place in metres."""
    return f"<Matrix>{text or MATRIX % (x * 1000, y * 1000, z * 1000)}</Matrix>"


def node(tag: str, name: str, inside: str = "", place: str = "", **given: str) -> str:
    more = "".join(f' {key}="{value}"' for key, value in given.items())
    key = "" if "uuid" in given else f' uuid="{uid(name)}"'
    return f'<{tag} name="{name}"{key}{more}>{place or matrix()}{inside}</{tag}>'


def fixture(name: str, number: int = 1, address: str = "1", place: str = "", more: str = "",
            spec: str = "Heron.gdtf", mode: str = "Standard", **given: str) -> str:  # fmt: skip
    inside = (
        f"<GDTFSpec>{spec}</GDTFSpec><GDTFMode>{mode}</GDTFMode><FixtureID>{number}</FixtureID>"
        f'<FixtureIDNumeric>{number}</FixtureIDNumeric><Addresses><Address break="0">{address}</Address></Addresses>'
        f"{more}"
    )
    return node("Fixture", name, inside, place, **given)


def mesh_of(name: str) -> str:
    return f'<Geometries><Geometry3D fileName="{name}"/></Geometries>'


def layer(*children: str, name: str = "Rig", place: str = "") -> str:
    return f'<Layer name="{name}" uuid="{uid(name)}">{place}<ChildList>{"".join(children)}</ChildList></Layer>'


def description(*layers: str, aux: str = "", user: str = "", root: str = "") -> str:
    return (
        f'<GeneralSceneDescription verMajor="1" verMinor="6" provider="Somebody" {root}>{user}<Scene>'
        f"<AUXData>{aux}</AUXData><Layers>{''.join(layers)}</Layers></Scene></GeneralSceneDescription>"
    )


def mvr(*layers: str, aux: str = "", user: str = "", files: dict[str, bytes] | None = None, flag: bool = True) -> bytes:
    """A file as another program might write it; the Heron's GDTF is in it."""
    return zipped(
        {"GeneralSceneDescription.xml": description(*layers, aux=aux, user=user), "Heron.gdtf": HERON, **(files or {})},
        flag,
    )


def box_glb(x=1.0, y=1.0, z=1.0, centre=(0.0, 0.0, 0.0)) -> bytes:
    """A GLB of a box, in our frame."""
    return write_glb(MeshFile((MeshPart("steel", (0.3, 0.3, 0.3), box((x, y, z), np.array(centre))),)))


def tree(data: bytes) -> tuple[dict[str, ElementTree.Element], ElementTree.Element, dict[str, bytes]]:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    root = ElementTree.fromstring(files["GeneralSceneDescription.xml"])
    return {node.get("uuid", "").upper(): node for node in root.iter() if node.get("uuid")}, root, files


def stripped(data: bytes) -> bytes:
    """A file without what programs keep for themselves."""
    _, root, files = tree(data)
    root.remove(root.find("UserData"))
    return zipped({**files, "GeneralSceneDescription.xml": ElementTree.tostring(root)})
