"""What each attribute usually does: physical values, resting value, unit; and ready channels made of it."""

from __future__ import annotations

from zarfwright.core.dmx.features import DRIVES, FEATURES, INDEX
from zarfwright.core.types.shop.draft import DraftChannel, DraftRange

USUAL: dict[str, tuple[float, float]] = {
    "Pan": (-270.0, 270.0), "Tilt": (-135.0, 135.0), "PanRotate": (-180.0, 180.0), "TiltRotate": (-180.0, 180.0),
    "Zoom": (8.0, 48.0), "Iris": (1.0, 0.1), "PositionMSpeed": (1.0, 0.1), "ColorMixMSpeed": (1.0, 0.1),
    "Shutter1Strobe": (0.5, 20.0),
    "ShaperRot": (-45.0, 45.0), "Color1WheelSpin": (-360.0, 360.0), "ColorMacro1Rate": (0.2, 5.0),
    "ColorEffects1": (0.5, 4.0), "CTO": (0.0, 1.0), "NoFeature": (0.0, 0.0), "Control1": (0.0, 0.0),
    **{f"Gobo{n}Pos": (0.0, 360.0) for n in (1, 2)}, "Prism1Pos": (0.0, 360.0),
    **{f"{wheel}PosRotate": (-240.0, 240.0) for wheel in ("Gobo1", "Gobo2", "Prism1")},
    **{f"{wheel}SelectSpin": (4.0, 240.0) for wheel in ("Gobo1", "Gobo2", "Prism1")},
    **{f"Gobo{n}SelectShake": (0.5, 6.0) for n in (1, 2)},
    **{f"Blade{n}Rot": (-30.0, 30.0) for n in (1, 2, 3, 4)},
}  # fmt: skip
RESTS: dict[str, float] = {"Focus1": 1.0, "ColorAdd_W": 1.0, "Iris": 1.0, "PositionMSpeed": 1.0, "ColorMixMSpeed": 1.0}
"""The physical value that a channel rests at, where that is not nought or the middle."""
MIDDLE = ("Pan", "Tilt", "ShaperRot", "Blade1Rot", "Blade2Rot", "Blade3Rot", "Blade4Rot")
HEADS = {"Pan": "Yoke", "PanRotate": "Yoke", "Tilt": "Head", "TiltRotate": "Head"}
BODY_WIDE = (
    "PositionMSpeed",
    "ColorMixMSpeed",
    "Control1",
    "Control2",
    "DimmerCurve",
    "BlackoutMode",
    "Haze1",
    "Fan1",
    "NoFeature",
)
"""Attributes of the whole lamp, whatever lenses it has."""


def usual(attribute: str) -> tuple[float, float]:
    """The physical values that an attribute usually has over a channel."""
    found = USUAL.get(attribute)
    if found is not None:
        return found
    drives = DRIVES.get(attribute, ())
    unit = FEATURES[INDEX[drives[0].feature]].unit if drives else "share"
    return {"Hz": (0.5, 20.0), "rad": (-180.0, 180.0), "rad/s": (-180.0, 180.0)}.get(unit, (0.0, 1.0))


def shutter_ranges(top: int) -> tuple[DraftRange, ...]:
    """Closed, open, strobe, open: what a shutter does as long as nothing else is said."""
    step = (top + 1) // 256
    return (
        DraftRange(0, 20 * step - 1, "Shutter1", 0.0, 0.0, "Closed"),
        DraftRange(20 * step, 64 * step - 1, "Shutter1", 1.0, 1.0, "Open"),
        DraftRange(64 * step, 224 * step - 1, "Shutter1Strobe", 0.5, 20.0, "Strobe"),
        DraftRange(224 * step, top, "Shutter1", 1.0, 1.0, "Open again"),
    )


def part_for(attribute: str, parts: tuple[str, ...], lenses: tuple[str, ...]) -> str:
    """What an attribute drives: the yoke, the head, the one lens, or all of it."""
    if HEADS.get(attribute) in parts:
        return HEADS[attribute]
    if len(lenses) == 1 and attribute not in BODY_WIDE:
        return lenses[0]
    return parts[0]


def channel_for(
    attribute: str, slots: tuple[int, ...], parts: tuple[str, ...], lenses: tuple[str, ...], part: str | None = None
) -> DraftChannel:
    """A channel that does one thing over its whole range, as it usually does."""
    top = 256 ** len(slots) - 1
    low, high = usual(attribute)
    where = part or part_for(attribute, parts, lenses)
    if attribute == "Shutter1":
        ranges = shutter_ranges(top)
        return DraftChannel(where, slots, ranges, ranges[1].start)
    rest = RESTS.get(attribute, (low + high) / 2 if attribute in MIDDLE or "Rotate" in attribute else None)
    if attribute == "Zoom":
        rest = low + (high - low) / 3
    home = 0 if rest is None or high == low else round((rest - low) / (high - low) * top)
    return DraftChannel(where, slots, (DraftRange(0, top, attribute, low, high, ""),), home)
