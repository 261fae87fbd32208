"""Lines of a list that stand for several channels: `3-5 Pixel 1 (red, green, blue)`, `Red 1 ... Red 9`, and dots between
two of a row of channels."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from zarfwright.core.types.manual.blocks import Block
from zarfwright.core.types.manual.names import attribute_of

_BYTES = re.compile(r"(?i)\b(16|24|32)[\s-]?bits?\b|\bfine\b|\bcoarse\b|\bmsb\b|\blsb\b|\b(hi(gh)?|lo(w)?)[ -]?byte\b")
_LISTED = re.compile(r"[(:\[]\s*([^()\[\]]+?)\s*[)\]]?$")
_LETTERS = {
    "r": "red", "g": "green", "b": "blue", "w": "white", "a": "amber", "l": "lime", "c": "cyan", "m": "magenta",
    "y": "yellow", "uv": "uv", "ww": "warm white", "cw": "cold white", "v": "violet",
}  # fmt: skip
_LETTER_RUN = re.compile(
    r"(?<![A-Za-z])((?:uv|ww|cw|[rgbwalcmyv])(?:[\s/+,&-]?(?:uv|ww|cw|[rgbwalcmyv])){1,8})(?![A-Za-z])", re.IGNORECASE
)
_RUN_OF_LETTERS = re.compile(
    r"w?(rgb|cmy|bgr|grb)(w|a|l|y|c|uv|ww|cw|v|m)*|(ww|cw|w|a){2,4}|rg|rb|gb|rw", re.IGNORECASE
)
_LETTER = re.compile(r"uv|ww|cw|[rgbwalcmyv]", re.IGNORECASE)
_RUN = re.compile(
    r"(?i)(?:(?P<word>[a-z][a-z ]*?)s?\s*)?#?(?P<a>\d{1,3})\s*(?:-|\.\.+|…|to|until|thru|through|,?\s*\.\.+,?)\s*(?:(?P<again>[a-z][a-z ]*?)\s*)?#?(?P<b>\d{1,3})\b"
)


@dataclass(frozen=True)
class Part:
    """One channel of a line: where its slots are among the line's (from 0), its words, and what is in doubt."""

    places: tuple[int, ...]
    words: str
    doubt: str = ""


def _components(text: str) -> list[str]:
    """The colours or other things that words list, in their order: `RGBW`, `(red, green, blue)`, `R1 G1 B1`."""
    numbered = re.findall(r"(?i)\b(uv|ww|cw|[rgbwalcmyv])(\d{1,3})\b", text)
    if len(numbered) > 1:
        return [f"{letter} {number}" for letter, number in numbered]
    run = _LETTER_RUN.search(text)
    # `Arm` and `bar` are words, whatever their letters stand for.
    if run is not None and run[1].isalpha() and _RUN_OF_LETTERS.fullmatch(run[1]) is None:
        run = None
    if run is not None and re.search(r"(?i)[rcw]", run[1]) and not re.search(r"(?i)\b(dim|pan|tilt)", text):
        return [_LETTERS[one.lower()] for one in _LETTER.findall(run[1])]
    inside = _LISTED.search(text)
    said = inside[1] if inside else text
    parts = [part.strip() for part in re.split(r"[,;/+&]|\band\b", said) if part.strip()]
    if len(parts) == 1:
        words = said.split()
        parts = words if len(words) > 1 and all(attribute_of(w).attribute.startswith("Color") for w in words) else parts
    known = [attribute_of(part) for part in parts]
    return parts if len(parts) > 1 and all(one.known and not one.fine for one in known) else []


def _before(text: str, parts: Sequence[str]) -> str:
    """What stands before a list of things: the cell, or nothing."""
    cut = min((text.lower().find(part.lower()) for part in parts if part.lower() in text.lower()), default=-1)
    run = _LETTER_RUN.search(text)
    if run is not None and (cut < 0 or len(parts) == len(_LETTER.findall(run[1]))):
        cut = run.start()
    head = text[: max(cut, 0)]
    return re.sub(r"[\s(:\[-]+$", "", head)


def _run_of(words: str, count: int) -> list[Part]:
    """`Pixel 2-9 RGB`, `Red 1 ... Red 9`: things counted through, each with its colours."""
    run = _RUN.search(words)
    if run is None or (
        run["again"] and run["word"] and run["again"].strip().casefold() != run["word"].strip().casefold()
    ):
        return []
    first, last = int(run["a"]), int(run["b"])
    many = last - first + 1
    if many < 2 or count % many:
        return []
    word = (run["word"] or "pixel").strip()
    of, _, what = word.rpartition(" of ")
    word = what or word
    rest = f"{of} " if of else ""
    rest += f"{words[: run.start()]} {words[run.end() :]}".strip(" :()-,")
    parts = _components(rest)
    each = count // many
    if not parts and each == 1:
        name = word if not rest else f"{rest} {word}"
        return [Part((k,), f"{name} {first + k}") for k in range(many)]
    if len(parts) != each:
        return []
    return [Part((k * each + i,), f"{word} {first + k} {part}") for k in range(many) for i, part in enumerate(parts)]


def _one_slot(words: str) -> Part:
    colours = _components(words)
    kinds = {attribute_of(one).attribute for one in colours}
    # `Green/magenta` is one thing, and so is a colour said in two tongues.
    if (
        len(kinds) > 1
        and attribute_of(words).attribute not in ("Tint", "ColorMixMSpeed")
        and all(attribute_of(one).attribute.startswith("Color") for one in colours)
    ):
        return Part((0,), words, f"it names {len(colours)} colours, and has one slot")
    return Part((0,), words)


def parts_of(words: str, count: int) -> list[Part]:
    """What a line of `count` slots stands for; one channel of all of them where nothing else is said."""
    if count < 2:
        return [_one_slot(words)]
    if run := _run_of(words, count):
        return run
    parts = _components(words)
    kinds = {attribute_of(part).attribute for part in parts}
    # `Pan/Tilt speed` is one thing.
    whole_thing = attribute_of(words).attribute
    one = whole_thing not in kinds or whole_thing.endswith("MSpeed")
    one_thing = len(parts) == 2 and not _LISTED.search(words) and one
    if len(parts) == count and not one_thing:
        before = _before(words, parts)
        return [Part((i,), f"{before} {part}".strip()) for i, part in enumerate(parts)]
    whole = tuple(range(count))
    if parts and count == 2 * len(parts):
        doubt = "" if _BYTES.search(words) else f"{count} slots for {len(parts)} things: taken as 16 bits each"
        before = _before(_BYTES.sub("", words), parts)
        return [Part((2 * i, 2 * i + 1), f"{before} {part}".strip(), doubt) for i, part in enumerate(parts)]
    if count > 4:
        return [
            Part((i,), words, f"{count} slots stand in one line, and what each does is not told apart") for i in whole
        ]
    if count > 2 and not _BYTES.search(words):
        return [Part(whole, words, f"it takes {count} slots, and was taken as one of {8 * count} bits")]
    return [Part(whole, words)]


def _number(words: str) -> int | None:
    found = re.search(r"\d{1,3}", words)
    return int(found[0]) if found else None


LEFT_OUT = "the list leaves it out with dots: it was counted on from those around"


def filled(blocks: Sequence[Block]) -> list[Block]:
    """Blocks with those that dots stand for: counted on from the ones before to the ones behind."""
    made: list[Block] = []
    for block in blocks:
        if block.follows_gap and made:
            made += _between(made, block)
        made.append(block)
    return made


def _between(before: Sequence[Block], block: Block) -> list[Block]:
    """The blocks between the last and `block`, where numbers in names and slots go on in step."""
    last_number, number = _number(before[-1].name), _number(block.name)
    if last_number is None or number is None or number <= last_number + 1:
        return []
    unit: list[Block] = []
    for one in reversed(before):
        if one.section != block.section or _number(one.name) != last_number:
            break
        unit.insert(0, one)
    steps = number - last_number
    made = []
    for k in range(1, steps):
        for one in unit:
            slots: list[list[int] | None] = []
            for mine, theirs in zip(unit[0].slots, block.slots, strict=True):
                own = one.slots[unit[0].slots.index(mine)] if mine is not None else None
                if mine is None or theirs is None or own is None or (theirs[0] - mine[0]) % steps:
                    slots.append(None)
                else:
                    slots.append([s + k * (theirs[0] - mine[0]) // steps for s in own])
            name = re.sub(r"\d{1,3}", str(last_number + k), one.name, count=1)
            made.append(
                replace(one, name=name, slots=slots, line=block.line, doubt=LEFT_OUT, rows=[], lines=[], about=[])
            )
    return [one for one in made if any(one.slots)]
