"""Drafts to begin with, by kind of lamp; the generic types of the library are made of the same."""

from __future__ import annotations

from dataclasses import replace

from zarfwright.core.types.model import BeamSource, Wheel, WheelSlot
from zarfwright.core.types.shop.bodies import grid
from zarfwright.core.types.shop.checks import renumbered
from zarfwright.core.types.shop.draft import Draft, DraftBody, DraftChannel, DraftMode, DraftRange, Kind
from zarfwright.core.types.shop.pasted import EMITTERS, wheel_of
from zarfwright.core.types.shop.usual import channel_for
from zarfwright.core.types.shop.wheels import facets_of, named_colour

GENERIC = "Plain"
"""The maker of the types that stand for any lamp of a sort."""
COLOURS = ("Open", "Red", "Amber", "Green", "Blue", "Magenta", "CTO", "Lavender")
HALOGEN = {
    "profile": (7_500.0, 17.0, 19.0, 0.075), "Fresnel": (16_000.0, 22.0, 44.0, 0.1), "PC": (14_000.0, 26.0, 40.0, 0.1),
    "par": (15_000.0, 12.0, 26.0, 0.1), "flood": (20_000.0, 70.0, 110.0, 0.12), "cyc": (19_000.0, 80.0, 120.0, 0.14),
}  # fmt: skip
"""Flux in lumen, beam and field angle in degrees, lens radius in metres of a lamp of a kilowatt or so."""
SIZES: dict[str, tuple[float, float, float, float, float]] = {
    "moving head": (0.40, 0.30, 0.66, 22.0, 600.0), "mirror scanner": (0.30, 0.28, 0.95, 26.0, 700.0),
    "barrel mirror": (0.30, 0.28, 0.80, 20.0, 500.0), "profile": (0.30, 0.28, 0.62, 7.5, 750.0),
    "Fresnel": (0.34, 0.32, 0.42, 8.0, 1000.0), "PC": (0.32, 0.30, 0.44, 8.0, 1000.0),
    "par": (0.24, 0.24, 0.36, 3.2, 1000.0), "flood": (0.36, 0.26, 0.28, 4.0, 1000.0),
    "cyc": (0.38, 0.28, 0.30, 4.5, 1000.0), "LED batten": (1.0, 0.09, 0.12, 7.0, 220.0),
    "LED panel": (0.5, 0.5, 0.12, 9.0, 300.0), "laser": (0.34, 0.30, 0.16, 9.0, 180.0),
    "hazer": (0.46, 0.56, 0.34, 21.0, 1300.0), "effect": (0.36, 0.36, 0.24, 8.0, 250.0),
}  # fmt: skip
"""Length, width, height in metres, weight in kg, power in W."""


MIRROR = {"Pan": (-80.0, 80.0), "Tilt": (-35.0, 20.0)}
"""How far a scanner's mirror turns, in degrees: its light goes twice as far in tilt, and not back into the body."""


def beam_for(kind: Kind) -> BeamSource:
    """A beam as lamps of this kind have."""
    if kind in HALOGEN:
        flux, beam, field_deg, radius = HALOGEN[kind]
        return BeamSource("Spot", "Halogen", flux, 3200.0, beam, field_deg, radius, 1000.0)
    plain: dict[str, BeamSource] = {
        "LED batten": BeamSource("Wash", "LED", 8_000.0, 6500.0, 20.0, 36.0, 0.03, 200.0),
        "LED panel": BeamSource("Wash", "LED", 14_000.0, 6500.0, 60.0, 100.0, 0.04, 300.0),
        "laser": BeamSource("Spot", "Laser", 1_500.0, 6500.0, 0.2, 0.2, 0.003, 6.0),
        "effect": BeamSource("Wash", "LED", 4_000.0, 6500.0, 14.0, 24.0, 0.03, 150.0),
        "mirror scanner": BeamSource("Spot", "Discharge", 11_000.0, 6800.0, 13.0, 15.0, 0.06, 575.0),
        "barrel mirror": BeamSource("Spot", "Discharge", 8_000.0, 6800.0, 13.0, 15.0, 0.06, 400.0),
    }
    return plain.get(kind, BeamSource("Spot", "LED", 16_000.0, 6500.0, 14.0, 17.0, 0.07, 500.0))


def colour_wheel(name: str = "Colour wheel") -> Wheel:
    return Wheel(name, tuple(WheelSlot(c, None if c == "Open" else named_colour(c)) for c in COLOURS))


def prism_wheel() -> Wheel:
    return Wheel("Prism wheel", (WheelSlot("None"), WheelSlot("Three facets", facets=facets_of("3"))))


def gobo_wheel(name: str, images: tuple[tuple[str, str], ...]) -> Wheel:
    """A gobo wheel with slots called and drawn so."""
    return Wheel(name, (WheelSlot("Open"), *(WheelSlot(slot, image=image) for slot, image in images)))


def slot_ranges(attribute: str, wheel: Wheel, top: int = 255) -> tuple[DraftRange, ...]:
    """A range for each slot, of equal width."""
    width = (top + 1) // max(len(wheel.slots), 1)
    last = len(wheel.slots) - 1
    return tuple(
        DraftRange(
            i * width, top if i == last else (i + 1) * width - 1, attribute, name=s.name, slot=i + 1, wheel=wheel.name
        )
        for i, s in enumerate(wheel.slots)
    )


def channel(draft: Draft, attribute: str, size: int = 1, part: str | None = None) -> DraftChannel:
    """A channel on no particular slots yet, with a wheel's slots or an emitter where the attribute has them."""
    made = channel_for(attribute, tuple(range(1, size + 1)), draft.parts, draft.lenses, part)
    if draft.kind != "moving head" and attribute in MIRROR:
        # A mirror turns much less than a yoke does.
        low, high = MIRROR[attribute]
        ranges = tuple(replace(r, low=low, high=high) for r in made.ranges)
        return replace(made, ranges=ranges, home=round(-low / (high - low) * made.top))
    name = wheel_of(attribute)
    wheel = next((one for one in draft.wheels if one.name == name), None)
    if wheel is not None and attribute == name_of_slots(attribute):
        return replace(made, ranges=slot_ranges(attribute, wheel, made.top), home=0)
    if attribute in EMITTERS:
        emitter = EMITTERS[attribute][0]
        return replace(made, ranges=tuple(replace(r, emitter=emitter) for r in made.ranges))
    return made


def name_of_slots(attribute: str) -> str:
    """The attribute that chooses slots of a wheel: only it has a range for each of them."""
    return attribute if attribute in ("Color1", "Color2", "Gobo1", "Gobo2", "Prism1", "ColorMacro1") else ""


def mode_of(draft: Draft, name: str, attributes: str) -> DraftMode:
    """A mode from a list such as `Pan/2 Tilt/2 Dimmer Shutter1`: attribute, and bytes where more than one."""
    channels = []
    for word in attributes.split():
        attribute, _, size = word.partition("/")
        channels.append(channel(draft, attribute, int(size) if size else 1))
    return DraftMode(name, tuple(renumbered(channels)))


def cells_mode(draft: Draft, name: str, letters: str, before: str = "Dimmer Shutter1") -> DraftMode:
    """A mode in which every cell mixes its own colour, the cells in their order."""
    channels = [channel(draft, attribute, part="Body") for attribute in before.split()]
    for lens in draft.lenses:
        channels += [channel(draft, f"ColorAdd_{letter}", part=lens) for letter in letters.split()]
    return DraftMode(name, tuple(renumbered(channels)))


def _mixing(draft: Draft, letters: str) -> Draft:
    from zarfwright.core.types.model import Emitter

    return replace(draft, emitters=tuple(Emitter(*EMITTERS[f"ColorAdd_{letter}"]) for letter in letters.split()))


def starter(kind: Kind, name: str = "New type", maker: str = "My own") -> Draft:
    """A draft of a kind with a mode that such lamps usually have."""
    length, width, height, kg, watts = SIZES.get(kind, SIZES["effect"])
    cells: tuple[tuple[float, float], ...] = ((0.0, 0.0),)
    if kind == "LED batten":
        cells = grid(1, 8, 0.12)
    elif kind == "LED panel":
        cells = grid(4, 4, 0.12)
    draft = Draft(
        name, maker, kind, DraftBody(length, width, height, cells), beam_for(kind), weight_kg=kg, power_w=watts
    )
    if kind == "hazer":
        return replace(draft, modes=(mode_of(draft, "Standard", "Haze1 Fan1"),))
    if kind in HALOGEN:
        return replace(draft, modes=(mode_of(draft, "Dimmer", "Dimmer"),))
    if kind in ("LED batten", "LED panel", "effect"):
        draft = _mixing(draft, "R G B")
        whole = mode_of(draft, "Together", "Dimmer Shutter1 ColorAdd_R ColorAdd_G ColorAdd_B")
        return replace(draft, modes=(cells_mode(draft, "Cells", "R G B"), whole) if len(cells) > 1 else (whole,))
    if kind == "laser":
        draft = _mixing(draft, "R G B")
        return replace(draft, modes=(mode_of(draft, "Simple", "Dimmer ColorAdd_R ColorAdd_G ColorAdd_B"),))
    return replace(draft, modes=(mode_of(draft, "Standard", "Pan/2 Tilt/2 Dimmer Shutter1"),))


def _generic(kind: Kind, name: str, wheels: tuple[Wheel, ...] = (), **modes: str) -> Draft:
    draft = replace(starter(kind, name, GENERIC), wheels=wheels)
    letters = sorted(
        {w.split("/")[0][9:] for words in modes.values() for w in words.split() if w.startswith("ColorAdd_")}
    )
    draft = _mixing(draft, " ".join(letters)) if letters else draft
    return replace(draft, modes=tuple(mode_of(draft, mode, words) for mode, words in modes.items()))


HEAD = "Pan/2 Tilt/2 Dimmer/2 Shutter1"


def generics(gobos: tuple[tuple[str, str], ...]) -> list[Draft]:
    """The library's plain types: a lamp of each sort. `gobos`: names and images for wheels."""
    wheel = gobo_wheel("Gobo wheel", gobos)
    washes = [
        _generic(
            "moving head", f"{letters} wash head", Standard=f"{HEAD} {' '.join(f'ColorAdd_{c}' for c in letters)} Zoom"
        )
        for letters in ("RGB", "RGBW")
    ]
    soft = BeamSource("Wash", "LED", 12_000.0, 6500.0, 22.0, 40.0, 0.1, 450.0)
    washes = [replace(one, beam=soft) for one in washes]
    scroller = replace(starter("par", "Par with scroller", GENERIC), wheels=(colour_wheel(),))
    scroller = replace(scroller, body=replace(scroller.body, scroller=True))
    changer = replace(channel(scroller, "Color1", part="Body"), dmx_break=2)
    scroller = replace(
        scroller, modes=(DraftMode("Dimmer and scroller", tuple(renumbered([channel(scroller, "Dimmer"), changer]))),)
    )
    kinds: tuple[Kind, ...] = ("profile", "Fresnel", "PC", "par", "flood", "cyc")
    return [
        *(starter(kind, kind[0].upper() + kind[1:] if kind != "PC" else "PC", GENERIC) for kind in kinds),
        scroller,
        _generic("par", "RGB par", Standard="Dimmer Shutter1 ColorAdd_R ColorAdd_G ColorAdd_B"),
        _generic("par", "RGBW par", Standard="Dimmer Shutter1 ColorAdd_R ColorAdd_G ColorAdd_B ColorAdd_W"),
        *washes,
        _generic("moving head", "Wheel head", (colour_wheel(), wheel), Standard=f"{HEAD} Color1 Gobo1 Focus1 Zoom"),
        _generic(
            "moving head", "CMY head", (colour_wheel(), wheel, prism_wheel()),
            Standard=f"{HEAD} ColorSub_C ColorSub_M ColorSub_Y Color1 Gobo1 Gobo1Pos Prism1 Iris Frost1 Focus1 Zoom",
        ),
        _generic(
            "mirror scanner", "Scanner", (colour_wheel(), wheel),
            Standard="Pan Tilt Dimmer Shutter1 Color1 Gobo1 Iris",
        ),
        starter("LED batten", "Batten of 8", GENERIC),
        starter("LED panel", "Panel of 16", GENERIC),
        starter("laser", "Laser", GENERIC),
        starter("hazer", "Hazer", GENERIC),
    ]  # fmt: skip
