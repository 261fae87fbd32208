"""Moving heads of the invented maker Quillback Lamp Co."""

from __future__ import annotations

from zarfwright.core.types.model import BeamSource, Channel, ChannelFunction, FixtureType, Mode, Model
from zarfwright.library.parts import (
    COLOURS,
    GOBOS,
    GOBOS_DRAWN,
    PRISMS,
    QUILLBACK,
    RGBW,
    TURNING_GOBOS,
    gobo_images,
    moving_head,
    pan_tilt,
    plain,
    rotation,
    shutter,
    wheel_channel,
)


def heron() -> FixtureType:
    """A moving profile: CMY, a colour wheel, two gobo wheels, prism, iris, zoom, focus, frost, four blades."""
    beam = BeamSource("Spot", "LED", 21_000.0, 6500.0, 14.0, 17.0, 0.075, 650.0)
    head, yoke = Model("Head", 0.36, 0.30, 0.52, "Head"), Model("Yoke", 0.46, 0.16, 0.40, "Yoke")
    base = Model("Base", 0.42, 0.30, 0.24, "Base")
    body = moving_head(beam, 0.30, head, yoke, base)

    def channels(extended: bool) -> tuple[Channel, ...]:
        made = [
            *pan_tilt(270.0, 135.0, 3.2, 1.9),
            plain("Dimmer", "Lens", (5, 6) if extended else (5,), 0.0, 1.0),
        ]
        slot = 7 if extended else 6
        made.append(shutter("Lens", slot))
        for attribute in ("ColorSub_C", "ColorSub_M", "ColorSub_Y"):
            slot += 1
            made.append(plain(attribute, "Lens", (slot,), 0.0, 1.0))
        made.append(wheel_channel("Color1", "Lens", slot + 1, COLOURS))
        made.append(wheel_channel("Gobo1", "Lens", slot + 2, GOBOS))
        made.append(plain("Gobo1Pos", "Lens", (slot + 3, slot + 4), 0.0, 360.0))
        made.append(plain("Iris", "Lens", (slot + 5,), 1.0, 0.1, 1.0))
        made.append(plain("Zoom", "Lens", (slot + 6, slot + 7), 7.0, 42.0, 17.0, fade_s=0.9, start_s=0.1))
        if extended:
            made.append(plain("Focus1", "Lens", (slot + 8,), 0.0, 1.0, 1.0))
            made.append(plain("Frost1", "Lens", (slot + 9,), 0.0, 1.0))
            made.append(wheel_channel("Gobo2", "Lens", slot + 10, TURNING_GOBOS))
            made.append(plain("Gobo2Pos", "Lens", (slot + 11,), 0.0, 360.0))
            made.append(rotation("Gobo2PosRotate", "Lens", slot + 12))
            made.append(wheel_channel("Prism1", "Lens", slot + 13, PRISMS))
            made.append(rotation("Prism1PosRotate", "Lens", slot + 14))
            for n in (1, 2, 3, 4):
                made.append(plain(f"Blade{n}A", "Lens", (slot + 13 + 2 * n,), 0.0, 1.0))
                made.append(plain(f"Blade{n}Rot", "Lens", (slot + 14 + 2 * n,), -30.0, 30.0))
            made.append(plain("ShaperRot", "Lens", (slot + 23,), -60.0, 60.0))
        return tuple(made)

    return FixtureType(
        "Heron",
        QUILLBACK,
        "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A01",
        (body,),
        (Mode("Standard", "Body", channels(False)), Mode("Extended", "Body", channels(True))),
        (head, yoke, base),
        (COLOURS, GOBOS, TURNING_GOBOS, PRISMS),
        description="Moving profile of the demo show; no such lamp exists.",
        weight_kg=31.0,
        power_w=760.0,
        images=gobo_images(*GOBOS_DRAWN),
    )


def dunlin() -> FixtureType:
    """An LED wash: red, green, blue, white, and zoom."""
    beam = BeamSource("Wash", "LED", 9_000.0, 6500.0, 22.0, 38.0, 0.11, 420.0)
    head, yoke = Model("Head", 0.34, 0.32, 0.26, "Head"), Model("Yoke", 0.42, 0.14, 0.30, "Yoke")
    base = Model("Base", 0.34, 0.26, 0.20, "Base")
    body = moving_head(beam, 0.24, head, yoke, base)

    def coloured(slots: dict[str, tuple[int, ...]]) -> list[Channel]:
        made = []
        for name, emitter in zip(("R", "G", "B", "W"), RGBW, strict=True):
            attribute, where = f"ColorAdd_{name}", slots[name]
            rests = 256 ** len(where) - 1 if name == "W" else 0
            function = ChannelFunction(f"{attribute} 1", attribute, 0, (0.0, 1.0), rests, emitter=emitter.name)
            made.append(Channel("Lens", where, (function,)))
        return made

    standard = [
        *pan_tilt(270.0, 120.0, 2.4, 1.4),
        plain("Dimmer", "Lens", (5,), 0.0, 1.0),
        shutter("Lens", 6),
        *coloured({"R": (7,), "G": (8,), "B": (9,), "W": (10,)}),
        plain("Zoom", "Lens", (11,), 12.0, 60.0, 38.0),
    ]
    small = [
        plain("Pan", "Yoke", (1,), -270.0, 270.0),
        plain("Tilt", "Head", (2,), -120.0, 120.0),
        plain("Dimmer", "Lens", (3,), 0.0, 1.0),
        *coloured({"R": (4,), "G": (5,), "B": (6,), "W": (7,)}),
    ]
    return FixtureType(
        "Dunlin",
        QUILLBACK,
        "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A02",
        (body,),
        (Mode("Standard", "Body", tuple(standard)), Mode("Small", "Body", tuple(small))),
        (head, yoke, base),
        (),
        RGBW,
        description="LED wash of the demo show; no such lamp exists.",
        weight_kg=11.5,
        power_w=460.0,
    )


def plover() -> FixtureType:
    """A narrow beam: a hot column, a colour wheel, a prism."""
    beam = BeamSource("Spot", "Discharge", 13_000.0, 7200.0, 3.2, 3.8, 0.062, 470.0)
    head, yoke = Model("Head", 0.30, 0.25, 0.46, "Head"), Model("Yoke", 0.38, 0.14, 0.34, "Yoke")
    base = Model("Base", 0.34, 0.26, 0.18, "Base")
    channels = (
        *pan_tilt(270.0, 130.0, 1.9, 1.1),
        plain("Dimmer", "Lens", (5,), 0.0, 1.0),
        shutter("Lens", 6),
        wheel_channel("Color1", "Lens", 7, COLOURS),
        wheel_channel("Prism1", "Lens", 8, PRISMS),
        rotation("Prism1PosRotate", "Lens", 9),
        plain("Frost1", "Lens", (10,), 0.0, 1.0),
    )
    return FixtureType(
        "Plover", QUILLBACK, "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A03",
        (moving_head(beam, 0.26, head, yoke, base),), (Mode("Standard", "Body", channels),),
        (head, yoke, base), (COLOURS, PRISMS), description="Narrow beam of the demo show; no such lamp exists.",
        weight_kg=15.5, power_w=520.0,
    )  # fmt: skip
