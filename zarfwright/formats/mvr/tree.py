"""The XML of a scene, safely parsed."""

from __future__ import annotations

from xml.etree.ElementTree import Element, ParseError, fromstring
from xml.parsers.expat import ExpatError

from defusedxml.common import DTDForbidden

from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf.read import require_no_doctype

DEPTH_MAX = 200


def _require_shallow(root: Element, file_name: str) -> None:
    """Refuse what is nested deeper than any scene: whatever walks through it afterwards may go by itself."""
    level, depth = [root], 0
    while level:
        level = [child for node in level for child in node]
        depth += 1
        if depth > DEPTH_MAX:
            raise FormatError(f"{file_name}: its description is nested more than {DEPTH_MAX} deep.")


def parse_scene(text: bytes, file_name: str) -> Element:
    """The root of a GeneralSceneDescription.xml. Raises FormatError."""
    # Some programs end it as they end their own texts, with a zero.
    if not text.startswith((b"\xff\xfe", b"\xfe\xff")):
        text = text.rstrip(b"\0 \r\n\t")
    try:
        require_no_doctype(text)
        root = fromstring(text)
    except (ParseError, ExpatError) as wrong:
        line = wrong.position[0] if isinstance(wrong, ParseError) else wrong.lineno
        raise FormatError(f"{file_name}: its description is not XML that can be read (line {line}).") from wrong
    except (DTDForbidden, ValueError, LookupError) as wrong:
        raise FormatError(
            f"{file_name}: its description is not XML that can be read: it has a document type, or an encoding that "
            "no MVR file has."
        ) from wrong
    _require_shallow(root, file_name)
    if root.tag.startswith("{"):
        # A namespace says nothing that the names do not.
        for node in root.iter():
            node.tag = node.tag.rpartition("}")[2]
    if root.tag != "GeneralSceneDescription":
        raise FormatError(f"{file_name}: its description is of something else (“{root.tag[:40]}”).")
    return root
