"""What a comparison says, as text to be kept: line by line, with everything that was odd."""

from __future__ import annotations

from zarfwright.core.exchange.compare import Comparison

HEADINGS = (
    ("added", "Added"), ("changed", "Changed"), ("removed", "Removed"), ("left out", "Left out of the file"),
    ("kept", "In the show, and not in the file"),
)  # fmt: skip


def report_of(name: str, show: str, compared: Comparison) -> str:
    """The report of a file beside a show."""
    lines = [f"{name} beside {show}", ""]
    counts = [f"{compared.count(change)} {change}" for change, _ in HEADINGS if compared.count(change)]
    lines += [f"{', '.join(counts) or 'nothing is different'}; {compared.same} the same", ""]
    if compared.types:
        lines += ["Types"]
        lines += [
            f"  {one.wanted.fixtures} x {one.wanted.found.name}: {one.chosen.name}, for {one.chosen.reason}"
            for one in compared.types
        ]
        lines += [""]
    for change, heading in HEADINGS:
        of = [line for line in compared.lines if line.change == change]
        if of:
            lines += [heading, *(f"  {line.name}: {line.text}" for line in of), ""]
    if compared.findings:
        lines += ["What is odd in the file", *(f"  {where}: {what}; {done}" for where, what, done in compared.findings)]
    return "\n".join(lines).rstrip() + "\n"
