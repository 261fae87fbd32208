"""How fast fixture types are read, compiled and tried: `python -m bench.types` prints medians (docs/benchmarks.md)."""

from __future__ import annotations

import io
import json
import resource
import statistics
import time
import tracemalloc
import zipfile
from collections.abc import Callable
from functools import cache
from typing import Any

import numpy as np

from bench.live_path import large_rig, median_ms
from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.types.manual.channels import read_channels
from zarfwright.core.types.model import FixtureType, ModeMaster, Relation
from zarfwright.core.types.trial import home_slots, trial
from zarfwright.formats.archive import write_archive
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.library import heron


def seconds(work: Callable[[], Any], times: int = 5) -> float:
    """The median time of some work."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def heavy_file() -> bytes:
    """50 MB of GDTF: a Heron with pictures that do not shrink."""
    dice = np.random.default_rng(1)
    entries = {f"models/svg/part{i}.svg": dice.bytes(5_000_000) for i in range(10)}
    own = zipfile.ZipFile(io.BytesIO(write_gdtf(heron())))
    return write_archive({**{name: own.read(name) for name in own.namelist()}, **entries})


@cache
def many_modes(count: int = 10) -> bytes:
    """A file of 30 modes of 100 channels, each with so many functions of six sets."""
    sets = "".join(f'<ChannelSet Name="S{n}" DMXFrom="{n * 4}/1" WheelSlotIndex="{n + 1}"/>' for n in range(6))
    functions = "".join(
        f'<ChannelFunction Name="F{k}" Attribute="Gobo1" DMXFrom="{k * 25}/1" Wheel="W">{sets}</ChannelFunction>'
        for k in range(count)
    )
    channels = "".join(
        f'<DMXChannel DMXBreak="1" Offset="{slot}" Geometry="Beam"><LogicalChannel Attribute="Gobo1">{functions}'
        "</LogicalChannel></DMXChannel>"
        for slot in range(1, 101)
    )
    modes = "".join(
        f'<DMXMode Name="M{n}" Geometry="Body"><DMXChannels>{channels}</DMXChannels></DMXMode>' for n in range(30)
    )
    slots = "<Slot Name='s'/>" * 8
    text = (
        '<GDTF DataVersion="1.2"><FixtureType Name="Many" Manufacturer="Made up" FixtureTypeID="M">'
        f'<AttributeDefinitions/><Wheels><Wheel Name="W">{slots}</Wheel></Wheels><Geometries><Geometry Name="Body">'
        f'<Beam Name="Beam"/></Geometry></Geometries><DMXModes>{modes}</DMXModes></FixtureType></GDTF>'
    )
    return write_archive({"description.xml": text.encode()})


def bomb() -> bytes:
    """400 MB of zeros in 400 kB."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("description.xml", bytes(400 * 2**20))
    return out.getvalue()


def with_masters(fixture_type: FixtureType) -> FixtureType:
    """A Heron whose every colour and blade depends on a master, with relations on all of them."""
    from dataclasses import replace

    mode = fixture_type.modes[1]
    master = ModeMaster("Lens_Gobo1", None, 0, 255)
    channels = tuple(
        replace(c, functions=tuple(replace(f, master=master) for f in c.functions))
        if c.attribute.startswith(("ColorSub", "Blade"))
        else c
        for c in mode.channels
    )
    relations = tuple(
        Relation("Multiply", "Lens_Iris", c.name, c.functions[0].name)
        for c in channels
        if c.attribute.startswith("Blade")
    )
    return replace(fixture_type, modes=(replace(mode, channels=channels, relations=relations),))


def main() -> int:
    file, heavy, zeros = write_gdtf(heron()), heavy_file(), bomb()
    found: dict[str, float] = {"GDTF of the Heron read, ms": 1000 * seconds(lambda: read_gdtf(file, "h"))}
    found["GDTF of 30 modes x 100 channels read, s"] = seconds(lambda: read_gdtf(many_modes(), "m"), 3)
    found["the same with two functions a channel, s"] = seconds(lambda: read_gdtf(many_modes(2), "m"), 3)
    found["GDTF of 50 MB read, s"] = seconds(lambda: read_gdtf(heavy, "h"), 3)

    def refused() -> None:
        try:
            read_gdtf(zeros, "z")
        except FormatError:
            return
        raise AssertionError("it was read")

    found["400 MB of zeros refused, s"] = seconds(refused, 3)
    tracemalloc.start()
    refused()
    found["the same, most memory, MB"] = tracemalloc.get_traced_memory()[1] / 2**20
    tracemalloc.stop()
    lamp = heron()
    slots = home_slots(lamp.modes[1])
    found["one trial of the Heron, ms"] = 1000 * seconds(lambda: trial(lamp, "Extended", slots), 15)
    text = "\n".join(f"{i + 1} {name} {i // 3 + 1}" for i, name in enumerate(["Red", "Green", "Blue"] * 64))
    found["a list of 192 channels read, ms"] = 1000 * seconds(lambda: read_channels(text))
    rows = large_rig(3000)
    found["3,000 x 40 slots compiled, s"] = seconds(lambda: compile_rig(rows), 3)
    mastered = with_masters(lamp)
    many = [PatchRow(f"f{i}", mastered, "Extended", 1 + i // 15, 1 + 33 * (i % 15)) for i in range(3000)]
    decoder = Decoder(compile_rig(many))
    levels = np.random.default_rng(2).integers(0, 256, (200, 512)).astype(np.uint8)
    found["3,000 x 33 slots with masters and relations decoded, ms"] = median_ms(lambda: decoder.decode(levels))
    found["peak of this process, MB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(json.dumps({name: round(value, 2) for name, value in found.items()}, indent=1))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
